import type { App } from '../app';

/** So long a proposal's facts serve the begin that follows it. */
const RECENT_MS = 60_000;
/** So many are remembered. */
const MOST = 2_000;

interface Remembered {
  readonly at: number;
  readonly value: unknown;
}

const memories = new WeakMap<App['db'], Map<string, Remembered>>();

/**
 * What was read or asked moments ago, for what nobody decides by alone: how long steps take, what they cost. Whoever
 * proposes reads it anew, and whoever begins what was proposed then has it.
 */
export async function recently<Value>(
  { db, clock }: Pick<App, 'db' | 'clock'>,
  key: string,
  read: () => Promise<Value>,
  isAnew: boolean,
): Promise<Value> {
  const memory = memories.get(db) ?? new Map<string, Remembered>();
  memories.set(db, memory);
  const known = memory.get(key);
  if (!isAnew && known && clock.wall() - known.at < RECENT_MS) return known.value as Value;
  const value = await read();
  memory.delete(key);
  memory.set(key, { at: clock.wall(), value });
  for (const oldest of memory.keys()) {
    if (memory.size <= MOST) break;
    memory.delete(oldest);
  }
  return value;
}
