import { describe, expect, it } from 'vitest';
import {
  deskStateOf,
  oneCardEach,
  OWN_NOW,
  OWN_STATES,
  ownState,
  type DeskFacts,
  type OwnHost,
} from '../../src/core/desk';
import type { Link } from '../../src/core/grants';

describe('a desktop of one’s own', () => {
  it.each<[string, OwnHost, string]>([
    ['is on', { status: 'serving', isOn: true, wantedOn: true }, 'on'],
    ['goes to sleep', { status: 'serving', isOn: true, wantedOn: false }, 'stopping'],
    ['sleeps', { status: 'off', isOn: false, wantedOn: false }, 'off'],
    ['wakes', { status: 'off', isOn: false, wantedOn: true }, 'starting'],
    [
      'restarts: it takes nobody until it has',
      { status: 'draining', isOn: true, wantedOn: true },
      'restarting',
    ],
    ['does not answer', { status: 'unwell', isOn: true, wantedOn: true }, 'unwell'],
    ['is not there', { status: 'missing', isOn: false, wantedOn: true }, 'unwell'],
  ])('%s', (_what, host, state) => expect(ownState(host)).toBe(state));

  it('can be started only asleep, and restarted or put to sleep only on', () =>
    expect(OWN_STATES.filter((state) => OWN_NOW[state].length > 0).map((one) => [one, OWN_NOW[one]])).toEqual(
      [
        ['on', ['restart', 'sleep']],
        ['off', ['start']],
      ],
    ));
});

describe('the cards of a desk', () => {
  const card = (
    name: string,
    pool: string,
    state: 'ready' | 'full' | 'in',
    kind: 'app' | 'desktop' = 'app',
  ) => ({
    name,
    pool,
    kind,
    state,
    environmentId: 'e',
    favourite: pool === 'first',
  });
  it('show an app once, for where it goes best now, and keep it the favourite', () =>
    expect(oneCardEach([card('Tallybrook', 'first', 'full'), card('Tallybrook', 'second', 'ready')])).toEqual(
      [{ ...card('Tallybrook', 'second', 'ready'), favourite: true }],
    ));
  it('show each desktop by itself', () =>
    expect(
      oneCardEach([
        card('Full desktop', 'a', 'ready', 'desktop'),
        card('Full desktop', 'b', 'in', 'desktop'),
      ]),
    ).toHaveLength(2));
});

describe('how an item is for whoever wants in', () => {
  const missing = (link: Link['link'], mend: Link['mend']): Link => ({
    link,
    holds: false,
    says: '',
    ...(mend === undefined ? {} : { mend }),
  });
  const on = { status: 'serving', isOn: true, wantedOn: true } as const;
  const facts = (over: Partial<DeskFacts>): DeskFacts => ({
    isIn: false,
    missing: undefined,
    startSeconds: 120,
    ...over,
  });
  it.each<[string, Partial<DeskFacts>, string, string]>([
    ['nothing is missing', {}, 'ready', 'Ready'],
    ['they are in', { isIn: true, missing: missing('host', 'hosts') }, 'in', 'You are signed in'],
    ['their own is on', { own: on }, 'ready', 'Ready'],
    [
      'their own is off',
      { own: { ...on, isOn: false, wantedOn: false } },
      'off',
      'Asleep, about 2 minutes to start',
    ],
    [
      'their own is off and quick',
      { own: { ...on, isOn: false, wantedOn: false }, startSeconds: 40 },
      'off',
      'Asleep, about 40 seconds to start',
    ],
    ...[
      [59, '59 seconds'],
      [60, 'a minute'],
      [89, 'a minute'],
      [90, '2 minutes'],
      [149, '2 minutes'],
      [150, '3 minutes'],
    ].map(([startSeconds, says]): [string, Partial<DeskFacts>, string, string] => [
      `their own takes ${startSeconds} seconds`,
      { own: { ...on, isOn: false, wantedOn: false }, startSeconds: Number(startSeconds) },
      'off',
      `Asleep, about ${says} to start`,
    ]),
    ['their own restarts', { own: { ...on, status: 'draining' } }, 'starting', 'Restarting'],
    ['their own is on its way', { own: { ...on, isOn: false } }, 'starting', 'Starting'],
    [
      'their own is unwell',
      { own: { ...on, status: 'unwell', isOn: false }, missing: missing('host', 'hosts') },
      'closed',
      'Not open at the moment. Whoever looks after it can tell why.',
    ],
    [
      'every seat is taken',
      { missing: { ...missing('host', 'hosts'), isFull: true as const } },
      'full',
      'Every seat is taken. Try again in a few minutes.',
    ],
    [
      'no host is on, or there is none',
      { missing: missing('host', 'hosts') },
      'closed',
      'Not open at the moment. Whoever looks after it can tell why.',
    ],
    [
      'they have none of their own',
      { missing: missing('host', 'assign') },
      'closed',
      'Not open at the moment. Whoever looks after it can tell why.',
    ],
    [
      'they have no licence, though their own is off',
      { missing: missing('licence', 'licences'), own: { ...on, isOn: false, wantedOn: false } },
      'closed',
      'Not open at the moment. Whoever looks after it can tell why.',
    ],
  ])('where %s', (_what, over, state, says) =>
    expect(deskStateOf(facts(over))).toMatchObject({ state, says }),
  );
});
