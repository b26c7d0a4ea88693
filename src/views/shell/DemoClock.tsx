import type { ClockView } from '../../contract';
import { useEffect, useState } from 'react';
import { FastForward, Pause, Play } from 'lucide-react';
import { get, send } from '../../client/api';
import { writeClock } from '../../client/format';
import { useLive } from '../../client/live';
import styles from './DemoClock.module.css';

const HOUR_MS = 3_600_000;
const SPEEDS: readonly { readonly speed: number; readonly name: string }[] = [
  { speed: 1, name: '1×' },
  { speed: 10, name: '10×' },
  { speed: 60, name: '60×' },
  { speed: 600, name: '600×' },
];

/** The demo's time, in UTC: pause it, change its speed, step it forward. */
export function DemoClock({ clock, canSet }: { readonly clock: ClockView; readonly canSet: boolean }) {
  const { value, again } = useLive(
    { key: 'clock', read: () => get('/clock', {}) },
    clock,
    '/events',
    (change) => change.topic === 'clock',
  );
  const now = useTicking(value);
  const set = (body: { speed: number } | { stepMs: number }): void => {
    void send('PUT', '/clock', {}, { body }).finally(again);
  };
  const paused = value.speed === 0;
  return (
    <div className={styles.clock} role="group" aria-label="Demo clock">
      <time>{writeClock(now, 'UTC')}</time>
      {canSet && (
        <>
          <button
            type="button"
            aria-label={paused ? 'Run the clock' : 'Pause the clock'}
            onClick={() => set({ speed: paused ? 60 : 0 })}
          >
            {paused ? <Play size={14} aria-hidden="true" /> : <Pause size={14} aria-hidden="true" />}
          </button>
          <select
            aria-label="Speed of the clock"
            value={paused ? '' : String(value.speed)}
            onChange={(event) => set({ speed: Number(event.target.value) })}
          >
            {paused && <option value="">paused</option>}
            {SPEEDS.map(({ speed, name }) => (
              <option key={speed} value={speed}>
                {name}
              </option>
            ))}
          </select>
          <button
            type="button"
            aria-label="Step one hour"
            title="Step one hour"
            onClick={() => set({ stepMs: HOUR_MS })}
          >
            <FastForward size={14} aria-hidden="true" />
          </button>
        </>
      )}
    </div>
  );
}

/** The shown time, going on at its speed between looks. */
function useTicking(clock: ClockView): number {
  const [tick, setTick] = useState({ clock, passed: 0 });
  useEffect(() => {
    if (clock.speed === 0) return;
    const from = performance.now();
    const timer = setInterval(() => setTick({ clock, passed: performance.now() - from }), 500);
    return () => clearInterval(timer);
  }, [clock]);
  return clock.now + (tick.clock === clock ? tick.passed * clock.speed : 0);
}
