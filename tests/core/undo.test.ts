import { describe, expect, it } from 'vitest';
import type { Facts } from '../../src/core/facts';
import type { HostIntent } from '../../src/core/intent';
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
const first = (from: Facts): HostIntent | undefined => from.environment?.intent.pools[0]?.hosts[0];

describe('what is taken back', () => {
  it('is what was wanted of a host', () => {
    const drained = after('drain', { hosts }, standing);
    expect(first(drained)?.accepting).toBe(false);
    const proposal = undone(drained);
    expect(proposal.intent?.pools[0]?.hosts[0]?.accepting).toBe(true);
    expect(proposal.steps.map(({ action }) => action)).toEqual(['accept']);
  });

  it('is not a restart: it is neither forgotten nor done again', () => {
    const restarted = after('restart-hosts', { hosts }, standing);
    expect(first(restarted)?.restarts).toBe(1);
    const proposal = undone(after('drain', { hosts }, restarted));
    expect(proposal.intent?.pools[0]?.hosts[0]).toMatchObject({ restarts: 1, accepting: true });
    expect(proposal.steps.map(({ action }) => action)).toEqual(['accept']);
  });

  it('brings no host back to its picture, which takes the customer’s code', () => {
    const back = after(
      'go-back-to-picture',
      { hosts },
      after('maintain-hosts', { hosts, picture: true }, standing),
    );
    expect(first(back)).toMatchObject({ returns: 1, picture: 1 });
    const proposal = undone(back);
    const actions = proposal.steps.map(({ action }) => action);
    expect(actions).toContain('drop-picture');
    expect(actions).not.toContain('go-back');
  });
});
