import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  currentOf,
  dropped,
  lineOf,
  intentOf,
  madeCurrent,
  versionFor,
  withoutOldest,
  type ImageLine,
} from '../../src/core/images';
import {
  comparePrograms,
  compareRecipes,
  goesOnFrom,
  markOf,
  readRecipe,
  expandRecipe,
  MOST_RECIPE_BYTES,
  namesUsed,
  readSaved,
  STEP_VERB_KEYS,
  stepLine,
  writeRecipe,
  type RecipeStep,
  hideSecrets,
  secretsIn,
  withSecrets,
} from '../../src/core/recipes';
import { carriedOut, facts, proposed } from './setup/facts';

const steps = (text: string): readonly RecipeStep[] => {
  const read = readRecipe(text);
  if (!read.ok) throw new Error(JSON.stringify(read.problem));
  return read.value;
};
const faults = (text: string): string[] => {
  const read = readRecipe(text);
  return read.ok ? [] : read.problem.map((one) => `${one.line}:${one.column} ${one.says}`);
};

/** Text that a line of YAML may hold in any way that it has to be written. */
const line = fc.string({ minLength: 1, maxLength: 40 }).filter((one) => one.trim() === one && one !== '');
const step: fc.Arbitrary<RecipeStep> = fc
  .record({
    verb: fc.constantFrom(...STEP_VERB_KEYS.filter((one) => one !== 'use')),
    what: line,
    to: line,
    holds: fc.oneof(fc.constant(''), line),
    minutes: fc.integer({ min: 1, max: 240 }),
    tries: fc.integer({ min: 1, max: 5 }),
  })
  .map((one) => (one.verb === 'copy' || one.verb === 'set' ? one : { ...one, to: '' }));

describe('a recipe', () => {
  it('is read with what is usual filled in', () =>
    expect(steps('steps:\n  - install: Tallybrook 4.2\n  - set: lock\n    to: 10\n    tries: 2\n')).toEqual([
      { verb: 'install', what: 'Tallybrook 4.2', to: '', holds: '', minutes: 30, tries: 1 },
      { verb: 'set', what: 'lock', to: '10', holds: '', minutes: 5, tries: 2 },
    ]));

  it('is the same when it is written and read again', () =>
    fc.assert(
      fc.property(fc.array(step, { minLength: 1, maxLength: 12 }), (recipe) => {
        expect(steps(writeRecipe(recipe))).toEqual(recipe);
      }),
    ));

  it('may be as long as it may, and no byte longer', () => {
    const long = (bytes: number): string => {
      const empty = 'steps:\n  - run: a\n#';
      return empty + 'x'.repeat(bytes - empty.length);
    };
    expect(readRecipe(long(MOST_RECIPE_BYTES)).ok).toBe(true);
    expect(faults(long(MOST_RECIPE_BYTES + 1))).toEqual(['1:1 is longer than 20000 bytes']);
  });

  it('tells a hundred faults, and keeps a long line in one', () => {
    expect(faults(`steps:\n${'  - weld: a\n'.repeat(59)}`)).toHaveLength(100);
    const said = 'a word '.repeat(14).trim();
    expect(writeRecipe(steps(`steps:\n  - check: ${said}\n`)).split('\n')).toHaveLength(3);
  });

  it('finds a badly named secret wherever in a step it is', () => {
    for (const at of ['install: A 1\n    holds: "{secret:B}"', 'set: "{secret:B}"\n    to: x'])
      expect(faults(`steps:\n  - ${at}`)).toEqual([
        '2:5 a secret is named in small letters, digits and hyphens',
      ]);
  });

  it('is told by its first line that says something', () =>
    expect(steps('steps:\n  - run: |\n\n      tidy\n      up\n').map(stepLine)).toEqual(['run tidy …']));

  it.each([
    ['', '1:1 begins with "steps:", and a list of them'],
    ['steps: []', '1:1 a recipe has at least one step'],
    ['steps:\n  - install: A 1\n    check: b', '2:5 does one thing only: make two steps of it'],
    ['steps:\n  - minutes: 5', '2:5 does one thing: install, copy, set, run, wait, check, use'],
    ['steps:\n  - copy: a', '2:5 copy says where with "to"'],
    ['steps:\n  - run: a\n    to: b', '2:5 run has no "to"'],
    ['steps:\n  - run: a\n    minutes: 500', '3:5 must be less than or equal to 240'],
    ['steps:\n  - run: a\n    often: 5', '3:5 is not known here'],
    ['steps:\n  - install:\n', '2:5 is empty'],
    ['steps: [', '1:9'],
    [`steps:\n${'  - run: a\n'.repeat(61)}`, '1:1 must contain less than or equal to 60 items'],
    [`steps:\n${`  - run: ${'a'.repeat(390)}\n`.repeat(55)}`, '1:1 is longer than 20000 bytes'],
  ])('%j is refused where it is wrong', (text, says) => expect(faults(text)[0]).toContain(says));

  // YAML 1.2, example 7.4 and on: an alias repeats what it names; one that repeats itself a thousandfold is an attack.
  it('that grows a thousandfold when it is read is refused', () => {
    const bomb = ['a: &a [x,x,x,x,x,x,x,x,x]'];
    for (let n = 1; n < 9; n++) {
      const [before, own] = [String.fromCharCode(96 + n), String.fromCharCode(97 + n)];
      bomb.push(`${own}: &${own} [${Array(9).fill(`*${before}`).join(',')}]`);
    }
    expect(faults(bomb.join('\n'))).toEqual(['1:1 it repeats itself too often']);
  });

  it('is told in a line a step', () =>
    expect(
      steps('steps:\n  - run: |\n      one\n      two\n  - copy: a\n    to: /b\n  - set: c\n    to: d\n').map(
        stepLine,
      ),
    ).toEqual(['run one …', 'copy a to /b', 'set c = d']));
});

describe('saved steps', () => {
  const BASE = 'steps:\n  - set: lock\n    to: 10\n  - check: it runs\n';

  it('stand where a recipe uses them, in order, as often as it does', () => {
    const recipe = 'steps:\n  - install: Tallybrook 4.2\n  - use: base\n  - run: a\n  - use: base\n';
    const whole = expandRecipe(recipe, { base: BASE, other: 'steps:\n  - run: b\n' });
    expect(whole.ok && steps(whole.value).map(stepLine)).toEqual([
      'install Tallybrook 4.2',
      'set lock = 10',
      'check it runs',
      'run a',
      'set lock = 10',
      'check it runs',
    ]);
  });

  it('leave a recipe that uses none as it is written, comments and all', () => {
    const recipe = '# why\nsteps:\n  - run: a # because\n';
    expect(expandRecipe(recipe, { base: BASE })).toEqual({ ok: true, value: recipe });
  });

  it('are missed by name, and counted with all that uses them', () => {
    const twice = 'steps:\n  - use: base\n  - use: none\n  - use: none\n  - use: other\n';
    expect(expandRecipe(twice, { base: BASE })).toMatchObject({
      ok: false,
      problem: 'uses saved steps that are not kept: none, other',
    });
    const many = `steps:\n${'  - use: base\n'.repeat(31)}`;
    expect(expandRecipe(many, { base: BASE })).toMatchObject({
      ok: false,
      problem: 'is 62 steps with those that it uses: at most 60',
    });
    expect(expandRecipe(`steps:\n${'  - use: base\n'.repeat(30)}`, { base: BASE }).ok).toBe(true);
  });

  it('are missed too where their name is one that any object has', () =>
    expect(expandRecipe('steps:\n  - use: constructor\n', {})).toEqual({
      ok: false,
      problem: 'uses saved steps that are not kept: constructor',
    }));

  it('are never left out in silence: what cannot be used any more is told, and so is a recipe that is none', () => {
    expect(expandRecipe('steps:\n  - use: old\n', { old: 'steps:\n  - weld: it\n' })).toEqual({
      ok: false,
      problem: 'uses saved steps that cannot be used any more: old',
    });
    expect(expandRecipe('steps:\n  - copy: a\n  - set: b\n', {})).toEqual({
      ok: false,
      problem: 'line 2: copy says where with "to"; line 3: set says where with "to"',
    });
  });

  it('may be twenty, and their fault stands at their beginning', () => {
    expect(readSaved(`steps:\n${'  - run: a\n'.repeat(20)}`).ok).toBe(true);
    const read = readSaved('steps:\n  - use: base\n');
    expect(read.ok ? [] : read.problem).toEqual([
      { line: 1, column: 1, path: '', says: 'saved steps use no others' },
    ]);
  });

  it.each([
    ['steps:\n  - use: base\n', 'saved steps use no others'],
    [`steps:\n${'  - run: a\n'.repeat(21)}`, 'are more than 20'],
    ['steps: []', 'a recipe has at least one step'],
  ])('are refused: %j', (text, says) => {
    const read = readSaved(text);
    expect(read.ok ? [] : read.problem.map((one) => one.says)).toEqual([says]);
  });

  it.each([
    ['steps:\n  - use: Base', 'small letters, digits and hyphens, a letter first, 32 at most'],
    ['steps:\n  - use: base\n    tries: 2', 'saved steps say themselves what holds, how long, and how often'],
    ['steps:\n  - use: base\n    to: x', 'saved steps say themselves what holds, how long, and how often'],
  ])('are used by their name alone: %j', (text, says) => expect(faults(text).join()).toContain(says));

  it('are the same when the recipe is written and read again', () => {
    const recipe = steps('steps:\n  - use: base\n  - run: a\n');
    expect(steps(writeRecipe(recipe))).toEqual(recipe);
    expect(namesUsed(recipe)).toEqual(['base']);
  });
});

describe('a secret of a recipe', () => {
  const named =
    'steps:\n  - run: activate {secret:licence-key} {secret:site}\n  - set: key\n    to: "{secret:licence-key}"\n';

  it('is named, found where it is named, and put in its place only when it is needed', () => {
    const recipe = steps(named);
    expect(secretsIn(recipe)).toEqual(['licence-key', 'site']);
    const secrets = new Map([
      ['licence-key', 'K-1234'],
      ['site', 'K-12'],
    ]);
    expect(withSecrets(recipe[0]?.what ?? '', secrets)).toBe('activate K-1234 K-12');
    expect(withSecrets('{secret:none}', secrets)).toBe('{secret:none}');
    // What tells a step again names it.
    expect(markOf(recipe[1] as RecipeStep)).toContain('{secret:licence-key}');
    expect(withSecrets('$& $1 {secret:a}', new Map([['a', '$& $1']]))).toBe('$& $1 $& $1');
  });

  it('is hidden in what a step wrote, the longer one first', () => {
    const secrets = new Map([
      ['site', 'K-12'],
      ['licence-key', 'K-1234'],
      ['none', ''],
    ]);
    expect(hideSecrets('used K-1234 at K-12, K-1234', secrets)).toBe(
      'used {secret:licence-key} at {secret:site}, {secret:licence-key}',
    );
  });

  it('that is badly named is told at its line', () => {
    const read = readRecipe('steps:\n  - check: it starts\n  - run: use {secret:Licence Key}\n');
    expect(read.ok ? [] : read.problem.map(({ line, says }) => [line, says])).toEqual([
      [3, 'a secret is named in small letters, digits and hyphens'],
    ]);
  });
});

describe('a build that goes on', () => {
  const recipe = steps('steps:\n  - run: one\n  - run: two\n  - run: three\n');
  const marks = recipe.map(markOf);

  it('begins with the first step that is not on the machine', () =>
    expect([0, 1, 2, 3].map((n) => goesOnFrom(marks.slice(0, n), recipe))).toEqual([0, 1, 2, 3]));

  it('does so whatever is changed behind that, and however limits and tries are changed before', () =>
    fc.assert(
      fc.property(fc.array(step, { minLength: 1, maxLength: 8 }), fc.nat(8), step, (all, n, other) => {
        const at = Math.min(n, all.length);
        const done = all.slice(0, at).map(markOf);
        const mended = [...all.slice(0, at).map((one) => ({ ...one, minutes: 7, tries: 3 })), other];
        expect(goesOnFrom(done, mended)).toBe(at);
      }),
    ));

  it('takes another machine when what is on it is otherwise now, or gone from the recipe', () => {
    expect(goesOnFrom([markOf({ ...(recipe[0] as RecipeStep), what: 'another' })], recipe)).toBeUndefined();
    expect(goesOnFrom(marks, recipe.slice(0, 2))).toBeUndefined();
  });
});

describe('what changed', () => {
  it('is told by program', () =>
    expect(
      comparePrograms(['Alder 1', 'Birch 2.1', 'Cedar 3'], ['Alder 1', 'Birch 2.2', 'Dogwood 4']),
    ).toEqual([
      { what: 'Birch 2.2', how: 'otherwise', before: '2.1' },
      { what: 'Cedar 3', how: 'gone', before: '' },
      { what: 'Dogwood 4', how: 'new', before: '' },
    ]));

  it('is told of each version of a program that is there in several', () => {
    expect(comparePrograms(['Alder 1', 'Alder 2'], ['Alder 2'])).toEqual([
      { what: 'Alder 1', how: 'gone', before: '' },
    ]);
    expect(comparePrograms(['Alder 2'], ['Alder 1', 'Alder 2'])).toEqual([
      { what: 'Alder 1', how: 'new', before: '' },
    ]);
    expect(comparePrograms(['Alder 1', 'Alder 2'], ['Alder 3', 'Alder 1'])).toEqual([
      { what: 'Alder 3', how: 'otherwise', before: '2' },
    ]);
  });

  it('is told by step, and what only moved is no change', () => {
    const before = 'steps:\n  - install: Birch 2.1\n  - set: lock\n    to: 5\n  - run: old\n';
    const after = 'steps:\n  - set: lock\n    to: 10\n  - install: Birch 2.1\n  - check: Birch starts\n';
    expect(compareRecipes(before, after)).toEqual([
      { what: 'set lock = 10', how: 'otherwise', before: 'set lock = 5' },
      { what: 'check Birch starts', how: 'new', before: '' },
      { what: 'run old', how: 'gone', before: '' },
    ]);
  });

  it('is nothing between a recipe and itself', () =>
    fc.assert(
      fc.property(fc.array(step, { minLength: 1, maxLength: 8 }), (all) => {
        const text = writeRecipe(all);
        expect(compareRecipes(text, text)).toEqual([]);
      }),
    ));
});

describe('the line of an image', () => {
  const versions = (...states: ImageLine['versions'][number]['state'][]): ImageLine => {
    const base = carriedOut(
      proposed(
        'new-image',
        {
          code: 'office',
          name: 'Office',
          says: '',
          site: 'KQ',
          from: 'Ostrel 12 multi-user',
          recipe: 'steps:\n  - run: a\n',
          keep: 2,
          size: 's2x8',
          diskGiB: 96,
          licences: ['Tallybrook'],
        },
        facts,
      ),
      facts,
    );
    const found = base.environment && lineOf(base.environment.intent);
    if (!found) throw new Error('no image');
    return {
      ...found,
      versions: states.map((state, n) => ({
        number: n + 1,
        state,
        from: 'Ostrel 12 multi-user',
        recipe: found.recipe,
        sites: ['KQ'],
        machine: false,
        attempt: 1,
        keepUntil: 0,
        note: '',
        byRule: false,
        begunAt: n,
      })),
    };
  };
  const states = (line: ImageLine): string[] => line.versions.map((one) => one.state);

  it('is the same when it is kept as an intent and read again', () => {
    const line = versions('dropped', 'kept', 'current', 'trial');
    expect(lineOf(intentOf(line))).toEqual(line);
    const [first] = line.versions;
    if (!first) throw new Error('there is one');
    const ruled = { ...line, versions: [{ ...first, byRule: true, machine: true, keepUntil: 9 }] };
    expect(lineOf(intentOf(ruled))).toEqual(ruled);
    // What an older version of the program wrote and this one does not know is wanted no more.
    const strange = { ...line, versions: [{ ...first, state: 'tried' as never }] };
    expect(lineOf(intentOf(strange))?.versions[0]?.state).toBe('dropped');
  });

  it('has one current version, whichever is made it, and keeps as many as it is to', () =>
    fc.assert(
      fc.property(fc.array(fc.nat(5), { maxLength: 12 }), fc.array(fc.nat(5)), (made, used) => {
        let line = versions('trial', 'trial', 'trial', 'trial', 'trial', 'trial');
        for (const n of made) {
          if (line.versions[n]?.state === 'dropped') continue;
          line = madeCurrent(line, n + 1, (one) => used.includes(one));
          expect(states(line).filter((one) => one === 'current')).toHaveLength(1);
          expect(line.versions[n]?.state).toBe('current');
          for (const one of used) expect(line.versions[one - 1]?.state).not.toBe('dropped');
          const unused = line.versions.filter((one) => one.state === 'kept' && !used.includes(one.number));
          expect(unused.length).toBeLessThanOrEqual(2);
        }
      }),
    ));

  it('knows which version is current, and that there may be none', () => {
    expect(currentOf(versions('kept', 'current', 'trial'))?.number).toBe(2);
    expect(currentOf(versions('trial', 'kept'))).toBeUndefined();
    expect(dropped(versions('kept').versions[0] as ImageLine['versions'][number])).toMatchObject({
      state: 'dropped',
      sites: [],
      machine: false,
    });
  });

  it('does not grow for ever: of what was dropped the newest stay known', () => {
    const many = Array.from({ length: 30 }, () => 'dropped' as const);
    const line = versions('current', ...many, 'trial');
    expect(withoutOldest(line.versions).map((one) => one.number)).toEqual([
      1,
      ...Array.from({ length: 12 }, (_, n) => n + 20),
      32,
    ]);
  });

  it('tells which version a pool has', () => {
    const all = versions('kept', 'current', 'trial', 'trial', 'dropped').versions;
    expect([versionFor(all, 'current'), versionFor(all, 'trial')]).toEqual([2, 4]);
    expect(versionFor(versions('current').versions, 'trial')).toBe(1);
    expect(versionFor(versions('trial').versions, 'current')).toBeUndefined();
  });
});
