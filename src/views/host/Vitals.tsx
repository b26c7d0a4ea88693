import type { VitalsTold } from '../../contract';
import { useEffect, useState } from 'react';
import { get, whyOf } from '../../client/api';
import { writeSpan } from '../../client/format';
import { LIMITS } from '../../core/signs';
import { Panel } from '../../ui/Panel';
import styles from './HostPage.module.css';

const AGAIN_MS = 5_000;

interface Props {
  readonly code: string;
  readonly host: string;
  readonly isOn: boolean;
}

/** What the host says of itself now: asked of its provider, and again as long as one looks. */
export function Vitals({ code, host, isOn }: Props) {
  const [vitals, setVitals] = useState<VitalsTold | null>();
  const [problem, setProblem] = useState<string>();
  useEffect(() => {
    if (!isOn) return;
    let ended = false;
    const ask = (): void =>
      void get('/customers/{customer}/hosts/{host}/vitals', { customer: code, host }).then(
        (found) => {
          if (ended) return;
          setVitals(found.vitals);
          setProblem(undefined);
        },
        (error: unknown) => {
          if (!ended) setProblem(whyOf(error));
        },
      );
    ask();
    const timer = setInterval(ask, AGAIN_MS);
    return () => {
      ended = true;
      clearInterval(timer);
    };
  }, [code, host, isOn]);
  return (
    <Panel title="How it is now">
      {problem !== undefined && <p role="alert">{problem}</p>}
      {!isOn || vitals === null ? (
        <p className={styles.quiet}>It does not run.</p>
      ) : vitals === undefined ? (
        <p className={styles.quiet}>Asking its provider …</p>
      ) : (
        <>
          <ul className={styles.gauges}>
            <Gauge label="Load" value={vitals.load} limit={LIMITS.load} />
            <Gauge label="Memory" value={vitals.memory} limit={LIMITS.memory} />
            <Gauge label="Disk" value={vitals.disk} limit={LIMITS.disk} />
          </ul>
          <dl className={styles.facts}>
            <dt>Signing in</dt>
            <dd>
              {vitals.signIns.tried === 0
                ? 'nobody within 15 min'
                : `${Math.round(vitals.signInSeconds)} s, ${vitals.signIns.refused} of ${vitals.signIns.tried} refused`}
            </dd>
            <dt>Clock</dt>
            <dd>
              {Math.abs(vitals.clockOffMs) < 1_000
                ? `right to ${Math.abs(vitals.clockOffMs)} ms`
                : `${writeSpan(Math.abs(vitals.clockOffMs) / 1_000)} ${vitals.clockOffMs < 0 ? 'behind' : 'ahead'}`}
            </dd>
            <dt>Agent</dt>
            <dd>{vitals.agent === '' ? 'none yet' : vitals.agent}</dd>
            <dt>Last heard</dt>
            <dd>{writeSpan(Math.max(0, vitals.askedAt - vitals.heardAt) / 1_000)} before</dd>
          </dl>
        </>
      )}
    </Panel>
  );
}

/** A part of the whole, with the mark from where on it is a sign. */
const Gauge = ({
  label,
  value,
  limit,
}: {
  readonly label: string;
  readonly value: number;
  readonly limit: number;
}) => (
  <li>
    <span>{label}</span>
    <span
      className={styles.gauge}
      role="meter"
      aria-label={label}
      aria-valuenow={Math.round(value)}
      aria-valuemin={0}
      aria-valuemax={100}
      data-over={value >= limit || undefined}
    >
      <span style={{ width: `${Math.min(100, value)}%` }} />
      <i style={{ insetInlineStart: `${limit}%` }} />
    </span>
    <b>{Math.round(value)} %</b>
  </li>
);
