import { useEffect, useState } from 'react';
import type { Mark as MarkOf, MovesProposal, PlanVersion } from '../../contract';
import { sum } from '../../core/money';
import { compareTerms } from '../../core/plans';
import { ApiProblem, get, newKey, send, whyOf } from '../../client/api';
import { dayOrNull } from '../../client/form';
import { count, writeDay } from '../../client/format';
import { Button, ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { TextField } from '../../ui/Field';
import { ImpactLine } from '../../ui/ImpactLine';
import { Mark } from '../../ui/Mark';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import { CountField } from '../shared/CountField';
import { Differences } from './Differences';
import { monthlySays } from './MovePlan';
import styles from './MoveMany.module.css';
import plans from './Plans.module.css';
import { WhyField } from '../shared/WhyField';

interface Props {
  readonly plan: { readonly code: string; readonly name: string; readonly versions: readonly PlanVersion[] };
  /** The version that they are moved to. */
  readonly target: PlanVersion;
  readonly initial: MovesProposal;
  readonly marks: Readonly<Record<string, MarkOf>>;
  /** What each size holds, by its key. */
  readonly sizes: Readonly<Record<string, string>>;
  readonly now: number;
}

type Each = MovesProposal['customers'][number];

const isBarred = (one: Each): boolean => one.findings.length > 0 || one.monthly === null;

/** Who of those on an older version can be moved to this one, who would not fit, and what does it come to? */
export function MoveMany({ plan, target, initial, marks, sizes, now }: Props) {
  const { version } = target;
  const first = target.from > now ? new Date(target.from).toISOString().slice(0, 10) : '';
  const [day, setDay] = useState(first);
  const [proposal, setProposal] = useState(initial);
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set());
  const [typed, setTyped] = useState('');
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<string>();
  const [pilots, setPilots] = useState('0');
  const [pause, setPause] = useState('0');
  const [fields, setFields] = useState<Readonly<Record<string, string>>>({});
  const [busy, setBusy] = useState(false);
  // One for the whole form: sent again after an answer that was lost, it is the same run.
  const [key] = useState(newKey);
  useEffect(() => {
    let ended = false;
    const from = dayOrNull(day);
    get('/plans/{plan}/moves', { plan: plan.code }, { version, ...(from === null ? {} : { from }) }).then(
      (answer) => {
        if (ended) return;
        setProposal(answer);
        setProblem(undefined);
      },
      (error: unknown) => !ended && setProblem(whyOf(error)),
    );
    return () => {
      ended = true;
    };
  }, [plan.code, version, day]);
  const barred = proposal.customers.filter(isBarred);
  const fits = proposal.customers.filter((one) => !isBarred(one));
  const chosen = fits.filter((one) => !without.has(one.code));
  const move = async (): Promise<void> => {
    setBusy(true);
    setProblem(undefined);
    setFields({});
    const customers = chosen.map((one) => one.code);
    const body = {
      version,
      from: dayOrNull(day),
      customers,
      count: Number(typed),
      reason,
      pilots: Number(pilots),
      pauseMinutes: Number(pause),
    };
    try {
      const { run } = await send('POST', '/plans/{plan}/moves', { plan: plan.code }, { body, key });
      window.location.assign(`/runs/${run}`);
    } catch (error) {
      const named = error instanceof ApiProblem ? error.fields : {};
      setFields(named);
      if (named.pilots === undefined && named.pauseMinutes === undefined) setProblem(whyOf(error));
      setBusy(false);
    }
  };
  if (proposal.customers.length === 0)
    return (
      <Empty says={`Nobody is on another version of ${plan.name}.`}>
        <ButtonLink href="/money/plans">Plans</ButtonLink>
      </Empty>
    );
  const older = plan.versions.filter((one) =>
    proposal.customers.some((each) => each.version === one.version),
  );
  const toggle = (code: string): void =>
    setWithout((before) => {
      const next = new Set(before);
      if (!next.delete(code)) next.add(code);
      return next;
    });
  return (
    <div className={styles.page}>
      <div className={styles.head}>
        <Ring
          size={120}
          label={`${fits.length} of ${count(proposal.customers.length, 'customer', 'customers')} fit`}
          unit={`of ${proposal.customers.length} fit`}
          arcs={[
            { look: 'full' as const, parts: chosen.length, fill: 1 },
            { look: 'hollow' as const, parts: fits.length - chosen.length, fill: 0 },
            { look: 'crossed' as const, parts: barred.length, fill: 0 },
          ].filter(({ parts }) => parts > 0)}
        >
          {fits.length}
        </Ring>
        <Figures>
          <Figure value={chosen.length} label="are moved" />
          <Figure value={fits.length - chosen.length} label="are left as they are" />
          <Figure value={barred.length} label="would not fit" />
          {sumsOf(chosen).map((says) => (
            <Figure key={says} value={says} label="for all of them" />
          ))}
        </Figures>
      </div>
      <div className={styles.who}>
        <Panel
          title={count(fits.length, 'customer fits', 'customers fit')}
          side={
            fits.length > 1 && (
              <Button
                kind="quiet"
                onPress={() =>
                  setWithout(chosen.length === 0 ? new Set() : new Set(fits.map((one) => one.code)))
                }
              >
                {chosen.length === 0 ? 'All of them' : 'None of them'}
              </Button>
            )
          }
        >
          {fits.length === 0 ? (
            <p className={plans.help}>Nobody who is on an older version would fit.</p>
          ) : (
            <ul className={styles.customers} tabIndex={0} aria-label="Who fits">
              {fits.map((one) => (
                <li key={one.code}>
                  <label>
                    <input
                      type="checkbox"
                      checked={!without.has(one.code)}
                      onChange={() => toggle(one.code)}
                    />
                    <Who one={one} marks={marks} />
                  </label>
                  <span>{monthlySays(one.monthly)}</span>
                </li>
              ))}
            </ul>
          )}
        </Panel>
        {barred.length > 0 && (
          <Panel title={count(barred.length, 'would not fit, and stays', 'would not fit, and stay')}>
            <ul className={styles.customers} tabIndex={0} aria-label="Who would not fit">
              {barred.map((one) => (
                <li key={one.code}>
                  <a href={`/customers/${one.code}/plan`}>
                    <Who one={one} marks={marks} />
                  </a>
                  <span className={styles.why}>
                    {(one.findings.length === 0 ? ['not sold in their currency'] : one.findings).map(
                      (says) => (
                        <Chip key={says} tone="care">
                          {says}
                        </Chip>
                      ),
                    )}
                  </span>
                </li>
              ))}
            </ul>
            <p className={plans.help}>What does not fit is allowed for a while on each one’s own page.</p>
          </Panel>
        )}
      </div>
      <div className={styles.beside}>
        {older.map((one) => (
          <Panel key={one.version} title={`What becomes otherwise for those on v${one.version}`}>
            <Differences
              from={`v${one.version}`}
              to={`v${version}`}
              differences={compareTerms(one, target, sizes)}
            />
          </Panel>
        ))}
        <Panel title={`Move them to ${plan.name} v${version}`}>
          <div className={plans.form}>
            <ImpactLine line={impactOf(chosen, proposal.from)} />
            {chosen.length > 0 && <p className={styles.codes}>{chosen.map((one) => one.code).join(', ')}</p>}
            <TextField
              label="From"
              type="date"
              help={
                first === ''
                  ? 'left empty: from now on'
                  : `from ${writeDay(target.from, 'UTC')} at the earliest`
              }
              value={day}
              onChange={(event) => setDay(event.target.value)}
            />
            <div className={styles.pair}>
              <TextField
                label="How many go first"
                inputMode="numeric"
                help="the others wait until these are moved"
                value={pilots}
                error={fields.pilots}
                onChange={(event) => setPilots(event.target.value)}
              />
              <TextField
                label="Minutes between groups of 4"
                inputMode="numeric"
                value={pause}
                error={fields.pauseMinutes}
                onChange={(event) => setPause(event.target.value)}
              />
            </div>
            <WhyField value={reason} onChange={setReason} />
            <CountField count={chosen.length} what="customers" value={typed} onValue={setTyped} />
            {problem !== undefined && (
              <p role="alert" className={plans.problem}>
                {problem}
              </p>
            )}
            <div className={plans.buttons}>
              <ButtonLink href="/money/plans">Back</ButtonLink>
              <Button
                kind="main"
                isDisabled={busy || chosen.length === 0 || typed.trim() !== String(chosen.length)}
                onPress={() => void move()}
              >
                {busy ? 'Moving …' : `Move ${count(chosen.length, 'customer', 'customers')}`}
              </Button>
            </div>
          </div>
        </Panel>
      </div>
    </div>
  );
}

function Who({ one, marks }: { readonly one: Each; readonly marks: Props['marks'] }) {
  const mark = marks[one.code];
  return (
    <span className={styles.one}>
      {mark && <Mark mark={mark} size={26} />}
      <span>
        {one.name} <small>v{one.version}</small>
      </span>
    </span>
  );
}

/** What it comes to a month for all of them, in each currency. */
function sumsOf(chosen: readonly Each[]): string[] {
  const amounts = chosen.flatMap((one) => one.monthly ?? []);
  const currencies = [...new Set(amounts.map((one) => one.currency))].sort();
  const sums = currencies.map((currency) =>
    monthlySays(
      sum(
        amounts.filter((one) => one.currency === currency),
        currency,
      ),
    ),
  );
  return [...new Set(sums)];
}

/** How many, what it comes to in each currency, and from when. */
const impactOf = (chosen: readonly Each[], from: number): string =>
  [
    count(chosen.length, 'customer', 'customers'),
    ...sumsOf(chosen),
    `from ${writeDay(from, 'UTC')}`,
    'each can be moved back',
  ].join(' · ');
