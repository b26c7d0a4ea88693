import { describe, expect, it } from 'vitest';
import type { Facts } from '../../src/core/facts';
import { proposed } from './setup/facts';
import {
  keptShare,
  leftAndArchived,
  leftBehind,
  livedIn,
  livedInTwo,
  unpromised,
} from './situations/retained';
import { standing } from './situations/standing';

const DAY = 86_400_000;
/** What the tests' plan promises. */
const DAYS = 30;

const retiring = (facts: Facts, input: object = {}) => proposed('retire', input, facts);

/** What is retained, by key, and how many days from now. */
const retained = (facts: Facts, input: object = {}): Record<string, number> =>
  Object.fromEntries(
    retiring(facts, input).tasks.flatMap(({ key, task }) =>
      task.do === 'retain' ? [[key, (task.until - facts.now) / DAY]] : [],
    ),
  );

describe('what people kept in an environment that is retired', () => {
  it('stays as long as the plan promises, and nothing else does', () => {
    expect(retained(livedIn)).toEqual({ 'share:desks': DAYS });
    const { tasks, destroyed, checks } = retiring(livedIn);
    expect(tasks.filter(({ task }) => task.do === 'remove')).toHaveLength(tasks.length - 1);
    expect(destroyed).toEqual([]);
    expect(checks.find(({ key }) => key === 'retained')).toMatchObject({ state: 'passes' });
  });

  it('is destroyed where that is said, where nothing is promised, and where nobody was ever in', () => {
    for (const proposal of [
      retiring(livedIn, { data: 'destroyed' }),
      retiring(unpromised),
      retiring(standing),
    ]) {
      expect(proposal.tasks.filter(({ task }) => task.do === 'retain')).toEqual([]);
      expect(proposal.destroyed).toEqual([expect.stringMatching(/^profiles on a share of \d+ GiB$/)]);
      expect(proposal.checks.find(({ key }) => key === 'destroys')?.state).toBe('warns');
    }
  });

  it('goes out of use after the last host, and before the network that it stands on', () => {
    for (const facts of [livedIn, leftAndArchived, leftBehind]) {
      const { steps } = retiring(facts);
      const needs = new Map(steps.map((step) => [step.key, step.needs]));
      const before = (key: string, seen = new Set<string>()): Set<string> => {
        for (const one of needs.get(key) ?? []) if (!seen.has(one)) before(one, seen.add(one));
        return seen;
      };
      const hosts = steps.filter(({ kind, action }) => kind === 'host' && action === 'remove');
      for (const { key } of steps.filter(({ action, kind }) => action === 'retain' && kind === 'share')) {
        for (const host of hosts.filter(({ resource }) => resource?.split(':')[1] === key.split(':')[2]))
          expect(before(key)).toContain(host.key);
        expect(before('remove:network:KQ')).toContain(key);
      }
    }
  });

  it('is kept for who left, and what was put aside, from that day on and not from now', () => {
    const later = { ...leftAndArchived, now: leftAndArchived.now + 10 * DAY };
    const disks = Object.entries(retained(later)).filter(([key]) => key.startsWith('personal-disk'));
    expect(Object.fromEntries(disks)).toEqual({
      'personal-disk:draw:1:1': DAYS - 10,
      'personal-disk:draw:1:2': DAYS,
      'personal-disk:draw:2:1': DAYS,
    });
    const gone = { ...leftBehind, now: leftBehind.now + 10 * DAY };
    expect(retained(gone)['personal-disk:draw:2:1']).toBe(DAYS - 10);
  });

  it('is still paid for: only the rest of the month’s cost ends', () => {
    const all = retiring(livedIn, { data: 'destroyed' });
    const kept = retiring(livedIn);
    const share = all.cost.find(({ meter }) => meter === 'share');
    expect(kept.cost.some(({ meter }) => meter === 'share')).toBe(false);
    expect(kept.monthly.minor - all.monthly.minor).toBe(-(share?.amount.minor ?? 0));
    expect(share?.amount.minor).toBeLessThan(0);
  });

  it('stays where one pool of several goes', () =>
    expect(
      proposed('retire-pool', { pool: 'lab' }, livedInTwo).tasks.flatMap(({ key, task }) =>
        task.do === 'retain' ? [key] : [],
      ),
    ).toEqual(['share:lab']));

  it('is deleted only with approval, where retiring needs it', () => {
    const ruled = { ...keptShare, approval: { above: [], kinds: ['retire'], leadsToo: false } };
    const [one] = keptShare.retained ?? [];
    const checks = proposed('drop-retained', { retained: [one?.id] }, ruled).checks;
    expect(checks.find(({ key }) => key === 'approval')?.says).toContain('needs approval');
  });

  it('is deleted by a change of its own, which names it', () => {
    const [one] = keptShare.retained ?? [];
    const proposal = proposed('drop-retained', { retained: [one?.id] }, keptShare);
    expect(proposal.steps.map(({ action, subject }) => [action, subject])).toEqual([
      ['remove', 'office desks profiles'],
    ]);
    expect([proposal.intent, proposal.destroyed]).toEqual([null, ['profiles on a share of 500 GiB']]);
    // Another run may be at work on the network that it stood on once: this one leaves that alone.
    const network = standing.known.filter(({ kind }) => kind === 'network');
    expect(network).toHaveLength(1);
    expect(
      proposed('drop-retained', { retained: [one?.id] }, { ...keptShare, known: network }).tasks.map(
        ({ key }) => key,
      ),
    ).toEqual(proposal.tasks.map(({ key }) => key));
    // Its month ends with it.
    expect(proposal.cost.map(({ meter, quantity }) => [meter, quantity])).toEqual([['share', -500]]);
    expect(proposal.monthly.minor).toBeLessThan(0);
    expect(proposed('drop-retained', { retained: ['x'.repeat(26)] }, keptShare).refused).toEqual({
      retained: 'one of them is not kept here',
    });
  });
});
