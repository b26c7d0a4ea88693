import { describe, expect, it } from 'vitest';
import { NO_APPROVAL } from '../../src/core/approval';
import { proposed } from './setup/facts';
import { standingTwo } from './situations/standing';

/** As it stands, and a host of the second pool is somebody's. */
const owned = {
  ...standingTwo,
  environment: standingTwo.environment && {
    ...standingTwo.environment,
    intent: {
      ...standingTwo.environment.intent,
      pools: standingTwo.environment.intent.pools.map((pool) =>
        pool.role === 'lab'
          ? {
              ...pool,
              hosts: pool.hosts.map((host, n) =>
                n === 0 ? { ...host, person: 'kim', personId: 'p1' } : host,
              ),
            }
          : pool,
      ),
    },
  },
};

describe('retiring one pool of several', () => {
  const proposal = proposed('retire-pool', { pool: 'lab' }, standingTwo);

  it('takes what is the pool’s away, and touches nothing else', () => {
    const lab = standingTwo.known.filter(({ key, wanted }) => wanted && key.split(':')[1] === 'lab');
    const removed = proposal.tasks.filter(({ task }) => task.do === 'remove').map(({ key }) => key);
    expect(removed.sort()).toEqual(lab.map(({ key }) => key).sort());
    expect(removed).toContain('share:lab');
    // What is left of it is changed at most, as the subnet's list of pools would be.
    expect(proposal.tasks.filter(({ task }) => task.do !== 'remove')).toEqual([]);
  });

  it('leaves the other pool as it was', () => {
    const desks = (intent: typeof proposal.intent) => intent?.pools.find(({ role }) => role === 'desks');
    expect(proposal.intent?.pools).toHaveLength(1);
    expect(desks(proposal.intent)).toEqual(desks(standingTwo.environment?.intent ?? null));
  });

  it('says which data are destroyed, and gives people time', () => {
    expect(proposal.destroyed.join()).toMatch(/profiles on a share/);
    expect(proposal.checks.find(({ key }) => key === 'destroys')?.state).toBe('warns');
    expect(proposal.checks.filter(({ state }) => state === 'blocks')).toEqual([]);
    expect(proposal.policy.drain?.minutes).toBe(30);
  });

  it('is refused while a desktop of it belongs to somebody', () =>
    expect(proposed('retire-pool', { pool: 'lab' }, owned).refused).toEqual({
      pool: 'one of its desktops belongs to people: end their desktops first',
    }));

  it('needs approval where retiring does, and where it does itself', () => {
    const ruled = (kinds: readonly string[]) =>
      proposed(
        'retire-pool',
        { pool: 'lab' },
        { ...standingTwo, approval: { ...NO_APPROVAL, kinds, begun: 0 } },
      );
    const isAsked = (kinds: readonly string[]): boolean =>
      ruled(kinds).checks.some(({ key }) => key === 'approval');
    expect([['retire'], ['retire-pool'], ['resize'], []].map(isAsked)).toEqual([true, true, false, false]);
  });
});
