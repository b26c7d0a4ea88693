import type { ProcessClock } from '../server/clock';
import type { Database } from '../server/db';

export interface ClockSetting {
  /** The time shown at `wallAt`. */
  readonly shownAt: number;
  readonly wallAt: number;
  /** Seconds shown for each second of the wall; 0: paused. */
  readonly speed: number;
}

/** The demo's clock: kept in the database, so that every process tells the same time. */
export interface DemoClock extends ProcessClock {
  /** Undefined until the demo is loaded: till then it tells the wall's time. */
  setting(): ClockSetting | undefined;
  refresh(): Promise<void>;
  set(shownAt: number, speed: number): Promise<void>;
}

const REFRESH_MS = 400;

const TABLE = `CREATE TABLE IF NOT EXISTS demo_clock (
  id TINYINT PRIMARY KEY, wall_at BIGINT NOT NULL, shown_at BIGINT NOT NULL, speed DOUBLE NOT NULL)`;

/** Opens the clock and keeps it fresh. */
export async function openDemoClock(db: Database): Promise<DemoClock> {
  await db.write(TABLE);
  let setting: ClockSetting | undefined;
  const refresh = async (): Promise<void> => {
    setting = await readClock(db);
  };
  await refresh();
  // A database that does not answer leaves the clock running on as it was.
  const timer = setInterval(() => void refresh().catch(() => undefined), REFRESH_MS);
  timer.unref();
  const now = (): number => (setting ? shown(setting, Date.now()) : Date.now());
  return {
    now,
    wall: () => Date.now(),
    view: () => ({ now: now(), demo: true, speed: setting?.speed ?? 1 }),
    setting: () => setting,
    refresh,
    set: async (shownAt, speed) => {
      await writeClock(db, { shownAt, speed, wallAt: Date.now() });
      await refresh();
    },
    stop: () => clearInterval(timer),
  };
}

async function readClock(db: Database): Promise<ClockSetting | undefined> {
  const row = await db.row<{ shown_at: number; wall_at: number; speed: number }>(
    'SELECT shown_at, wall_at, speed FROM demo_clock WHERE id = 1',
  );
  return row && { shownAt: row.shown_at, wallAt: row.wall_at, speed: row.speed };
}

export const shown = (setting: ClockSetting, wall: number): number =>
  Math.floor(setting.shownAt + (wall - setting.wallAt) * setting.speed);

export async function writeClock(db: Database, { shownAt, wallAt, speed }: ClockSetting): Promise<void> {
  await db.write('REPLACE INTO demo_clock (id, wall_at, shown_at, speed) VALUES (1, ?, ?, ?)', [
    wallAt,
    shownAt,
    speed,
  ]);
}
