import type { Facts } from '../../../src/core/facts';
import { imageKey } from '../../../src/core/images';
import { markOf, readRecipe } from '../../../src/core/recipes';
import { carriedOut, facts, proposed } from '../setup/facts';
import { standing, type Case } from './standing';

/* An image of our own: begun, at work, stopped, captured, and in use. */

export const RECIPE = `steps:
  - install: Tallybrook 4.2
    holds: Tallybrook starts
  - set: screen lock
    to: 10 min
`;
const OTHER = RECIPE.replace('10 min', '5 min');
const LONGER = `${RECIPE}  - check: Tallybrook starts\n`;
const ELSE = RECIPE.replace('4.2', '4.1');

const begun = {
  code: 'office',
  name: 'Office',
  says: '',
  site: 'KQ',
  from: 'Ostrel 12 multi-user',
  recipe: RECIPE,
  keep: 1,
  size: 's2x8',
  diskGiB: 96,
  licences: [],
};
const priced: Facts['rates'] = [
  ...facts.rates,
  { meter: 'image', size: null, unit: 'month', price: '0.03', from: 0, to: null },
];
const sites = [
  { code: 'KQ', name: 'Kelp Quay', signIn: { worked: true, says: 'signed in' } },
  { code: 'NL', name: 'Norrlight', signIn: { worked: true, says: 'signed in' } },
  { code: 'TF', name: 'Tor Field', signIn: { worked: false, says: 'the secret is wrong' } },
];
const ours: Facts = {
  ...facts,
  rates: priced,
  customer: { ...facts.customer, code: 'MSP', realm: '', environments: ['services-kq'] },
};
const withSites = (from: Facts): Facts => ({ ...from, image: { uses: [], sites } });

/** A change carried out, with what it makes standing. */
const done = (kind: string, input: object, from: Facts): Facts =>
  withSites(carriedOut(proposed(kind, input, from), from));

const empty = done('new-image', begun, ours);
/** Captured, and the machine that it was built on stands still. */
export const captured = done('build-image', { note: 'the first' }, empty);
/** The machine is gone. */
export const first = done('end-build', { version: 1 }, captured);
const current = done('make-current', { version: 1 }, first);
const second = done('end-build', { version: 2 }, done('build-image', { note: 'the second' }, current));

/** Its machine stands with so many steps on it, and nothing is captured. */
const stoppedAfter = (steps: number, recipe = RECIPE): Facts => {
  const read = readRecipe(recipe);
  const applied = read.ok ? read.value.slice(0, steps).map(markOf) : [];
  return {
    ...captured,
    present: captured.present.flatMap((one) =>
      one.key === imageKey(1, 'KQ')
        ? []
        : one.kind === 'builder'
          ? [{ ...one, attributes: { ...one.attributes, applied } }]
          : [one],
    ),
  };
};
const mended = (recipe: string, from: Facts): Facts =>
  withSites({ ...done('write-recipe', { recipe }, from), present: from.present });
const used = (version: string, from: Facts): Facts => ({
  ...from,
  image: {
    sites,
    uses: [{ version, customer: 'SVG', environment: 'clinic', environmentId: 'e', pool: 'pilot', hosts: 2 }],
  },
});
const onOffice: Facts = {
  ...standing,
  site: {
    ...standing.site,
    images: [
      ...standing.site.images,
      {
        name: 'office@1',
        diskGiB: 96,
        of: { line: 'office', number: 1, state: 'current', at: 0, licences: [], programs: [] },
      },
    ],
    imagesElsewhere: [
      {
        name: 'office@2',
        diskGiB: 96,
        of: { line: 'office', number: 2, state: 'trial', at: 0, licences: [], programs: [] },
      },
    ],
  },
};

export const OF_IMAGES: readonly Case[] = [
  ['of an image that there is not yet', 'new-image', begun, ours],
  [
    'of an image that is there',
    'new-image',
    begun,
    { ...ours, customer: { ...ours.customer, environments: ['office'] } },
  ],
  [
    'of a recipe with faults',
    'new-image',
    { ...begun, recipe: 'steps:\n  - install: A 1\n    to: b\n' },
    ours,
  ],
  ['from what is not at its site', 'new-image', { ...begun, from: 'Ostrel 9' }, ours],
  ['on a disk that is too small', 'new-image', { ...begun, diskGiB: 32 }, ours],
  ['on a size that is not had there', 'new-image', { ...begun, size: 's9' }, ours],
  ['of another recipe', 'write-recipe', { recipe: OTHER }, empty],
  ['of no recipe', 'write-recipe', { recipe: 'steps: []\n' }, empty],
  ['of what is no image', 'write-recipe', { recipe: OTHER }, standing],
  ['the first version', 'build-image', { note: 'the first' }, empty],
  ['without saying why', 'build-image', { note: '' }, empty],
  ['a second at the same time', 'build-image', { note: 'too many' }, captured],
  ['the next version', 'build-image', { note: 'the second' }, current],
  ['what stopped after a step', 'go-on', { version: 1 }, stoppedAfter(1)],
  ['what stopped, a later step mended', 'go-on', { version: 1 }, mended(LONGER, stoppedAfter(1))],
  ['what stopped, an earlier step mended', 'go-on', { version: 1 }, mended(ELSE, stoppedAfter(1))],
  [
    'what stopped, its machine gone',
    'go-on',
    { version: 1 },
    { ...stoppedAfter(1), present: stoppedAfter(1).present.filter((one) => one.kind !== 'builder') },
  ],
  ['what is captured', 'go-on', { version: 1 }, captured],
  ['of what is captured', 'end-build', { version: 1 }, captured],
  ['of what is not captured', 'end-build', { version: 1 }, stoppedAfter(1)],
  [
    'of what is at work',
    'end-build',
    { version: 1 },
    { ...stoppedAfter(1), known: stoppedAfter(1).known.map((one) => ({ ...one, unsettled: true })) },
  ],
  ['of what there is not', 'end-build', { version: 7 }, captured],
  ['what nobody tried', 'make-current', { version: 1 }, first],
  ['what a pilot tried', 'make-current', { version: 2 }, used('office@2', second)],
  ['what is not captured yet', 'make-current', { version: 1 }, stoppedAfter(2)],
  ['what is current', 'make-current', { version: 1 }, current],
  ['back to the one before', 'make-current', { version: 1 }, done('make-current', { version: 2 }, second)],
  ['so that there are too many', 'make-current', { version: 3 }, thirdCaptured()],
  [
    'so that there are too many, one in use',
    'make-current',
    { version: 3 },
    used('office@1', thirdCaptured()),
  ],
  [
    'on the second Tuesday',
    'refresh-by-rule',
    {
      refresh: {
        rule: 'FREQ=MONTHLY;BYDAY=2TU',
        after: 4,
        time: '06:00',
        zone: 'Europe/Dublin',
        country: 'IE',
      },
    },
    current,
  ],
  [
    'by what is no rule',
    'refresh-by-rule',
    { refresh: { rule: 'FREQ=DAILY', after: 4, time: '06:00', zone: 'Europe/Dublin', country: '' } },
    current,
  ],
  ['no more', 'refresh-by-rule', { refresh: null }, current],
  ['what nobody needs', 'drop-version', { version: 2 }, second],
  ['what hosts stand on', 'drop-version', { version: 2 }, used('office@2', second)],
  ['what is current', 'drop-version', { version: 1 }, current],
  ['what is being built', 'drop-version', { version: 1 }, captured],
  ['to another site', 'copy-image', { version: 1, site: 'NL' }, current],
  ['to where we are not let in', 'copy-image', { version: 1, site: 'TF' }, current],
  ['to where it is', 'copy-image', { version: 1, site: 'KQ' }, current],
  ['to no site', 'copy-image', { version: 1, site: 'XX' }, current],
  ['of what is not captured', 'copy-image', { version: 1, site: 'NL' }, stoppedAfter(1)],
  [
    'of what was dropped',
    'copy-image',
    { version: 1, site: 'NL' },
    done('end-build', { version: 1 }, stoppedAfter(1)),
  ],
  ['of a version of ours', 'use-image', { pool: 'desks', image: 'office@1' }, onOffice],
  [
    'of one that is elsewhere and on trial',
    'use-image',
    { pool: 'desks', image: 'office@2', track: 'trial' },
    onOffice,
  ],
  ['of the one that it has', 'use-image', { pool: 'desks', image: 'Ostrel 12 multi-user' }, onOffice],
  ['of what is not there', 'use-image', { pool: 'desks', image: 'Ostrel 9' }, onOffice],
  ['of a pool that there is not', 'use-image', { pool: 'lab', image: 'office@1' }, onOffice],
  [
    'on the current version of ours',
    'provision',
    { environment: 'front', template: 'shared-office', site: 'KQ', people: 4 },
    {
      ...onOffice,
      environment: undefined,
      known: [],
      present: [],
      template: onOffice.template && {
        ...onOffice.template,
        document: {
          ...onOffice.template.document,
          pools: onOffice.template.document.pools.map((pool) => ({ ...pool, image: 'office' })),
        },
      },
    } as Facts,
  ],
];

function thirdCaptured(): Facts {
  const now = done('make-current', { version: 2 }, second);
  return done('end-build', { version: 3 }, done('build-image', { note: 'the third' }, now));
}
