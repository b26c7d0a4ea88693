import type { Store } from './database';

/** The simulated time: it runs from an anchor at a speed, and stands still at speed 0. */
export interface SimulatedClock {
  now(): number;
  set(at: number, speed: number): Promise<void>;
}

export const CLOCK_TABLE = `CREATE TABLE IF NOT EXISTS clock (
  id TINYINT PRIMARY KEY, wall_at BIGINT NOT NULL, simulated_at BIGINT NOT NULL, speed DOUBLE NOT NULL)`;

/** Reads the clock left by the last process; without one it tells the wall's time. */
export async function openClock(store: Store): Promise<SimulatedClock> {
  let anchor = (await store.row<{ wall_at: number; simulated_at: number; speed: number }>(
    'SELECT wall_at, simulated_at, speed FROM clock WHERE id = 1',
  )) ?? { wall_at: Date.now(), simulated_at: Date.now(), speed: 1 };
  return {
    now: () => Math.floor(anchor.simulated_at + (Date.now() - anchor.wall_at) * anchor.speed),
    set: async (at, speed) => {
      anchor = { wall_at: Date.now(), simulated_at: at, speed };
      await store.write('REPLACE INTO clock (id, wall_at, simulated_at, speed) VALUES (1, ?, ?, ?)', [
        anchor.wall_at,
        at,
        speed,
      ]);
    },
  };
}
