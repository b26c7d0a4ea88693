import { describe, expect, it } from 'vitest';
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
