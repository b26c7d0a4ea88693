import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { MonthCosts, Person, PersonCosts } from '../../src/contract';
import { keepSeats } from '../../src/server/grants';
import { timeIn } from '../../src/server/sessions';
import { openWorld, provisionFor, type World } from './setup/world';

/** Twelve licence seats for SVG's ninety-six; a working day passes. */
describe('what people cost', { timeout: 120_000 }, () => {
  let world: World;
  let people: readonly Person[] = [];
  const costsOf = async (id: string): Promise<PersonCosts> => {
    const { status, body } = await world.call('ida', 'GET', `/customers/SVG/people/${id}/costs`);
    expect({ status, body }).toMatchObject({ status: 200 });
    return body as unknown as PersonCosts;
  };
  const month = async (): Promise<MonthCosts> =>
    (await world.call('petra', 'GET', '/customers/SVG/costs')).body as unknown as MonthCosts;

  beforeAll(async () => {
    world = await openWorld('personcosts');
    await provisionFor(world, 'SVG', 'clinic', 12, 'KQ');
    await provisionFor(world, 'FPS', 'office', 12, 'KQ');
    await world.living.untilQuiet();
    await keepSeats(world.app);
    for (let hour = 0; hour < 9; hour++) {
      await world.living.moveTo(Date.UTC(2026, 10, 19, 8 + hour));
      await world.living.job('sessions');
    }
    await world.living.job('feed');
    people = (await world.call('ida', 'GET', '/customers/SVG/people?limit=1000')).body.entries as Person[];
  });
  afterAll(() => world.close());

  it('is a seat, and of the hosts as much as they were in of all the time', async () => {
    const all = await timeIn(world.app.db, await world.inside('SVG'), { from: 0, to: world.clock.at });
    const [one] = all.filter(({ seconds }) => seconds > 3_600);
    const found = people.find(({ id }) => id === one?.who);
    const { parts, month: key } = await costsOf(found?.id ?? '');
    expect(key).toBe('2026-11');
    expect(parts.map(({ by }) => by)).toEqual(['licence', 'time']);
    const [seat, time] = parts;
    expect(seat).toMatchObject({ environment: 'clinic', pool: 'desks', own: 1, all: 12 });
    expect(time?.own).toBe(one?.seconds);
    expect(time?.all).toBe(all.reduce((sum, { seconds }) => sum + seconds, 0));
    expect(time?.charge.minor).toBeGreaterThan(0);
    // To the cent and no further: the quota is rounded by largest remainders.
    const quota = ((time?.of.minor ?? 0) * (time?.own ?? 0)) / (time?.all ?? 1);
    expect(Math.abs((time?.charge.minor ?? 0) - quota)).toBeLessThan(1);
  });

  it('adds up over everyone to what the pools cost this month', async () => {
    const each = await Promise.all(people.map(({ id }) => costsOf(id)));
    const { lines } = await month();
    const ofPools = lines
      .filter(({ environment }) => environment !== '')
      .reduce((sum, { charge }) => sum + charge.minor, 0);
    expect(each.reduce((sum, { total }) => sum + total.minor, 0)).toBe(ofPools);
    expect(ofPools).toBeGreaterThan(0);
  });

  it('is nothing for who has no seat and was never in', async () => {
    const idle = await Promise.all(people.map(({ id }) => costsOf(id)));
    expect(idle.filter(({ parts }) => parts.length === 0).length).toBe(people.length - 12);
  });

  it('is told of one’s own customer’s people alone', async () => {
    const [stranger] = (await world.call('ida', 'GET', '/customers/FPS/people')).body.entries as Person[];
    expect((await world.call('ida', 'GET', `/customers/SVG/people/${stranger?.id ?? ''}/costs`)).status).toBe(
      404,
    );
    expect(
      (await world.call('jonah', 'GET', `/customers/MHP/people/${people[0]?.id ?? ''}/costs`)).status,
    ).toBe(404);
  });
});
