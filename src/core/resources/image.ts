import Joi from 'joi';
import { copySeconds, imageKey, lineOf, versionName, type ImageLine, type ImageVersion } from '../images';
import { readRecipe, STEP_VERBS, stepLine, type RecipeStep } from '../recipes';
import { builderKey } from './builder';
import type { ResourceKind, StepSpec, Wanted } from './kind';

type Image = {
  readonly site: string;
  readonly gib: number;
  /** The machine that it is captured from; empty: it is a copy. */
  readonly machine: string;
  /** The image that it is a copy of; empty: it is captured. */
  readonly copyOf: string;
  /** The steps of its recipe, each as JSON; a copy has none. */
  readonly steps: string[];
};

export const isImage = ({ kind }: { readonly kind: string }): boolean => kind === image.key;

/** A version of an image at a site: captured where it was built, copied to others. */
export const image: ResourceKind<Image> = {
  key: 'image',
  words: { one: 'image', many: 'images' },
  attributes: Joi.object<Image, true>({
    site: Joi.string().required(),
    gib: Joi.number().integer().min(1).required(),
    machine: Joi.string().allow('').required(),
    copyOf: Joi.string().allow('').required(),
    steps: Joi.array().items(Joi.string()).required(),
  }),
  wanted: (intent) => {
    const line = lineOf(intent);
    return line ? line.versions.flatMap((version) => atSites(line, version)) : [];
  },
  // Captured once, it stays what it is.
  differences: () => [],
  steps: (task) => {
    switch (task.do) {
      case 'make':
        return task.wanted.attributes.copyOf === ''
          ? building(task.wanted.attributes)
          : [{ action: 'copy', seconds: copySeconds(task.wanted.attributes.gib) }];
      case 'remove':
        return [{ action: 'remove', seconds: 20 }];
      default:
        return [];
    }
  },
  meters: ({ gib }) =>
    gib === undefined ? [] : [{ meter: 'image', state: 'on', size: null, quantity: gib }],
};

function atSites(line: ImageLine, version: ImageVersion): Wanted<Image>[] {
  const [home = line.site, ...others] = version.sites.length > 0 ? version.sites : [];
  if (version.sites.length === 0) return [];
  const machine = builderKey(version);
  const common = { kind: 'image', name: versionName(line.code, version.number) };
  const gib = line.diskGiB;
  return [
    {
      ...common,
      key: imageKey(version.number, home),
      attributes: { site: home, gib, machine, copyOf: '', steps: stepsOf(version.recipe) },
      needs: [machine],
    },
    ...others.map((site) => ({
      ...common,
      key: imageKey(version.number, site),
      attributes: { site, gib, machine: '', copyOf: imageKey(version.number, home), steps: [] },
      needs: [imageKey(version.number, home)],
    })),
  ];
}

function stepsOf(recipe: string): string[] {
  const read = readRecipe(recipe);
  return read.ok ? read.value.map((step) => JSON.stringify(step)) : [];
}

/** A step as an image's attributes hold it. */
export const recipeStep = (held: string): RecipeStep => JSON.parse(held) as RecipeStep;

/** Nothing is captured that is still written to, that knows who it was, or that has not really stopped. */
const building = ({ steps }: Image): StepSpec[] => [
  ...steps.map(recipeStep).map((step, n) => ({
    action: 'apply',
    part: n + 1,
    about: stepLine(step),
    seconds: STEP_VERBS[step.verb].seconds,
  })),
  { action: 'settle', seconds: 120 },
  { action: 'generalise', seconds: 90 },
  { action: 'stop', seconds: 60 },
  { action: 'capture', seconds: 300 },
];
