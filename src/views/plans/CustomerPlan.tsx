import { ArrowRightLeft, ChevronsUp } from 'lucide-react';
import { useState } from 'react';
import type { CustomerPlan as Data, Plan } from '../../contract';
import { LIMITS, LIMIT_WORDS, mostOf, type Limit } from '../../core/plans';
import { get, newKey, send, whyOf } from '../../client/api';
import { writeDay, writeFigure, writePrice } from '../../client/format';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Figure, Figures, Panel } from '../../ui/Panel';
import { MovePlan } from './MovePlan';
import { OtherPlans } from './OtherPlans';
import type { PlanOwner } from './owner';
import { RaiseLimit } from './RaiseLimit';
import { includedSays } from './included';
import styles from './Plans.module.css';

interface Props {
  readonly customer: PlanOwner;
  readonly initial: Data;
  readonly plans: readonly Plan[];
  readonly now: number;
  /** What each size holds, by its key. */
  readonly sizes: Readonly<Record<string, string>>;
  /** Whether who looks may move the customer and raise limits. */
  readonly mayDecide: boolean;
}

/** What may this customer have, and how much of it is taken? */
export function CustomerPlan({ customer, initial, plans, now, sizes, mayDecide }: Props) {
  const { code, zone, currency } = customer;
  const { value, again } = useLive(
    { key: 'plan', read: () => get('/customers/{customer}/plan', { customer: code }) },
    initial,
    `/customers/${code}/events`,
    (change) => change.topic !== 'clock',
  );
  const [open, setOpen] = useState<'raise' | { readonly plan: string | undefined }>();
  const [problem, setProblem] = useState<string>();
  const newest = plans.find((one) => one.code === value.plan)?.versions[0]?.version ?? value.version;
  const fee = value.fees.find((one) => one.currency === currency);
  const done = (): void => {
    setOpen(undefined);
    again();
  };
  const end = async (allowance: string): Promise<void> => {
    setProblem(undefined);
    try {
      await send(
        'DELETE',
        '/customers/{customer}/allowances/{allowance}',
        { customer: code, allowance },
        { key: newKey() },
      );
    } catch (error) {
      setProblem(whyOf(error));
    }
    again();
  };
  return (
    <div className={styles.held}>
      <h1 className="sr">Plan</h1>
      <Figures>
        <Figure
          value={value.name}
          label={`version ${value.version}, since ${writeDay(value.from, zone)}`}
          note={newest > value.version ? `version ${newest} can be had` : undefined}
        />
        <Figure value={fee ? writePrice(fee.monthly, currency) : 'no fee'} label="a month, by the second" />
        <Figure value={`${value.retentionDays} days`} label="data kept after leaving" />
        <Figure value={value.localAdministrator ? 'yes' : 'no'} label="a local administrator" />
      </Figures>
      {value.beyond.length > 0 && (
        <ul className={styles.findings}>
          {value.beyond.map((says) => (
            <li key={says}>
              <Chip tone="bad">{says}</Chip>
            </li>
          ))}
        </ul>
      )}
      <div className={styles.top}>
        <Panel
          title="Taken of it"
          side={
            mayDecide && (
              <Button icon={<ChevronsUp size={15} aria-hidden="true" />} onPress={() => setOpen('raise')}>
                Raise a limit
              </Button>
            )
          }
        >
          <dl className={styles.limits}>
            {LIMITS.map((limit) => (
              <Taken key={limit} limit={limit} plan={value} now={now} />
            ))}
            <div>
              <dt>Sizes</dt>
              <dd>
                {value.sizes.length === 0
                  ? 'all that a site has'
                  : value.sizes.map((key) => sizes[key] ?? key).join(', ')}
              </dd>
              <dd />
            </div>
            <div>
              <dt>Sites</dt>
              <dd>{value.sites.length === 0 ? 'all' : value.sites.join(', ')}</dd>
              <dd />
            </div>
            <div>
              <dt>In the fee</dt>
              <dd>{includedSays(value.included)}</dd>
              <dd />
            </div>
          </dl>
        </Panel>
        <div className={styles.outcome}>
          <Panel title="Raised for them">
            {problem !== undefined && (
              <p role="alert" className={styles.problem}>
                {problem}
              </p>
            )}
            {value.allowances.length === 0 ? (
              <p className={styles.help}>The plan’s own limits hold.</p>
            ) : (
              <ul className={styles.allowances}>
                {value.allowances.map((one) => (
                  <li key={one.id}>
                    <span>
                      {LIMIT_WORDS[one.limit].title} to <b>{writeFigure(one.most)}</b> until{' '}
                      {writeDay(one.until, zone)}
                    </span>
                    {mayDecide && (
                      <Button kind="quiet" onPress={() => void end(one.id)}>
                        End
                      </Button>
                    )}
                    <small>
                      {one.reason}; {one.actor}, {writeDay(one.madeAt, zone)}
                    </small>
                  </li>
                ))}
              </ul>
            )}
          </Panel>
          <Panel
            title="Plans over time"
            side={
              mayDecide && (
                <Button
                  icon={<ArrowRightLeft size={15} aria-hidden="true" />}
                  onPress={() => setOpen({ plan: undefined })}
                >
                  Move to another
                </Button>
              )
            }
          >
            <ol className={styles.stays}>
              {value.stays.map((stay) => (
                <li key={stay.from} aria-current={stay.from === value.from ? 'true' : undefined}>
                  {stay.from === value.from ? <b>{stay.name}</b> : stay.name} v{stay.version}{' '}
                  <small>
                    {stay.from > now ? 'will be, from' : 'from'} {writeDay(stay.from, zone)}
                  </small>
                </li>
              ))}
            </ol>
          </Panel>
        </div>
      </div>
      <OtherPlans
        held={value}
        plans={plans}
        currency={currency}
        now={now}
        onMove={mayDecide ? (plan) => setOpen({ plan }) : undefined}
      />
      {typeof open === 'object' && (
        <MovePlan
          first={open.plan}
          customer={customer}
          held={value}
          plans={plans}
          onClose={() => setOpen(undefined)}
          onDone={done}
        />
      )}
      {open === 'raise' && (
        <RaiseLimit customer={customer} held={value} onClose={() => setOpen(undefined)} onDone={done} />
      )}
    </div>
  );
}

/** How much of one limit is taken: a bar up to the limit, the plan's own marked where it was raised. */
function Taken({ limit, plan, now }: { readonly limit: Limit; readonly plan: Data; readonly now: number }) {
  const own = plan.most[limit];
  const most = mostOf(plan, limit, now);
  const takes = plan.takes[limit];
  const scale = Math.max(1, takes, most ?? 0);
  return (
    <div>
      <dt>{LIMIT_WORDS[limit].title}</dt>
      <dd>
        {most !== null && (
          <span className={styles.bar} aria-hidden="true">
            <i data-beyond={takes > most || undefined} style={{ width: `${(100 * takes) / scale}%` }} />
            {own !== null && most !== own && <b style={{ width: `${(100 * own) / scale}%` }} />}
          </span>
        )}
      </dd>
      <dd>
        {writeFigure(takes)} {most === null ? <small>no limit</small> : `of ${writeFigure(most)}`}
      </dd>
    </div>
  );
}
