import type { ProposalView, ProposedTask } from '../../contract';
import { Fragment, useState, type ReactNode } from 'react';
import { impactLine, mayBegin } from '../../core/planning';
import { count, writeMoney } from '../../client/format';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { TextField } from '../../ui/Field';
import { ImpactLine } from '../../ui/ImpactLine';
import { Mark, type MarkLook } from '../../ui/Mark';
import styles from './ChangeDialog.module.css';
import { Checks } from './Checks';
import { changePath, useProposal } from './use-proposal';

interface Props {
  readonly customer: { readonly code: string; readonly name: string; readonly mark: MarkLook };
  /** The environment that it changes; left out for what makes one. */
  readonly environment?: string;
  readonly change: { readonly kind: string; readonly verb: string; readonly what: string };
  readonly input: unknown;
  /** Fields for what can still be chosen; told what is wrong with each. */
  readonly fields?: (errors: Readonly<Record<string, string>>) => ReactNode;
  readonly danger?: boolean;
  readonly onClose: () => void;
  /** Told the run that was begun; left out: its page is shown. */
  readonly onBegun?: (run: string) => void;
}

/** The one dialog for every change, drawn from its proposal: whose it is, what it does, to whom, for how much. */
export function ChangeDialog({
  customer,
  environment,
  change,
  input,
  fields,
  danger = false,
  onClose,
  onBegun,
}: Props) {
  const [reason, setReason] = useState('');
  const [policy, setPolicy] = useState<Record<string, number | string>>({});
  const path = changePath(customer.code, change.kind, environment);
  const {
    found,
    problem,
    fields: errors,
    busy,
    begin,
  } = useProposal(path, {
    input,
    ...(Object.keys(policy).length > 0 ? { policy } : {}),
  });
  const proposal = found?.proposal;
  const ready = proposal !== undefined && proposal.refused === null && mayBegin(proposal.checks);
  const confirm = async (): Promise<void> => {
    const run = await begin({ reason });
    if (run === undefined) return;
    if (onBegun) onBegun(run);
    else location.assign(`/customers/${customer.code}/runs/${run}`);
  };
  const sees = proposal?.checks.filter(
    (check) => check.state !== 'passes' && !check.key.startsWith('field '),
  );
  return (
    <Dialog
      open
      onClose={onClose}
      title={`${change.verb} ${change.what} for ${customer.name}`}
      mark={<Mark mark={customer.mark} size={34} />}
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <Button
            kind={danger ? 'danger' : 'main'}
            isDisabled={!ready || busy}
            onPress={() => void confirm()}
          >
            {change.verb} for {customer.code}
          </Button>
        </>
      }
    >
      {fields?.(errors)}
      {proposal && proposal.refused === null ? (
        <>
          <ImpactLine line={impactLine(proposal.impact, writeMoney)} />
          <Tasks tasks={proposal.tasks} />
        </>
      ) : (
        problem === undefined &&
        Object.keys(errors).length === 0 && <p>Signing in to the provider and checking …</p>
      )}
      {sees && sees.length > 0 && <Checks checks={sees} />}
      {proposal && proposal.steps.length > 0 && (
        <PolicyFields
          proposal={proposal}
          onChange={(name, value) => setPolicy((before) => ({ ...before, [name]: value }))}
        />
      )}
      <TextField
        label="Why"
        placeholder="for the trail"
        value={reason}
        maxLength={250}
        onChange={(event) => setReason(event.target.value)}
      />
      {problem !== undefined && Object.keys(errors).length === 0 && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </Dialog>
  );
}

const VERB: Readonly<Record<ProposedTask['do'], string>> = {
  make: 'made',
  change: 'changed',
  replace: 'made anew',
  remove: 'taken away',
};
const MOST_NAMES = 8;

/** What is done to what, by name; the rest in a number. */
function Tasks({ tasks }: { readonly tasks: readonly ProposedTask[] }) {
  const kinds = [...new Set(tasks.map((task) => task.do))];
  return (
    <ul className={styles.tasks}>
      {kinds.map((kind) => {
        const own = tasks.filter((task) => task.do === kind);
        const says = [...new Set(own.flatMap((task) => task.says))];
        return (
          <li key={kind}>
            <b>{VERB[kind]}</b>
            <span>
              {own.slice(0, MOST_NAMES).map((task, index) => (
                <Fragment key={task.key}>
                  {index > 0 && ', '}
                  <span className={`mono ${styles.name ?? ''}`}>{task.name}</span>
                </Fragment>
              ))}
              {own.length > MOST_NAMES && ` and ${count(own.length - MOST_NAMES, 'more', 'more')}`}
              {says.length > 0 && says.length <= 3 && <small>{says.join('; ')}</small>}
            </span>
          </li>
        );
      })}
    </ul>
  );
}

/** How the run goes about it; closed until someone wants it otherwise. */
function PolicyFields({
  proposal,
  onChange,
}: {
  readonly proposal: ProposalView;
  readonly onChange: (name: string, value: number | string) => void;
}) {
  const { policy, steps } = proposal;
  const empties = steps.some((step) => step.action === 'empty');
  const says = [
    `${policy.atATime} at a time`,
    ...(policy.waves === undefined ? [] : [`waves of ${policy.waves}`]),
    ...(empties ? [`${policy.drain?.minutes ?? 0} min to sign out`] : []),
    `stops after ${count(policy.failureLimit, 'failure', 'failures')}`,
  ].join(', ');
  const number = (name: string, label: string, value: number, help?: string) => (
    <TextField
      label={label}
      type="number"
      min={0}
      defaultValue={value}
      {...(help === undefined ? {} : { help })}
      onChange={(event) => event.target.value !== '' && onChange(name, Number(event.target.value))}
    />
  );
  return (
    <details className={styles.policy}>
      <summary>{says}</summary>
      <div>
        {number('atATime', 'Steps at a time', policy.atATime)}
        {number('failureLimit', 'Stop after failures', policy.failureLimit)}
        {number('waves', 'Hosts in a wave', policy.waves ?? 0, '0: no waves')}
        {empties && number('drainMinutes', 'Minutes to sign out', policy.drain?.minutes ?? 0)}
        {empties && (
          <TextField
            label="What people are told"
            defaultValue={policy.drain?.message ?? ''}
            maxLength={200}
            onChange={(event) => onChange('message', event.target.value)}
          />
        )}
      </div>
    </details>
  );
}
