import type { Gateway, KeptCertificate } from '../../contract';
import { CERTIFICATE_DAYS, daysLeft } from '../../core/certificates';
import { count, writeDay } from '../../client/format';
import styles from './Gateway.module.css';

const DAY = 86_400_000;

interface Props {
  readonly certificates: readonly KeptCertificate[];
  readonly sites: Gateway['sites'];
  readonly now: number;
  readonly zone: string;
}

/** Each certificate from its first day to its last, over one line of time; the days before its end are another colour. */
export function Spans({ certificates, sites, now, zone }: Props) {
  const first = Math.min(now - 30 * DAY, ...certificates.map((one) => one.from));
  const last = Math.max(now + 90 * DAY, ...certificates.map((one) => one.until));
  const at = (instant: number): string => `${((instant - first) / (last - first)) * 100}%`;
  const width = (from: number, until: number): string => `${((until - from) / (last - first)) * 100}%`;
  return (
    <ol className={styles.spans}>
      {certificates.map((one) => {
        const warns = Math.max(one.from, one.until - CERTIFICATE_DAYS * DAY);
        const where = sites.filter((site) => site.serves === one.fingerprint).map((site) => site.siteName);
        return (
          <li key={one.fingerprint}>
            <div className={styles.says}>
              <b>{one.names.join(', ')}</b>
              <span>
                signed by {one.issuer}; kept {writeDay(one.keptAt, zone)} by {one.by}
                {where.length > 0 && `; served at ${where.join(', ')}`}
              </span>
              <span
                className={styles.ends}
                data-soon={daysLeft(one.until, now) < CERTIFICATE_DAYS || undefined}
              >
                {one.until <= now
                  ? `ended ${writeDay(one.until, zone)}`
                  : `until ${writeDay(one.until, zone)}, ${count(daysLeft(one.until, now), 'day', 'days')}`}
              </span>
            </div>
            <div className={styles.track}>
              <i
                className={where.length > 0 ? styles.served : styles.kept}
                style={{ left: at(one.from), width: width(one.from, warns) }}
              />
              <i className={styles.soon} style={{ left: at(warns), width: width(warns, one.until) }} />
              <i className={styles.now} style={{ left: at(now) }} title={`today, ${writeDay(now, zone)}`} />
            </div>
          </li>
        );
      })}
    </ol>
  );
}
