import { describe, expect, it } from 'vitest';
import { planFor } from '../../src/views/provision/plan';
import { facts, input } from '../core/setup/facts';

describe('what Provision shows of a figure that is none', () => {
  const typed = { ...input, pools: [{ role: 'desks', diskGiB: 'abc' }] } as unknown as typeof input;

  it('names the field as the form does, and keeps what was typed', () => {
    const { outlook, pools } = planFor({ turn: 1, input: typed, facts });
    expect(outlook.checks).toMatchObject([
      { title: 'Disk of desks', state: 'blocks', says: 'is a whole number from 1 to 16384' },
    ]);
    expect(pools[0]?.spec.diskGiB).toBe('abc');
    expect(outlook.steps).toBe(0);
  });

  it('calls other checks as they are called', () =>
    expect(planFor({ turn: 1, input, facts }).outlook.checks.map(({ title }) => title)).toContain('Image'));
});
