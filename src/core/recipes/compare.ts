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
  const [was, is] = [versionsOf(before), versionsOf(after)];
  const all = [...new Set([...was.keys(), ...is.keys()])].sort();
  const written = (name: string, version: string): string => `${name} ${version}`.trim();
  return all.flatMap((name): Changed[] => {
    const old = (was.get(name) ?? []).filter((one) => !is.get(name)?.includes(one));
    const now = (is.get(name) ?? []).filter((one) => !was.get(name)?.includes(one));
    const [from, to] = [old[0], now[0]];
    if (old.length === 1 && now.length === 1 && from !== undefined && to !== undefined)
      return [{ what: written(name, to), how: 'otherwise', before: from }];
    return [
      ...now.map((one): Changed => ({ what: written(name, one), how: 'new', before: '' })),
      ...old.map((one): Changed => ({ what: written(name, one), how: 'gone', before: '' })),
    ];
  });
}

/** Of each program every version that is there: there may be several side by side. */
function versionsOf(programs: readonly string[]): Map<string, string[]> {
  const found = new Map<string, string[]>();
  for (const [name, version] of programs.map(parted)) found.set(name, [...(found.get(name) ?? []), version]);
  return found;
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
