import type { Try } from '../../contract';
import { TRIES } from '../../contract/tries';
import { count } from '../../client/format';
import { Chip, type ChipTone } from '../../ui/Chip';
import { Ring, type RingArc } from '../../ui/Ring';
import styles from './Connect.module.css';
import type { Trying } from './use-tries';

type Outcome = Try['outcome'];

const TONE: Readonly<Record<Outcome, ChipTone>> = {
  works: 'good',
  warns: 'care',
  fails: 'bad',
  'not tried': 'quiet',
};
const LOOK: Readonly<Record<Outcome, RingArc>> = {
  works: { look: 'full', parts: 1, fill: 1 },
  warns: { look: 'notched', parts: 1, fill: 1 },
  fails: { look: 'crossed', parts: 1, fill: 0 },
  'not tried': { look: 'full', parts: 1, fill: 0 },
};
const UNDER_WAY: RingArc = { look: 'dashed', parts: 1, fill: 0 };

/** What is tried, one after the other: what was asked, what was answered, how long that took, and what to do. */
export function Tries({ trying }: { readonly trying: Trying }) {
  const known = new Map(trying.tries.map((one) => [one.what, one]));
  const isUnderWay = (what: Try['what']): boolean =>
    trying.at === 'quick' ? what !== 'make and remove' : trying.at === 'making' && what === 'make and remove';
  const good = trying.tries.filter((one) => one.outcome === 'works' || one.outcome === 'warns').length;
  const arcs = TRIES.map((what) =>
    isUnderWay(what) ? UNDER_WAY : LOOK[known.get(what)?.outcome ?? 'not tried'],
  );
  return (
    <div className={styles.tries}>
      <Ring
        arcs={arcs}
        size={148}
        label={`${good} of ${TRIES.length} tries work`}
        unit={`of ${TRIES.length} work`}
      >
        {good}
      </Ring>
      <ol aria-live="polite" aria-busy={trying.at !== 'rest'}>
        {TRIES.map((what) => {
          const one = known.get(what);
          const outcome = one?.outcome ?? 'not tried';
          return (
            <li key={what} data-outcome={outcome}>
              <b>{what}</b>
              <span>
                {isUnderWay(what) ? (
                  <Chip tone="busy">trying …</Chip>
                ) : (
                  <Chip tone={TONE[outcome]}>
                    {one === undefined || one.says === '' ? 'not tried' : one.says}
                  </Chip>
                )}
                {one !== undefined && one.fix !== '' && !isUnderWay(what) && <em>{one.fix}</em>}
              </span>
              <small>
                <span className="mono">{one?.asked ?? ''}</span>
                {one !== undefined && outcome !== 'not tried' && <span>{count(one.tookMs, 'ms', 'ms')}</span>}
              </small>
            </li>
          );
        })}
      </ol>
    </div>
  );
}
