import { Plus, Users } from 'lucide-react';
import type { PublishedItem } from '../../core/intent';
import { writeTerm } from '../../core/terms';
import { Button } from '../../ui/Button';
import { termOf, textOf, type Shown } from './shown';
import styles from './Picture.module.css';

/** What is chosen in the picture, to be filled in beside it. */
export type Part = 'whole' | { readonly input: number } | { readonly pool: number };

interface Props {
  readonly shown: Shown;
  readonly part?: Part;
  /** Left out: it is looked at only. */
  readonly onPart?: (part: Part) => void;
  readonly onAddPool?: () => void;
  readonly onAddInput?: () => void;
}

/** An environment as it would be: what is asked on the left, the network with its pools, what people find on the right. */
export function Picture({ shown, part, onPart, onAddPool, onAddInput }: Props) {
  const { inputs, pools } = shown;
  return (
    <div className={styles.picture}>
      <section className={styles.asked} aria-label="Asked for each customer">
        <h3>asked</h3>
        <span className={styles.own}>people</span>
        {inputs.map((input, at) => (
          <Press
            key={at}
            className={styles.input}
            isOn={typeof part === 'object' && 'input' in part && part.input === at}
            onPress={onPart && (() => onPart({ input: at }))}
            label={`Input ${textOf(input.key)}`}
          >
            <b>{textOf(input.title) || textOf(input.key)}</b>
            <small>
              {textOf(input.key)}
              {input.short === true && ', short form'}
            </small>
          </Press>
        ))}
        {onAddInput && (
          <Button icon={<Plus size={14} aria-hidden="true" />} onPress={onAddInput}>
            Ask more
          </Button>
        )}
      </section>
      <section className={styles.network} aria-label="Network">
        <Press
          className={styles.whole}
          isOn={part === 'whole'}
          onPress={onPart && (() => onPart('whole'))}
          label="The environment"
        >
          <b>{textOf(shown.at(['called'])) || 'office'}</b>
          <code>{textOf(shown.at(['naming']))}</code>
        </Press>
        {pools.map((pool, at) => (
          <Pool
            key={at}
            pool={pool}
            isOn={typeof part === 'object' && 'pool' in part && part.pool === at}
            onPress={onPart && (() => onPart({ pool: at }))}
          />
        ))}
        {onAddPool && (
          <Button icon={<Plus size={14} aria-hidden="true" />} onPress={onAddPool}>
            A further pool
          </Button>
        )}
      </section>
    </div>
  );
}

function Pool({
  pool,
  isOn,
  onPress,
}: {
  readonly pool: Shown['pools'][number];
  readonly isOn: boolean;
  readonly onPress: (() => void) | undefined;
}) {
  const isPersonal = pool.kind === 'personal';
  const isPilot = termOf(pool, 'track') === 'trial';
  const items = termOf(pool, 'items');
  const when = textOf(pool.when);
  return (
    <div className={styles.row} data-sometimes={when !== '' || undefined}>
      <Press className={styles.pool} isOn={isOn} onPress={onPress} label={`Pool ${textOf(pool.role)}`}>
        <span className={styles.head}>
          <b>{textOf(pool.role)}</b>
          <small>
            <Users size={12} aria-hidden="true" /> {writeTerm('people', termOf(pool, 'people') ?? '')}
          </small>
        </span>
        <Hosts seats={Number(termOf(pool, 'mostSeats'))} isPersonal={isPersonal} />
        <small>
          {isPersonal ? 'a host each' : writeTerm('arrival', termOf(pool, 'arrival'))},{' '}
          {writeTerm('profile', termOf(pool, 'profile'))}; {writeTerm('image', termOf(pool, 'image') ?? '')}
          {isPilot && ', pilot'}
          {when !== '' && `; only if ${writeTerm('people', when)}`}
        </small>
      </Press>
      <ul aria-label={`What people of ${textOf(pool.role)} find`}>
        {(Array.isArray(items) ? (items as Partial<PublishedItem>[]) : []).map((item, n) => (
          <li key={n} data-kind={item.kind === 'desktop' ? 'desktop' : 'app'}>
            {textOf(item.name)}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Three hosts with their seats, and one that there is room for. */
export function Hosts({ seats, isPersonal }: { readonly seats: number; readonly isPersonal: boolean }) {
  const most = isPersonal ? 1 : Math.max(1, Math.min(Number.isFinite(seats) ? seats : 1, 18));
  const across = most > 9 ? 6 : 3;
  return (
    <svg viewBox="0 0 196 44" className={styles.hosts} aria-hidden="true">
      {[0, 1, 2, 3].map((host) => (
        <g key={host} transform={`translate(${host * 49} 0)`}>
          <rect x="1" y="1" width="44" height="42" rx="6" data-room={host === 3 || undefined} />
          {host < 3 &&
            Array.from({ length: most }, (_, seat) => (
              <circle
                key={seat}
                cx={23 + ((seat % across) - (Math.min(across, most) - 1) / 2) * (most > 9 ? 6.5 : 10)}
                cy={22 + (Math.floor(seat / across) - (Math.ceil(most / across) - 1) / 2) * 11}
                r={most === 1 ? 7 : most > 9 ? 2.5 : 3.5}
              />
            ))}
        </g>
      ))}
    </svg>
  );
}

/** A part that is pressed to be filled in, where it may be. */
function Press({
  className = '',
  isOn,
  onPress,
  label,
  children,
}: {
  readonly className: string | undefined;
  readonly isOn: boolean;
  readonly onPress: (() => void) | undefined;
  readonly label: string;
  readonly children: React.ReactNode;
}) {
  if (!onPress) return <div className={className}>{children}</div>;
  return (
    <button type="button" className={className} aria-pressed={isOn} aria-label={label} onClick={onPress}>
      {children}
    </button>
  );
}
