import { useEffect, useState } from 'react';
import type { CustomerPlan, MoveProposal, Plan } from '../../contract';
import type { Money } from '../../core/money';
import { newKey, send, whyOf } from '../../client/api';
import { dayOrNull } from '../../client/form';
import { writeDay, writeMoney } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Dialog } from '../../ui/Dialog';
import { SelectField, TextField } from '../../ui/Field';
import { Mark } from '../../ui/Mark';
import type { PlanOwner } from './owner';
import { Differences } from './Differences';
import styles from './Plans.module.css';
import { WhyField } from '../shared/WhyField';

interface Props {
  readonly customer: PlanOwner;
  readonly held: CustomerPlan;
  readonly plans: readonly Plan[];
  /** The plan that is chosen at first. */
  readonly first: string | undefined;
  readonly onClose: () => void;
  readonly onDone: () => void;
}

/** Moves a customer to another plan: what becomes otherwise, what would not fit, what it costs more or less. */
export function MovePlan({ customer, held, plans, first, onClose, onDone }: Props) {
  const { code } = customer;
  const choices = plans.flatMap((plan) => {
    const newest = plan.versions[0];
    const isHeld = plan.code === held.plan && newest?.version === held.version;
    return newest && !isHeld ? [{ code: plan.code, name: `${plan.name} v${newest.version}` }] : [];
  });
  const [plan, setPlan] = useState(first ?? choices[0]?.code ?? '');
  const [day, setDay] = useState('');
  const [allowUntil, setAllowUntil] = useState('');
  const [reason, setReason] = useState('');
  const [proposal, setProposal] = useState<MoveProposal>();
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    if (plan === '') return;
    let ended = false;
    send(
      'POST',
      '/customers/{customer}/plan/proposal',
      { customer: code },
      { body: { plan, from: dayOrNull(day) } },
    ).then(
      (answer) => {
        if (ended) return;
        setProposal(answer);
        setProblem(undefined);
      },
      (error: unknown) => {
        if (ended) return;
        setProposal(undefined);
        setProblem(whyOf(error));
      },
    );
    return () => {
      ended = true;
    };
  }, [code, plan, day]);
  const findings = proposal?.findings ?? [];
  const isBarred = findings.some((one) => one.limit === undefined) || proposal?.monthly === null;
  const ready = proposal !== undefined && !isBarred && (findings.length === 0 || allowUntil !== '');
  const move = async (): Promise<void> => {
    setBusy(true);
    try {
      await send(
        'POST',
        '/customers/{customer}/plan',
        { customer: code },
        {
          body: { plan, from: dayOrNull(day), allowUntil: dayOrNull(allowUntil), reason },
          key: newKey(),
        },
      );
      onDone();
    } catch (error) {
      setProblem(whyOf(error));
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Move ${customer.name} to another plan`}
      mark={<Mark mark={customer.mark} size={34} />}
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <Button kind="main" isDisabled={!ready || busy} onPress={() => void move()}>
            Move {code}
          </Button>
        </>
      }
    >
      {choices.length === 0 && <p className={styles.help}>There is no other plan, and no newer version.</p>}
      <div className={styles.pair}>
        <SelectField label="To" value={plan} onChange={(event) => setPlan(event.target.value)}>
          {choices.map((one) => (
            <option key={one.code} value={one.code}>
              {one.name}
            </option>
          ))}
        </SelectField>
        <TextField
          label="From"
          type="date"
          help="left empty: from now on"
          value={day}
          onChange={(event) => setDay(event.target.value)}
        />
      </div>
      {proposal && (
        <>
          <p>
            <b>{monthlySays(proposal.monthly)}</b>, from {writeDay(proposal.from, customer.zone)}
          </p>
          <Differences
            from={`${held.name} v${held.version}`}
            to={`${proposal.name} v${proposal.version}`}
            differences={proposal.differences}
          />
          {findings.length > 0 && (
            <>
              <ul className={styles.findings}>
                {findings.map((one) => (
                  <li key={one.says}>
                    <Chip tone={one.limit === undefined ? 'bad' : 'care'}>{one.says}</Chip>
                  </li>
                ))}
              </ul>
              {isBarred ? (
                <p className={styles.help}>
                  What has no such site or size there must be moved or retired first.
                </p>
              ) : (
                <TextField
                  label="Allow what does not fit until"
                  type="date"
                  help="then the plan’s own limits hold; what stands stays, and nothing more is built"
                  value={allowUntil}
                  onChange={(event) => setAllowUntil(event.target.value)}
                />
              )}
            </>
          )}
        </>
      )}
      <WhyField value={reason} onChange={setReason} />
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </Dialog>
  );
}

/** What another plan costs a month more or less; null: it is not sold in their currency. */
export function monthlySays(monthly: Money | null): string {
  if (monthly === null) return 'Not sold in their currency';
  if (monthly.minor === 0) return 'Costs the same';
  const amount = writeMoney({ ...monthly, minor: Math.abs(monthly.minor) });
  return monthly.minor > 0 ? `${amount} a month more` : `${amount} a month less`;
}
