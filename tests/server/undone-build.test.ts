import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { RunWithSteps } from '../../src/contract';
import { begin, openWorld, provisionFor, type World } from './setup/world';

/** An environment that is taken away writes to those who lose something, and to nobody else. */
describe('whoever loses a desktop', { timeout: 90_000 }, () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('undonebuild');
  });
  afterAll(() => world.close());

  const mails = async (): Promise<{ subject: string; recipients: string }[]> =>
    ((await (await fetch(`${world.mailUrl}/messages`)).json()) as { messages: never[] }).messages;
  const steps = async (run: string): Promise<Pick<RunWithSteps, 'state' | 'graph'>> =>
    (await world.call('ida', 'GET', `/customers/SVG/runs/${run}`)).body as never;
  const retired = async (environment: string): Promise<string> => {
    const gone = await begin(world, 'SVG', 'retire', {}, { environment });
    await world.living.untilQuiet();
    await world.living.job('feed');
    await world.living.untilQuiet();
    const { state, graph } = await steps(gone.run);
    return `${state}, ${graph.find(({ action }) => action === 'warn')?.says ?? ''}`;
  };

  it('is nobody where the build failed before anybody was in', async () => {
    await world.living.faults([{ kind: 'no-making', target: '' }]);
    const built = await begin(world, 'SVG', 'provision', {
      environment: 'never',
      people: 4,
      template: 'shared-office',
      site: 'KQ',
    });
    await world.living.untilQuiet();
    expect((await steps(built.run)).state).toBe('stopped');
    await world.living.faults([]);
    expect(await retired(built.environment)).toBe('done, nobody was ever in: nobody is written to');
    expect((await mails()).filter(({ subject }) => subject.includes('never'))).toEqual([]);
  });

  it('is written to where it stood', async () => {
    const { environment } = await provisionFor(world, 'SVG', 'clinic', 4, 'KQ');
    expect(await retired(environment)).toBe('done, 4 people were written to');
    const [mail] = (await mails()).filter(({ subject }) => subject.includes('clinic'));
    expect(JSON.parse(mail?.recipients ?? '[]')).toHaveLength(4);
  });
});
