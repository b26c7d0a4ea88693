import { lazy, Suspense, useMemo, useState } from 'react';
import { Plus, X } from 'lucide-react';
import type { Sizing } from '../../contract';
import { monthlyCost } from '../../core/rating';
import { sum } from '../../core/money';
import {
  benchOf,
  measuredConcurrency,
  PROFILE_KEYS,
  spareSeats,
  type OfferedSize,
  type ProfileKey,
  type WorkGroup,
} from '../../core/sizing';
import { count } from '../../client/format';
import { Button } from '../../ui/Button';
import { ManyField, SelectField, TextField } from '../../ui/Field';
import { Empty, Panel } from '../../ui/Panel';
import { useInBrowser } from '../shared/use-in-browser';
import { Compared } from './Compared';
import { OtherWay } from './OtherWay';
import { pointName } from './words';
import styles from './Bench.module.css';

const Points = lazy(() => import('./Points'));

/** People of one kind of work, as typed. */
interface Typed {
  readonly profile: ProfileKey;
  readonly people: string;
  /** Per cent of them. */
  readonly concurrency: string;
}

const whole = (text: string, least: number, most: number): number | undefined =>
  /^\d{1,5}$/.test(text) && Number(text) >= least && Number(text) <= most ? Number(text) : undefined;

/** Who works how, where, and what comes of it: every way to carry them, its cost against whom one host's loss would hit. */
export function Bench({ sizing }: { readonly sizing: Sizing }) {
  const [typed, setTyped] = useState<readonly Typed[]>(() => firstGroups(sizing));
  const [sites, setSites] = useState<readonly string[]>(sizing.sites.slice(0, 1).map((one) => one.code));
  const [disk, setDisk] = useState('128');
  const [share, setShare] = useState('10');
  const [most, setMost] = useState('16');
  const [arrivals, setArrivals] = useState('0');
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const inBrowser = useInBrowser();
  const groups = useMemo(() => groupsOf(typed, sizing), [typed, sizing]);
  const spare = spareSeats(whole(arrivals, 0, 6_000) ?? 0, BOOT_MINUTES, WAITING);
  const points = useMemo(
    () =>
      benchOf({
        groups: groups ?? [],
        offers: offersOf(sizing, sites, groups ?? [], Number(disk), Number(share)),
        spareSeats: spare,
        mostSeats: whole(most, 1, 200),
      }),
    [groups, sizing, sites, disk, share, spare, most],
  );
  const best = points.find((one) => one.spareHosts >= 1);
  const picked = chosen.flatMap((key) => points.find((one) => one.key === key) ?? []);
  const shown = picked.length > 0 ? picked : best ? [best] : [];
  const choose = (key: string): void =>
    setChosen((before) =>
      before.includes(key) ? before.filter((one) => one !== key) : [...before.slice(-1), key],
    );
  return (
    <div className={styles.page}>
      <Panel title="Who works how">
        <div className={styles.form}>
          {typed.map((group, n) => (
            <Group
              key={n}
              group={group}
              onChange={(next) => setTyped(typed.map((one, at) => (at === n ? next : one)))}
              onRemove={typed.length > 1 ? () => setTyped(typed.filter((_, at) => at !== n)) : undefined}
            />
          ))}
          {typed.length < 4 && (
            <div>
              <Button
                icon={<Plus size={15} aria-hidden="true" />}
                onPress={() => setTyped([...typed, { profile: 'heavy', people: '5', concurrency: '80' }])}
              >
                Another kind of work
              </Button>
            </div>
          )}
          <ManyField
            label="Where"
            options={sizing.sites.map((one) => ({ value: one.code, name: one.name }))}
            chosen={sites}
            onChange={setSites}
          />
          <div className={styles.pair}>
            <TextField
              label="Most seats on a host"
              inputMode="numeric"
              value={most}
              onChange={(event) => setMost(event.target.value)}
              error={whole(most, 1, 200) === undefined ? '1 to 200' : undefined}
            />
            <TextField
              label="Disk a host, in GiB"
              inputMode="numeric"
              value={disk}
              onChange={(event) => setDisk(event.target.value)}
              error={whole(disk, 1, 16_384) === undefined ? 'a whole number, from 1' : undefined}
            />
            <TextField
              label="Share a person, in GiB"
              inputMode="numeric"
              value={share}
              onChange={(event) => setShare(event.target.value)}
              error={whole(share, 0, 1_024) === undefined ? 'a whole number' : undefined}
            />
          </div>
          <TextField
            label="Arrivals an hour, at the busiest"
            inputMode="numeric"
            value={arrivals}
            onChange={(event) => setArrivals(event.target.value)}
            help={
              spare === 0
                ? 'so that nobody waits for a host to boot, seats are kept ready'
                : `${count(spare, 'seat is', 'seats are')} kept ready: one in a hundred waits for a host to boot`
            }
            error={whole(arrivals, 0, 6_000) === undefined ? 'a whole number, up to 6000' : undefined}
          />
        </div>
      </Panel>
      <div className={styles.outcome}>
        <Panel
          title="Every way to carry them"
          side={
            best && (
              <span className={styles.best}>cheapest with a host to spare: {pointName(best, sizing)}</span>
            )
          }
        >
          {points.length === 0 ? (
            <Empty says={whyNone(groups, sites)} />
          ) : inBrowser ? (
            <Suspense fallback={<p className={styles.chart}>Drawing …</p>}>
              <Points points={points} best={best?.key} chosen={chosen} onChoose={choose} sizing={sizing} />
            </Suspense>
          ) : (
            <p className={styles.chart}>Drawing …</p>
          )}
        </Panel>
        {shown.length > 0 && <Compared points={shown} best={best?.key} sizing={sizing} />}
        {groups && <OtherWay groups={groups} sizing={sizing} mostSeats={whole(most, 1, 200)} />}
      </div>
    </div>
  );
}

/** How long a host takes to boot, and how likely an arrival may wait for one. Common practice, no source. */
const BOOT_MINUTES = 4;
const WAITING = 0.01;

/** What is known of the customer: the people of its first pool, as they were measured. */
function firstGroups({ pools, people }: Sizing): Typed[] {
  const [pool] = pools;
  const number = pool?.people ?? Math.max(1, people);
  const part = measuredConcurrency(pool?.peak ?? number * 0.85, number);
  return [
    {
      profile: pool?.profile ?? 'standard',
      people: String(number),
      concurrency: String(Math.round(part * 100)),
    },
  ];
}

/** Undefined: something that was typed is no number. */
function groupsOf(typed: readonly Typed[], { needs }: Sizing): readonly WorkGroup[] | undefined {
  const groups = typed.map((one) => ({
    profile: needs.find(({ key }) => key === one.profile),
    people: whole(one.people, 0, 5_000),
    concurrency: whole(one.concurrency, 1, 100),
  }));
  const all = groups.flatMap(({ profile, people, concurrency }) =>
    profile && people !== undefined && concurrency !== undefined
      ? [{ profile, people, concurrency: concurrency / 100 }]
      : [],
  );
  return all.length === typed.length ? all : undefined;
}

/** The sizes of the chosen sites that have a price, each with all that it comes to a month. */
function offersOf(
  { sites, rates, now, currency }: Sizing,
  chosen: readonly string[],
  groups: readonly WorkGroup[],
  diskGiB: number,
  shareGiB: number,
): OfferedSize[] {
  const people = groups.reduce((all, one) => all + one.people, 0);
  const costOf = (size: string, hosts: number) =>
    monthlyCost(
      [
        { meter: 'host', size, quantity: hosts },
        { meter: 'disk', size: null, quantity: hosts * diskGiB },
        { meter: 'share', size: null, quantity: people * shareGiB },
        { meter: 'licence', size: null, quantity: people },
      ],
      rates,
      now,
      currency,
    );
  return sites
    .filter((site) => chosen.includes(site.code))
    .flatMap((site) =>
      site.sizes
        .filter((size) => costOf(size.key, 1).unpriced.length === 0)
        .map((size) => ({
          site: site.code,
          size,
          monthlyOf: (hosts: number) =>
            sum(
              costOf(size.key, hosts).lines.map((one) => one.amount),
              currency,
            ),
        })),
    );
}

function whyNone(groups: readonly WorkGroup[] | undefined, sites: readonly string[]): string {
  if (!groups) return 'Something that was typed is no number.';
  if (sites.length === 0) return 'Choose a site.';
  if (groups.every((one) => one.people === 0)) return 'There is nobody to carry.';
  return 'No size that has a price on the customer’s card carries this work.';
}

function Group({
  group,
  onChange,
  onRemove,
}: {
  readonly group: Typed;
  readonly onChange: (group: Typed) => void;
  readonly onRemove: (() => void) | undefined;
}) {
  return (
    <div className={styles.group}>
      <SelectField
        label="Work"
        value={group.profile}
        onChange={(event) =>
          onChange({
            ...group,
            profile: PROFILE_KEYS.find((one) => one === event.target.value) ?? 'standard',
          })
        }
      >
        {PROFILE_KEYS.map((key) => (
          <option key={key}>{key}</option>
        ))}
      </SelectField>
      <TextField
        label="People"
        inputMode="numeric"
        value={group.people}
        onChange={(event) => onChange({ ...group, people: event.target.value })}
        error={whole(group.people, 0, 5_000) === undefined ? 'a number' : undefined}
      />
      <TextField
        label="At once, in %"
        inputMode="numeric"
        value={group.concurrency}
        onChange={(event) => onChange({ ...group, concurrency: event.target.value })}
        error={whole(group.concurrency, 1, 100) === undefined ? '1 to 100' : undefined}
      />
      {onRemove && (
        <button
          type="button"
          className={styles.remove}
          aria-label={`Without ${group.profile}`}
          onClick={onRemove}
        >
          <X size={16} aria-hidden="true" />
        </button>
      )}
    </div>
  );
}
