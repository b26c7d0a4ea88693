import type { ClockView } from '../../contract';

/**
 * The one clock. `now` is the time that all of the work goes by; `wall` is the machine's, for leases and sign-ins only.
 * They are the same unless a process is put together with another clock.
 */
export interface Clock {
  now(): number;
  wall(): number;
}

/** A clock of a process: it tells of itself, and ends with the process. */
export interface ProcessClock extends Clock {
  view(): ClockView;
  stop(): void;
}

/** The machine's time. */
export const wallClock: ProcessClock = {
  now: () => Date.now(),
  wall: () => Date.now(),
  view: () => ({ now: Date.now(), demo: false, speed: 1 }),
  stop: () => undefined,
};
