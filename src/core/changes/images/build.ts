import Joi from 'joi';
import type { Facts } from '../../facts';
import {
  currentOf,
  imageKey,
  intentOf,
  ITSELF,
  versionName,
  withoutOldest,
  withVersion,
  type ImageLine,
  type ImageVersion,
} from '../../images';
import { goesOnFrom, readRecipe } from '../../recipes';
import { blocks, defineChange, passes, warns, type Check } from '../../planning';
import { builderKey } from '../../resources';
import { ok, refuse } from '../../result';
import { HOUR } from '../../calendar';
import {
  expanded,
  isCaptured,
  lineIn,
  noteField,
  ofVersion,
  titleOf,
  versionIn,
  type OfVersion,
  secretsCheck,
} from './common';

/** So long its machine stays when something fails, for someone to look; then it is taken away. */
const KEPT_HOURS = 4;

interface Build {
  readonly note: string;
  /** Hours that the machine stays when something fails. */
  readonly keepHours?: number;
  /** Whether its rule asks for it. */
  readonly byRule?: boolean;
}

const keepHours = Joi.number()
  .integer()
  .min(0)
  .max(72)
  .description('When something fails, the machine stays so many hours for someone to look');

/** What the next version begins from; undefined: there is no current one yet. */
function originOf(line: ImageLine): string | undefined {
  if (line.from !== ITSELF) return line.from;
  const current = currentOf(line);
  return current && versionName(line.code, current.number);
}

const isBuilding = (version: ImageVersion): boolean => version.machine;

/** Builds an image's next version by its recipe: on trial, until someone makes it current. */
export const buildImage = defineChange<Build>({
  kind: 'build-image',
  subject: 'environment',
  verb: 'Build',
  input: Joi.object<Build>({
    note: noteField,
    keepHours,
    byRule: Joi.boolean().description('Whether its rule asks for it: pilots try it by themselves'),
  }),
  right: 'build',
  confirm: 'press',
  undo: 'none',
  needs: ['image'],
  title: (_input, facts) => `Build ${titleOf(facts, nextNumber(facts))}`,
  edit: (intent, input, facts) => {
    const line = lineIn(intent);
    if (!line.ok) return line;
    const { value: image } = line;
    const recipe = expanded(image.recipe, facts);
    if (!recipe.ok) return recipe;
    const building = image.versions.find(isBuilding);
    if (building)
      return refuse({ version: `${building.number} is being built: go on with it, or give it up` });
    const from = originOf(image);
    if (from === undefined) return refuse({ from: `${image.name} has no current version to begin from` });
    return ok(
      intentOf({
        ...image,
        versions: [
          ...withoutOldest(image.versions),
          {
            number: nextNumber(facts),
            state: 'trial',
            from,
            recipe: recipe.value,
            sites: sitesOf(image),
            machine: true,
            attempt: 1,
            keepUntil: facts.now + (input.keepHours ?? KEPT_HOURS) * HOUR,
            note: input.note,
            byRule: input.byRule === true,
            begunAt: facts.now,
          },
        ],
      }),
    );
  },
  policy: () => ({ atATime: 3, failureLimit: 1 }),
  checks: (_edited, _input, facts): Check[] => {
    const line = lineIn(facts.environment?.intent ?? null);
    return line.ok ? secretsCheck(line.value.recipe, facts) : [];
  },
  people: () => 0,
});

/** Where the current version is, the next is wanted too. */
const sitesOf = (line: ImageLine): readonly string[] => [
  line.site,
  ...(currentOf(line)?.sites ?? []).filter((site) => site !== line.site),
];

function nextNumber({ environment }: Facts): number {
  const line = lineIn(environment?.intent ?? null);
  return line.ok ? Math.max(0, ...line.value.versions.map((one) => one.number)) + 1 : 1;
}

/** The marks of the steps that are on the machine of a version; undefined: there is no machine. */
function marksOn(facts: Facts, version: ImageVersion): readonly string[] | undefined {
  const machine = facts.present.find((one) => one.key === builderKey(version) && one.condition === 'well');
  const applied = machine?.attributes.applied;
  return machine && (Array.isArray(applied) ? applied.map(String) : []);
}

/** From which step it would go on, from 0; undefined: from the beginning, on another machine. */
function goesOn(facts: Facts, line: ImageLine, version: ImageVersion): number | undefined {
  const whole = expanded(line.recipe, facts);
  const recipe = readRecipe(whole.ok ? whole.value : line.recipe);
  const marks = marksOn(facts, version);
  return recipe.ok && marks ? goesOnFrom(marks, recipe.value) : undefined;
}

/** Goes on with a build that has stopped, by the recipe as it is now: from the first step that is not on the machine. */
export const goOn = defineChange<OfVersion>({
  kind: 'go-on',
  subject: 'environment',
  verb: 'Go on with the build',
  input: ofVersion,
  right: 'build',
  confirm: 'press',
  undo: 'none',
  needs: ['image'],
  title: ({ version }, facts) => `Go on with ${titleOf(facts, version)}`,
  edit: (intent, { version: number }, facts) => {
    const found = versionIn(intent, number);
    if (!found.ok) return found;
    const { line, version } = found.value;
    const recipe = expanded(line.recipe, facts);
    if (!recipe.ok) return recipe;
    if (isCaptured(facts, imageKey(number, line.site)))
      return refuse({ version: `${number} is captured already` });
    const onSame = goesOn(facts, line, version) !== undefined;
    return ok(
      intentOf(
        withVersion(line, number, (one) => ({
          ...one,
          recipe: recipe.value,
          machine: true,
          attempt: onSame || !one.machine ? one.attempt : one.attempt + 1,
          keepUntil: facts.now + KEPT_HOURS * HOUR,
        })),
      ),
    );
  },
  policy: () => ({ atATime: 3, failureLimit: 1 }),
  chosen: ({ version: number }, facts, _kinds) => {
    const found = versionIn(facts.environment?.intent ?? null, number);
    if (!found.ok) return [];
    const { line, version } = found.value;
    const attempt = version.attempt + (goesOn(facts, line, version) === undefined ? 1 : 0);
    return [
      { key: builderKey({ number, attempt }) },
      ...version.sites.map((site) => ({ key: imageKey(number, site) })),
    ];
  },
  checks: (_edited, { version: number }, facts): Check[] => {
    const found = versionIn(facts.environment?.intent ?? null, number);
    if (!found.ok) return [];
    const { line, version } = found.value;
    const from = goesOn(facts, line, version);
    const title = 'Machine';
    const secrets = secretsCheck(line.recipe, facts);
    if (from !== undefined)
      return [
        ...secrets,
        passes('machine', title, `goes on with step ${from + 1}, on the machine that is there`),
      ];
    return [
      ...secrets,
      marksOn(facts, version) === undefined
        ? warns(
            'machine',
            title,
            'is gone: it begins anew',
            'All steps are done again; go on sooner next time, or keep it longer.',
          )
        : warns(
            'machine',
            title,
            'has steps on it that are otherwise now: it begins anew, on another machine',
            'To go on with the same one, change only steps that are not done yet.',
          ),
    ];
  },
  people: () => 0,
});

/** Takes the machine of a build away. A version that was not captured is given up with it. */
export const endBuild = defineChange<OfVersion>({
  kind: 'end-build',
  subject: 'environment',
  verb: 'Take the machine away',
  input: ofVersion,
  right: 'build',
  confirm: 'press',
  undo: 'none',
  title: ({ version }, facts) => `Take away the machine of ${titleOf(facts, version)}`,
  edit: (intent, { version: number }, facts) => {
    const found = versionIn(intent, number);
    if (!found.ok) return found;
    const { line } = found.value;
    const captured = isCaptured(facts, imageKey(number, line.site));
    return ok(
      intentOf(
        withVersion(line, number, (one) =>
          captured ? { ...one, machine: false } : { ...one, state: 'dropped', machine: false, sites: [] },
        ),
      ),
    );
  },
  policy: () => ({ atATime: 1, failureLimit: 1 }),
  checks: (_edited, { version: number }, facts): Check[] => {
    const line = lineIn(facts.environment?.intent ?? null);
    if (!line.ok || isCaptured(facts, imageKey(number, line.value.site))) return [];
    return [
      facts.known.some((one) => one.unsettled && one.key === imageKey(number, line.value.site))
        ? blocks('build', 'Build', 'is at work', 'Stop its run first.')
        : warns(
            'build',
            'Build',
            'nothing was captured yet: the version is given up',
            'Go on with it instead.',
          ),
    ];
  },
  people: () => 0,
});
