import { setTimeout as pause } from 'node:timers/promises';
import type { Engine } from '../processes/setup/engine';

/** Numbers that look random and are the same for the same seed (mulberry32). */
export function randomFrom(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
}

export const oneOf = <Thing>(random: () => number, things: readonly Thing[]): Thing | undefined =>
  things[Math.floor(random() * things.length)];

/** @param stolen takes the names of what is taken away past Laager */
type Trouble = (engine: Engine, random: () => number, stolen: Set<string>) => Promise<string>;

/** Ends a process at once and starts it again a moment later. */
const killed =
  (name: string, again: (engine: Engine) => Promise<unknown>): Trouble =>
  async (engine, random) => {
    await engine.kill(engine.members.get(name));
    await pause(random() * 2_000);
    await again(engine);
    return `killed ${name}`;
  };

/** Holds a process still for a while, as a machine that swaps or a paused container does. */
const stopped =
  (name: string): Trouble =>
  async (engine, random) => {
    const member = engine.members.get(name);
    if (!member || member.gone) return `${name} was not there`;
    const length = 500 + random() * 5_500;
    member.child.kill('SIGSTOP');
    await pause(length);
    member.child.kill('SIGCONT');
    return `stopped ${name} for ${Math.round(length)} ms`;
  };

/** Switches a fault of the provider on for a while. */
const faulty =
  (kind: string, amount: (random: () => number) => number): Trouble =>
  async (engine, random) => {
    const given = amount(random);
    await engine.faults({ kind, amount: given });
    await pause(500 + random() * 4_000);
    await engine.faults();
    return `${kind} ${Math.round(given)}`;
  };

/** Takes a host away at the provider, past Laager. */
const robbed: Trouble = async (engine, random, stolen) => {
  const there = await engine.provider().resources({ customer: 'SVG' });
  const host = oneOf(
    random,
    there.filter((one) => one.kind === 'host'),
  );
  if (!host) return 'nothing to take';
  // Noted before: it may be gone although no answer comes.
  stolen.add(host.name);
  await engine.provider().remove(host.ref, host.version, `taken ${host.ref}`);
  return `took ${host.name} away`;
};

const STANDINS = ['provider', 'northern', 'directory', 'mail'];

/** Everything that may go wrong; what stands here twice goes wrong more often. */
const TROUBLES: readonly Trouble[] = [
  ...['worker1', 'worker2', 'worker1', 'worker2'].map((name) =>
    killed(name, (engine) => engine.startNamed(name)),
  ),
  killed('web', (engine) => engine.startWeb()),
  killed('web', (engine) => engine.startWeb()),
  killed('database', (engine) => engine.startDatabase()),
  ...STANDINS.map((name) => killed(name, (engine) => engine.startStandin(name))),
  ...['worker1', 'worker2', 'web', 'database', ...STANDINS].map(stopped),
  faulty('slow', (random) => 50 + random() * 1_500),
  faulty('refuse', () => 0),
  faulty('throttle', () => 0),
  faulty('stall', () => 0),
  faulty('lose-answer', (random) => 1 + Math.floor(random() * 12)),
  faulty('fail-host', (random) => 1 + Math.floor(random() * 2)),
  robbed,
];

/** Makes trouble, one after the other, until it is told to stop; trouble that could not be made is told as well. */
export async function makeTrouble(
  engine: Engine,
  random: () => number,
  stop: AbortSignal,
  tell: (line: string) => void,
): Promise<{ readonly made: number; readonly stolen: ReadonlySet<string> }> {
  const stolen = new Set<string>();
  let made = 0;
  while (!stop.aborted) {
    await pause(200 + random() * 2_800);
    const trouble = oneOf(random, TROUBLES);
    if (!trouble) continue;
    try {
      tell(await trouble(engine, random, stolen));
      made++;
    } catch (error) {
      tell(`could not: ${error instanceof Error ? error.message.split('\n')[0] : String(error)}`);
    }
  }
  return { made, stolen };
}
