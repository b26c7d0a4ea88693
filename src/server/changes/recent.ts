import type { App } from '../app';

/** So long a proposal's facts serve the begin that follows it. */
const RECENT_MS = 60_000;
/** So many are remembered. */
const MOST = 2_000;

interface Remembered {
  readonly at: number;
  readonly value: unknown;
}

type House = Pick<App, 'db' | 'clock'>;

const memories = new WeakMap<App['db'], Map<string, Remembered>>();

/** Remembers for a while what a proposal found out, for the begin that follows it. */
export function remember({ db, clock }: House, key: string, value: unknown): void {
  const memory = memories.get(db) ?? new Map<string, Remembered>();
  memories.set(db, memory);
  const now = clock.wall();
  memory.delete(key);
  memory.set(key, { at: now, value });
  // The oldest come first: what serves nobody any more is not kept, however few there are.
  for (const [oldest, { at }] of memory) {
    if (memory.size <= MOST && now - at < RECENT_MS) break;
    memory.delete(oldest);
  }
}

/** What was remembered moments ago; undefined: nothing, or it is too long ago. */
export function recalled<Value>({ db, clock }: House, key: string): Value | undefined {
  const known = memories.get(db)?.get(key);
  return known && clock.wall() - known.at < RECENT_MS ? (known.value as Value) : undefined;
}

/**
 * What was read or asked moments ago, for what nobody decides by alone: how long steps take, what they cost. Whoever
 * proposes reads it anew, and whoever begins what was proposed then has it.
 */
export async function recently<Value>(
  house: House,
  key: string,
  read: () => Promise<Value>,
  isAnew: boolean,
): Promise<Value> {
  const known = isAnew ? undefined : recalled<Value>(house, key);
  if (known !== undefined) return known;
  const value = await read();
  remember(house, key, value);
  return value;
}
