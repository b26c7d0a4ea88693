import { large, standing, there, stray, undoing, building, leavingOne, type Case } from './standing';

/** What may be undone or retired. */
export const OF_WHOLES: readonly Case[] = [
  ['back to how it was', 'undo', { version: 1 }, undoing],
  ['back to what was not', 'undo', { version: 9 }, standing],
  ['all of it', 'retire', {}, standing],
  [
    'all of it, with others in the network',
    'retire',
    {},
    { ...standing, environment: standing.environment && { ...standing.environment, shares: true } },
  ],
  ['what is not there', 'retire', {}, large],
  [
    'what is half there',
    'retire',
    {},
    {
      ...there('host:desks:2'),
      present: there('host:desks:2').present.filter((one) => one.kind !== 'publication'),
    },
  ],
  ['what holds a stray', 'retire', {}, stray],
  [
    'back to how it was while the new ones are being built',
    'undo',
    { version: 1 },
    { ...building, environment: undoing.environment && { ...building.environment, ...undoing.environment } },
  ],
  ['all of it while some are being built', 'retire', {}, building],
  ['all of it while one goes already', 'retire', {}, leavingOne],
  [
    'what was retired and goes on going',
    'retire',
    {},
    { ...standing, known: standing.known.map((one) => ({ ...one, wanted: false, unsettled: true })) },
  ],
  ['of what is not there', 'undo', { version: 1 }, large],
  [
    'back to a host that is going',
    'undo',
    { version: 1 },
    {
      ...leavingOne,
      environment: leavingOne.environment && {
        ...leavingOne.environment,
        ...(standing.environment ? { earlier: standing.environment.intent } : {}),
      },
    },
  ],
];
