import type { Database } from '../db';

/**
 * The one clock. `now` is the time that all of the work goes by, in the demo a simulated one; `wall` is the machine's,
 * for leases and sign-ins only.
 */
export interface Clock {
  now(): number;
  wall(): number;
}

export interface ClockSetting {
  /** The time shown at `wallAt`. */
  readonly shownAt: number;
  readonly wallAt: number;
  /** Seconds shown for each second of the wall; 0: paused. */
  readonly speed: number;
}

/** The demo's clock: kept in the database, so that every process tells the same time. */
export interface DemoClock extends Clock {
  /** Undefined outside the demo: then `now` is the wall's time. */
  setting(): ClockSetting | undefined;
  refresh(): Promise<void>;
  set(shownAt: number, speed: number): Promise<void>;
  stop(): void;
}

const REFRESH_MS = 400;

/** Opens the clock and keeps it fresh. */
export async function openClock(db: Database): Promise<DemoClock> {
  let setting: ClockSetting | undefined;
  const refresh = async (): Promise<void> => {
    const row = await db.row<{ shown_at: number; wall_at: number; speed: number }>(
      'SELECT shown_at, wall_at, speed FROM clock WHERE id = 1',
    );
    setting = row && { shownAt: row.shown_at, wallAt: row.wall_at, speed: row.speed };
  };
  await refresh();
  // A database that does not answer leaves the clock running on as it was.
  const timer = setInterval(() => void refresh().catch(() => undefined), REFRESH_MS);
  timer.unref();
  return {
    now: () => (setting ? shown(setting, Date.now()) : Date.now()),
    wall: () => Date.now(),
    setting: () => setting,
    refresh,
    set: async (shownAt, speed) => {
      await writeClock(db, { shownAt, speed, wallAt: Date.now() });
      await refresh();
    },
    stop: () => clearInterval(timer),
  };
}

export const shown = (setting: ClockSetting, wall: number): number =>
  Math.floor(setting.shownAt + (wall - setting.wallAt) * setting.speed);

export async function writeClock(db: Database, { shownAt, wallAt, speed }: ClockSetting): Promise<void> {
  await db.write('REPLACE INTO clock (id, wall_at, shown_at, speed) VALUES (1, ?, ?, ?)', [
    wallAt,
    shownAt,
    speed,
  ]);
}
