import { markOf, readRecipe, stepLine, type RecipeStep } from './recipe';

export interface Changed {
  readonly what: string;
  readonly how: 'new' | 'gone' | 'otherwise';
  /** What it was, where it is otherwise. */
  readonly before: string;
}

/** Programs are written with their version last: `Tallybrook 4.2`. */
export function parted(program: string): [name: string, version: string] {
  const at = program.lastIndexOf(' ');
  return at < 0 ? [program, ''] : [program.slice(0, at), program.slice(at + 1)];
}

/** What is on one capture and not on another, by program; in order of name. */
export function comparePrograms(before: readonly string[], after: readonly string[]): Changed[] {
  const was = new Map(before.map(parted));
  const is = new Map(after.map(parted));
  const all = [...new Set([...was.keys(), ...is.keys()])].sort();
  return all.flatMap((name): Changed[] => {
    const [old, now] = [was.get(name), is.get(name)];
    if (old === now) return [];
    if (old === undefined) return [{ what: `${name} ${now ?? ''}`.trim(), how: 'new', before: '' }];
    if (now === undefined) return [{ what: `${name} ${old}`.trim(), how: 'gone', before: '' }];
    return [{ what: `${name} ${now}`, how: 'otherwise', before: old }];
  });
}

/**
 * Which steps one recipe has that another has not, in order. A step that does the same thing to something else (the same
 * program in another version, the same value) is otherwise; what only moved is no change.
 */
export function compareRecipes(before: string, after: string): Changed[] {
  const [was, is] = [stepsOf(before), stepsOf(after)];
  const gone = was.filter((one) => !is.some((other) => markOf(other) === markOf(one)));
  const fresh = is.filter((one) => !was.some((other) => markOf(other) === markOf(one)));
  const about = (step: RecipeStep): string =>
    `${step.verb} ${step.verb === 'install' ? parted(step.what)[0] : step.what}`;
  const changes: Changed[] = [];
  for (const step of fresh) {
    const at = gone.findIndex((one) => about(one) === about(step));
    const [old] = at < 0 ? [] : gone.splice(at, 1);
    changes.push({
      what: stepLine(step),
      how: old ? 'otherwise' : 'new',
      before: old ? stepLine(old) : '',
    });
  }
  return [...changes, ...gone.map((one): Changed => ({ what: stepLine(one), how: 'gone', before: '' }))];
}

function stepsOf(recipe: string): readonly RecipeStep[] {
  const read = readRecipe(recipe);
  return read.ok ? read.value : [];
}
