import type { BarState } from '../../contract';
import { can } from '../../contract/roles';
import { useState } from 'react';
import { LogOut, Moon, Search, Sun, TriangleAlert, UserRound } from 'lucide-react';
import { get } from '../../client/api';
import { useLive, useMayBeOld } from '../../client/live';
import { count } from '../../client/format';
import { useNight } from '../../ui/use-night';
import styles from './Bar.module.css';
import { DemoClock } from './DemoClock';
import { Finder } from './Finder';
import { useGoTo } from './go-to';
import { SignedOut } from './SignedOut';

/** The thin bar's right side: find anything, what is running, the demo's clock, the theme, who one is. */
export function Bar({
  state,
  customer,
}: {
  readonly state: BarState;
  readonly customer?: string | undefined;
}) {
  const [finding, setFinding] = useState(false);
  useGoTo(() => setFinding(true));
  const events = customer === undefined ? '/events' : `/customers/${customer}/events`;
  const { value: underWay } = useLive(
    { key: 'runs under way', read: countUnderWay },
    state.underWay,
    events,
    (change) => change.topic === 'run',
  );
  const lost = useMayBeOld(events);
  return (
    <div className={styles.bar}>
      <button
        type="button"
        className={styles.find}
        aria-label="Find anything"
        onClick={() => setFinding(true)}
      >
        <Search size={16} aria-hidden="true" /> <span>Find anything</span> <kbd>Ctrl K</kbd>
      </button>
      <SignedOut />
      {finding && <Finder onClose={() => setFinding(false)} />}
      {lost && <Lost />}
      <a className={styles.running} href="/runs" data-busy={underWay > 0 || undefined}>
        <svg viewBox="0 0 20 20" width="18" height="18" aria-hidden="true">
          <circle cx="10" cy="10" r="7" />
        </svg>
        <span>{underWay === 0 ? 'nothing runs' : `${count(underWay, 'run', 'runs')} at work`}</span>
      </a>
      {state.clock.demo && <DemoClock clock={state.clock} canSet={can(state.rights, 'build')} />}
      <ThemeSwitch />
      <a className={styles.who} href="/you" aria-label={state.who} title={`${state.role}; your tokens`}>
        <UserRound size={16} aria-hidden="true" /> <span>{state.who}</span>
      </a>
      <form method="post" action="/sign-out">
        <button type="submit" className={styles.icon} aria-label="Sign out" title="Sign out">
          <LogOut size={17} aria-hidden="true" />
        </button>
      </form>
    </div>
  );
}

const countUnderWay = async (): Promise<number> => (await get('/runs/count', {})).underWay;

/** What the page shows may be old: it says so until it hears again. */
function Lost() {
  return (
    <p role="status" className={styles.lost} title="What you see may be old; trying again">
      <TriangleAlert size={15} aria-hidden="true" /> No live news
    </p>
  );
}

function ThemeSwitch() {
  const night = useNight();
  const change = (): void => {
    const next = night ? 'light' : 'night';
    document.documentElement.dataset.theme = next;
    localStorage.setItem('laager-theme', next);
  };
  const says = night ? 'Light theme' : 'Night theme';
  return (
    <button type="button" className={styles.icon} aria-label={says} title={says} onClick={change}>
      {night ? <Sun size={17} aria-hidden="true" /> : <Moon size={17} aria-hidden="true" />}
    </button>
  );
}
