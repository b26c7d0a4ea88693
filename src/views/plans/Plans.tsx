import { Plus } from 'lucide-react';
import { useState } from 'react';
import type { Mark as MarkOf, Plan, PlanVersion } from '../../contract';
import { compareTerms, LIMITS, LIMIT_WORDS } from '../../core/plans';
import { get } from '../../client/api';
import { count, writeDay, writeFigure, writePrice } from '../../client/format';
import { useLive } from '../../client/live';
import { Button, ButtonLink } from '../../ui/Button';
import { Mark } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import { Differences } from './Differences';
import { includedSays } from './included';
import styles from './Plans.module.css';

interface Props {
  readonly initial: readonly Plan[];
  readonly marks: Readonly<Record<string, MarkOf>>;
  /** What each size holds, by its key. */
  readonly sizes: Readonly<Record<string, string>>;
  readonly now: number;
  readonly mayKeep: boolean;
}

interface Shown extends PlanVersion {
  readonly code: string;
  readonly name: string;
  readonly key: string;
  readonly isNewest: boolean;
  /** How many customers in reach are on another version of the plan. */
  readonly older: number;
}

/** What is sold, and who is on which? */
export function Plans({ initial, marks, sizes, now, mayKeep }: Props) {
  const { value: plans } = useLive(
    { key: 'plans', read: async () => (await get('/plans', {})).plans },
    initial,
    '/events',
    (change) => change.topic === 'ground' || change.topic === 'summary',
  );
  const [picked, setPicked] = useState<readonly string[]>([]);
  const shown = plans.flatMap(shownOf);
  if (shown.length === 0)
    return (
      <Empty says="Nothing is sold yet.">
        {mayKeep && (
          <ButtonLink kind="main" href="/money/plans/edit">
            Make a plan
          </ButtonLink>
        )}
      </Empty>
    );
  const pick = (key: string): void =>
    setPicked((before) =>
      before.includes(key) ? before.filter((one) => one !== key) : [...before, key].slice(-2),
    );
  const [one, other] = picked.map((key) => shown.find((each) => each.key === key));
  return (
    <div className={styles.page}>
      <h1 className="sr">Plans</h1>
      <Panel
        title={count(plans.length, 'plan', 'plans')}
        side={
          mayKeep && (
            <ButtonLink href="/money/plans/edit" icon={<Plus size={15} aria-hidden="true" />}>
              Make a plan
            </ButtonLink>
          )
        }
        flush
      >
        <div className={styles.frame} tabIndex={0} role="region" aria-label="Plans side by side">
          <table className={styles.plans}>
            <thead>
              <tr>
                <td />
                {shown.map((each) => (
                  <th key={each.key} scope="col" data-old={!each.isNewest || undefined}>
                    <span>
                      {each.name} <small>v{each.version}</small>
                    </span>
                    <small>
                      {each.from > now
                        ? `from ${writeDay(each.from, 'UTC')}`
                        : `since ${writeDay(each.from, 'UTC')}`}
                    </small>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              <tr className={styles.who}>
                <th scope="row">On it</th>
                {shown.map((each) => (
                  <td key={each.key}>
                    <Who version={each} marks={marks} />
                  </td>
                ))}
              </tr>
              <tr>
                <th scope="row">A month</th>
                {shown.map((each) => (
                  <td key={each.key} className={styles.fee}>
                    {each.fees.length === 0
                      ? '–'
                      : each.fees.map((fee) => (
                          <span key={fee.currency}>{writePrice(fee.monthly, fee.currency)}</span>
                        ))}
                  </td>
                ))}
              </tr>
              {LIMITS.map((limit) => {
                const most = Math.max(1, ...shown.map((each) => each.most[limit] ?? 0));
                return (
                  <tr key={limit}>
                    <th scope="row">{LIMIT_WORDS[limit].title}</th>
                    {shown.map((each) => (
                      <td key={each.key}>
                        <Amount most={each.most[limit]} largest={most} />
                      </td>
                    ))}
                  </tr>
                );
              })}
              <tr>
                <th scope="row">Sizes</th>
                {shown.map((each) => (
                  <td key={each.key}>
                    {each.sizes.length === 0 ? 'all' : count(each.sizes.length, 'size', 'sizes')}
                  </td>
                ))}
              </tr>
              <tr>
                <th scope="row">Sites</th>
                {shown.map((each) => (
                  <td key={each.key}>{each.sites.length === 0 ? 'all' : each.sites.join(', ')}</td>
                ))}
              </tr>
              <tr>
                <th scope="row">Included</th>
                {shown.map((each) => (
                  <td key={each.key}>{includedSays(each.included)}</td>
                ))}
              </tr>
              <tr>
                <th scope="row">Data kept</th>
                {shown.map((each) => (
                  <td key={each.key}>{count(each.retentionDays, 'day', 'days')}</td>
                ))}
              </tr>
              <tr>
                <th scope="row">From the ready shelf</th>
                {shown.map((each) => (
                  <td key={each.key}>
                    {each.readyHosts > 0 ? count(each.readyHosts, 'host', 'hosts') : '–'}
                  </td>
                ))}
              </tr>
              <tr>
                <th scope="row">Local administrator</th>
                {shown.map((each) => (
                  <td key={each.key}>{each.localAdministrator ? 'yes' : '–'}</td>
                ))}
              </tr>
              <tr className={styles.acts}>
                <td />
                {shown.map((each) => (
                  <td key={each.key}>
                    <Button onPress={() => pick(each.key)} aria-pressed={picked.includes(each.key)}>
                      {picked.includes(each.key) ? 'Compared' : 'Compare'}
                    </Button>
                    {mayKeep && each.isNewest && (
                      <a href={`/money/plans/edit?plan=${each.code}`}>New version</a>
                    )}
                    {mayKeep && each.isNewest && each.older > 0 && (
                      <a href={`/money/plans/move?plan=${each.code}&version=${each.version}`}>
                        Move {count(each.older, 'customer', 'customers')} here
                      </a>
                    )}
                  </td>
                ))}
              </tr>
            </tbody>
          </table>
        </div>
      </Panel>
      {one && (
        <Panel
          title={
            other
              ? `${one.name} v${one.version} against ${other.name} v${other.version}`
              : `${one.name} v${one.version} against …`
          }
        >
          {other ? (
            <Differences
              from={`${one.name} v${one.version}`}
              to={`${other.name} v${other.version}`}
              differences={compareTerms(one, other, sizes)}
            />
          ) : (
            <p className={styles.help}>Press Compare at another plan.</p>
          )}
        </Panel>
      )}
    </div>
  );
}

/** The newest version of a plan, and the older ones that someone is on still. */
function shownOf({ code, name, versions }: Plan): Shown[] {
  const all = versions.reduce((total, one) => total + one.customers.length, 0);
  return versions
    .map((one, n) => ({
      ...one,
      code,
      name,
      key: `${code} ${one.version}`,
      isNewest: n === 0,
      older: all - one.customers.length,
    }))
    .filter((one) => one.isNewest || one.customers.length + one.others > 0);
}

const MOST_MARKS = 8;

function Who({
  version,
  marks,
}: {
  readonly version: PlanVersion;
  readonly marks: Readonly<Record<string, MarkOf>>;
}) {
  const { customers, others } = version;
  const all = customers.length + others;
  if (all === 0) return <span className={styles.none}>nobody</span>;
  return (
    <span className={styles.marks}>
      {customers.slice(0, MOST_MARKS).map((code) => {
        const mark = marks[code];
        return (
          mark && (
            <a key={code} href={`/customers/${code}/plan`} aria-label={code}>
              <Mark mark={mark} size={26} />
            </a>
          )
        );
      })}
      {all > Math.min(customers.length, MOST_MARKS) && (
        <small>and {all - Math.min(customers.length, MOST_MARKS)} more</small>
      )}
    </span>
  );
}

function Amount({ most, largest }: { readonly most: number | null; readonly largest: number }) {
  if (most === null) return <span className={styles.none}>no limit</span>;
  return (
    <span className={styles.amount}>
      <i aria-hidden="true">
        <b style={{ width: `${(100 * most) / largest}%` }} />
      </i>
      {writeFigure(most)}
    </span>
  );
}
