import { describe, expect, it } from 'vitest';
import { actLine, plannedActs, SESSION_ACTS, sessionAct } from '../../src/core/session-acts';

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

  it.each([
    [
      'sign-out',
      { people: 1, hosts: 1, customers: 1, minutes: 10 },
      '1 person · 1 host · 1 customer · in 10 min · cannot be undone',
    ],
    [
      'sign-out',
      { people: 12, hosts: 2, customers: 3, minutes: 0 },
      '12 people · 2 hosts · 3 customers · at once · cannot be undone',
    ],
    [
      'message',
      { people: 0, hosts: 0, customers: 0, minutes: 10 },
      '0 people · 0 hosts · 0 customers · at once · nothing is lost',
    ],
  ] as const)('tells on one line whom %s touches', (key, touches, line) =>
    expect(actLine(key, touches)).toBe(line),
  );

  it('says of each whether work is lost', () => {
    expect(SESSION_ACTS.filter(({ endsWork }) => endsWork).map(({ key }) => key)).toEqual([
      'sign-out',
      'end-program',
    ]);
    expect(() => sessionAct('dance' as 'message')).toThrow(RangeError);
  });
});
