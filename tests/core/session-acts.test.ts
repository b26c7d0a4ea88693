import { describe, expect, it } from 'vitest';
import { deskStateOf, type DeskFacts } from '../../src/core/desk';
import type { Link } from '../../src/core/grants';
import { plannedActs, SESSION_ACTS, sessionAct } from '../../src/core/session-acts';

const NOW = Date.UTC(2026, 10, 27, 9);
const planned = (act: 'message' | 'sign-out' | 'disconnect', text = '', minutes = 0): string[] =>
  plannedActs({ act, text, minutes }, NOW).map(
    (one) => `${one.act}${one.text === '' ? '' : ` "${one.text}"`} after ${(one.at - NOW) / 60_000}`,
  );

describe('an act on sessions', () => {
  it.each<[string, string[], string[]]>([
    ['a message is said at once', planned('message', 'Hello'), ['message "Hello" after 0']],
    ['disconnecting tells nobody', planned('disconnect'), ['disconnect after 0']],
    ['signing out at once tells nobody', planned('sign-out'), ['sign-out after 0']],
    // Ten minutes before sessions are closed: common practice, no source.
    [
      'signing out later tells when',
      planned('sign-out', '', 10),
      ['message "You will be signed out in 10 minutes. Please save your work." after 0', 'sign-out after 10'],
    ],
    [
      'one minute is a minute',
      planned('sign-out', '', 1),
      ['message "You will be signed out in a minute. Please save your work." after 0', 'sign-out after 1'],
    ],
    [
      'it says what was written',
      planned('sign-out', 'Now', 0),
      ['message "Now" after 0', 'sign-out after 0'],
    ],
  ])('%s', (_says, is, expected) => expect(is).toEqual(expected));

  it('says of each whether work is lost', () => {
    expect(SESSION_ACTS.filter(({ endsWork }) => endsWork).map(({ key }) => key)).toEqual([
      'sign-out',
      'end-program',
    ]);
    expect(() => sessionAct('dance' as 'message')).toThrow(RangeError);
  });
});

describe('how an item is for whoever wants in', () => {
  const missing = (link: Link['link'], mend: Link['mend']): Link => ({
    link,
    holds: false,
    says: '',
    ...(mend === undefined ? {} : { mend }),
  });
  const on = { isOn: true, wantedOn: true, isWell: true };
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
    ['their own is on its way', { own: { ...on, isOn: false } }, 'starting', 'Starting'],
    [
      'their own is unwell',
      { own: { ...on, isOn: false, isWell: false }, missing: missing('host', 'hosts') },
      'closed',
      'Not open at the moment. Whoever looks after it can tell why.',
    ],
    [
      'every seat is taken',
      { missing: missing('host', 'hosts') },
      'full',
      'Every seat is taken. Try again in a few minutes.',
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
