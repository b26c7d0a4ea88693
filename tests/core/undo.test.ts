import { describe, expect, it } from 'vitest';
import type { Facts } from '../../src/core/facts';
import { carriedOut, proposed } from './setup/facts';
import { idOf, standing } from './situations/standing';

const hosts = [idOf('host:desks:1')];
const after = (kind: string, input: object, from: Facts): Facts =>
  carriedOut(proposed(kind, input, from), from);
/** Everything that was done since is taken back. */
const undone = (from: Facts) =>
  proposed('undo', { version: 1 }, {
    ...from,
    environment: from.environment && { ...from.environment, earlier: standing.environment?.intent },
  } as Facts);
/** What is wanted of the first host now. */
const first = (from: Facts): object | undefined =>
  from.known.find(({ key }) => key === 'host:desks:1')?.attributes;

describe('what is taken back', () => {
  it('is what the intent says of hosts', () => {
    const grown = after('grow-disk', { pool: 'desks', diskGiB: 256 }, standing);
    expect(first(grown)).toMatchObject({ diskGiB: 256 });
    expect(undone(grown).intent?.pools[0]?.diskGiB).toBe(standing.environment?.intent.pools[0]?.diskGiB);
  });

  it.each([
    ['drained', 'drain', { accepting: false }],
    ['off', 'power-off', { power: 'off' }],
    ['in maintenance', 'maintain-hosts', { power: 'off', accepting: false }],
  ] as const)('never switches a host that is %s by hand', (_what, kind, wanted) => {
    const grown = after('grow-disk', { pool: 'desks', diskGiB: 256 }, standing);
    const switched = after(kind, { hosts }, grown);
    expect(first(switched)).toMatchObject(wanted);
    const back = undone(switched);
    expect(back.wanted.find(({ key }) => key === 'host:desks:1')?.attributes).toMatchObject(wanted);
    expect(back.steps.map(({ action }) => action)).not.toContain('power');
    expect(back.overrides).toEqual({ set: [], lift: [] });
  });

  it('is no restart, and brings no host back to its picture', () => {
    const asked = after(
      'restart-hosts',
      { hosts },
      after('maintain-hosts', { hosts, picture: true }, standing),
    );
    const actions = undone(asked).steps.map(({ action }) => action);
    for (const action of ['restart', 'go-back', 'drop-picture']) expect(actions).not.toContain(action);
  });
});
