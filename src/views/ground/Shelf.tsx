import { useState } from 'react';
import { PackagePlus, PencilRuler, Plus } from 'lucide-react';
import type { Shelf as ShelfData, Shelves } from '../../contract';
import { OWN_CODE } from '../../contract/own-code';
import { get } from '../../client/api';
import { count, writeMoney, writePrice, writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Chip, type ChipTone } from '../../ui/Chip';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Ring, type RingArc } from '../../ui/Ring';
import type { Changing } from '../shared/changing';
import { Confirm } from '../shared/Confirm';
import { Stock, type ShelfSite } from './Stock';
import styles from './Shelf.module.css';

interface Props {
  readonly initial: Shelves;
  readonly marks: Readonly<Record<string, MarkLook>>;
  readonly sites: readonly ShelfSite[];
  /** What each size holds, by its key. */
  readonly sizes: Readonly<Record<string, string>>;
  readonly mayDecide: boolean;
  readonly mayChange: boolean;
}

const LOOK: Readonly<Record<ShelfData['hosts'][number]['state'], { arc: RingArc['look']; tone: ChipTone }>> =
  {
    ready: { arc: 'full', tone: 'good' },
    'being built': { arc: 'dashed', tone: 'busy' },
    'handed over': { arc: 'thin', tone: 'quiet' },
    unwell: { arc: 'crossed', tone: 'bad' },
  };

/** Which hosts wait for whoever comes next, what do they cost, and who got the last of them? */
export function Shelf({ initial, marks, sites, sizes, mayDecide, mayChange }: Props) {
  const { value, again } = useLive(
    { key: 'shelf', read: () => get('/ground/shelf', {}) },
    initial,
    '/events',
    (change) => ['environment', 'run', 'ground'].includes(change.topic),
  );
  const [asked, setAsked] = useState<{ readonly environment?: string; readonly change: Changing }>();
  const [stocking, setStocking] = useState<ShelfData | 'new'>();
  const own = marks[OWN_CODE] ?? { code: OWN_CODE, hue: 158, shape: 0, pattern: 1 };
  const { shelves, strays, handed, plans } = value;
  return (
    <div className={styles.page}>
      <h1 className="sr">Ready shelf</h1>
      {mayDecide && shelves.length > 0 && (
        <div className={styles.top}>
          <Button icon={<Plus size={16} aria-hidden="true" />} onPress={() => setStocking('new')}>
            Keep another kind ready
          </Button>
        </div>
      )}
      {shelves.length === 0 && (
        <Panel>
          <Empty says="No host waits for whoever comes next: a new customer’s first person waits a quarter of an hour.">
            {mayDecide && (
              <Button
                kind="main"
                icon={<Plus size={16} aria-hidden="true" />}
                onPress={() => setStocking('new')}
              >
                Keep hosts ready
              </Button>
            )}
          </Empty>
        </Panel>
      )}
      <div className={styles.shelves}>
        {shelves.map((one) => (
          <One
            key={one.environment}
            shelf={one}
            size={sizes[one.size] ?? one.size}
            change={mayDecide ? () => setStocking(one) : undefined}
          />
        ))}
      </div>
      {(strays.length > 0 || handed.length > 0 || shelves.length > 0) && (
        <div className={styles.below}>
          {shelves.length > 0 && (
            <Panel title="Handed out by" side={<a href="/money/plans">Plans</a>}>
              <ul className={styles.list}>
                {plans.map((one) => (
                  <li key={one.code}>
                    <span>
                      plan <b>{one.name}</b>
                    </span>
                    <small>{count(one.hosts, 'host', 'hosts')} of each new environment</small>
                  </li>
                ))}
                <li>
                  <span>hand</span>
                  <small>where hosts are added, as many as are ready</small>
                </li>
              </ul>
            </Panel>
          )}
          {handed.length > 0 && (
            <Panel title="Handed over lately">
              <ul className={styles.list}>
                {handed.map((one) => (
                  <li key={one.host + String(one.at)}>
                    {marks[one.customer] && <Mark mark={marks[one.customer] ?? own} size={24} />}
                    <span>
                      <span className="mono">{one.host}</span> is <span className="mono">{one.to}</span> now
                    </span>
                    <small>{writeWhen(one.at, 'UTC')}</small>
                  </li>
                ))}
              </ul>
            </Panel>
          )}
          {strays.length > 0 && (
            <Panel title="Servers that nobody owns">
              <ul className={styles.list}>
                {strays.map((one) => (
                  <li key={one.ref}>
                    <span>
                      <span className="mono">{one.name}</span> at {one.site}, {sizes[one.size] ?? one.size}
                      {one.lacks.length > 0 && <small>lacks {one.lacks.join(', ')}</small>}
                    </span>
                    {mayChange && one.shelf !== null ? (
                      <Button
                        icon={<PackagePlus size={15} aria-hidden="true" />}
                        onPress={() =>
                          setAsked({
                            environment: one.shelf ?? '',
                            change: {
                              kind: 'shelve',
                              verb: 'Put on the shelf',
                              what: one.name,
                              input: { server: one.ref },
                            },
                          })
                        }
                      >
                        Put on the shelf
                      </Button>
                    ) : (
                      <small>no shelf of its size there</small>
                    )}
                  </li>
                ))}
              </ul>
            </Panel>
          )}
        </div>
      )}
      {stocking !== undefined && (
        <Stock
          sites={sites}
          sizes={sizes}
          before={stocking === 'new' ? undefined : stocking}
          onClose={() => setStocking(undefined)}
          onAsked={(ask) => {
            setStocking(undefined);
            setAsked(ask);
          }}
        />
      )}
      {asked && (
        <Confirm
          customer={{ code: OWN_CODE, name: 'ourselves', mark: own }}
          {...(asked.environment === undefined ? {} : { environment: asked.environment })}
          change={asked.change}
          onClose={() => setAsked(undefined)}
          onBegun={again}
        />
      )}
    </div>
  );
}

function One({
  shelf,
  size,
  change,
}: {
  readonly shelf: ShelfData;
  readonly size: string;
  readonly change: (() => void) | undefined;
}) {
  const { hosts, wanted, affords, most, each, soFar, currency } = shelf;
  const ready = hosts.filter((one) => one.state === 'ready').length;
  const missing = Math.max(0, Math.min(wanted, affords ?? wanted) - hosts.length);
  const arcs: RingArc[] = [
    ...hosts.map((one) => ({ look: LOOK[one.state].arc, parts: 1, fill: one.state === 'ready' ? 1 : 0 })),
    ...Array.from({ length: missing }, () => ({ look: 'gap' as const, parts: 1, fill: 0 })),
  ];
  return (
    <Panel
      title={`${shelf.siteName}, ${size}`}
      side={
        change && (
          <Button icon={<PencilRuler size={15} aria-hidden="true" />} onPress={change}>
            Change how many
          </Button>
        )
      }
    >
      <div className={styles.one}>
        <Ring arcs={arcs} size={112} label={`${ready} of ${wanted} ready`} unit="ready">
          {ready}
        </Ring>
        <div className={styles.facts}>
          <Figures>
            <Figure
              value={wanted}
              label="wanted"
              note={affords !== null && affords < wanted ? `the budget reaches for ${affords}` : undefined}
            />
            <Figure value={each ? writeMoney(each) : 'no price'} label="one, a month" />
            <Figure
              value={soFar ? writeMoney(soFar) : '–'}
              label="this month so far"
              note={most === null ? 'no limit' : `at most ${writePrice(most, currency)} a month`}
            />
          </Figures>
          <p className={styles.image}>
            {shelf.image}, {shelf.diskGiB} GiB
          </p>
          <ul className={styles.hosts}>
            {hosts.map((one) => (
              <li key={one.name}>
                <span className="mono">{one.name}</span>
                <Chip tone={LOOK[one.state].tone}>{one.state}</Chip>
                {(one.byHand || one.lacks.length > 0) && (
                  <small>
                    {one.byHand && 'made by hand'}
                    {one.lacks.length > 0 && `; no ${one.lacks.join(', no ')} on it`}
                  </small>
                )}
              </li>
            ))}
          </ul>
          {missing > 0 && <small>{count(missing, 'host is', 'hosts are')} about to be built</small>}
        </div>
      </div>
    </Panel>
  );
}
