import type { ProposedTask } from '../../contract';
import { Fragment, useState } from 'react';
import { awaits, impactLine, mayBegin, timelineOf } from '../../core/planning';
import { count, writeMoney } from '../../client/format';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { TextField } from '../../ui/Field';
import { ImpactLine } from '../../ui/ImpactLine';
import { Mark, type MarkLook } from '../../ui/Mark';
import { asksForCode, useChangeForm } from './change-form';
import styles from './ChangeDialog.module.css';
import { ChangeInput } from './ChangeFields';
import type { Changing } from './changing';
import { Checks } from './Checks';
import { HoldFor, USUAL_HOLD } from './HoldFor';
import { PolicyFields } from './PolicyFields';
import { TimeLine } from './TimeLine';
import { changePath, useProposal } from './use-proposal';

interface Props {
  readonly customer: { readonly code: string; readonly name: string; readonly mark: MarkLook };
  /** The environment that it changes; left out for what makes one. */
  readonly environment?: string;
  readonly change: Changing;
  readonly onClose: () => void;
  /** Told the run that was begun; left out: its page is shown. */
  readonly onBegun?: (run: string) => void;
}

/** The one dialog for every change, drawn from its proposal: whose it is, what it does, to whom, for how much. */
export default function ChangeDialog({ customer, environment, change, onClose, onBegun }: Props) {
  const { form, asked } = useChangeForm(change.kind, change.input);
  const { found, problem, fields, busy, begin, hold } = useProposal(
    changePath(customer.code, change.kind, environment),
    asked,
  );
  const [code, setCode] = useState('');
  const [minutes, setMinutes] = useState(USUAL_HOLD);
  const named = [...(change.field ? [change.field] : []), ...(change.more ?? [])];
  const proposal = found?.proposal;
  const waits = proposal && awaits(proposal.checks);
  // Who says yes types it.
  const needsCode =
    waits === undefined && (asksForCode(change.kind) || (proposal?.destroyed.length ?? 0) > 0);
  const { errors } = form.formState;
  const isFaulty = Object.keys(errors).length > 0;
  const ready =
    proposal !== undefined &&
    proposal.refused === null &&
    mayBegin(proposal.checks) &&
    !isFaulty &&
    (!needsCode || code === customer.code);
  const confirm = form.handleSubmit(async ({ reason }) => {
    const run = await begin({ reason, ...(needsCode ? { code } : {}) });
    if (run === undefined) return;
    change.done?.();
    if (onBegun) onBegun(run);
    else location.assign(`/customers/${customer.code}/runs/${run}`);
  });
  // What takes nothing has nothing to be kept; what waits for another's word is kept for them.
  const mayHold = waits !== undefined || proposal?.tasks.some((task) => task.do === 'make') === true;
  const keep = form.handleSubmit(async ({ reason }) => {
    const id = await hold({ reason, minutes });
    if (id !== undefined) location.assign(`/customers/${customer.code}/holds/${id}`);
  });
  const sees = proposal?.checks.filter(
    // When it would work is told also where nothing is wrong with it.
    (check) => (check.state !== 'passes' || check.key === 'window') && !check.key.startsWith('field '),
  );
  return (
    <Dialog
      open
      onClose={onClose}
      title={`${change.verb} ${change.what} for ${customer.name}`}
      mark={<Mark mark={customer.mark} size={34} />}
      actions={
        <>
          {mayHold && <HoldFor minutes={minutes} onMinutes={setMinutes} />}
          <Button onPress={onClose}>Back</Button>
          {waits === undefined && mayHold && (
            <Button isDisabled={!ready || busy} onPress={() => void keep()}>
              Hold
            </Button>
          )}
          {waits === undefined ? (
            <Button
              kind={change.danger === true ? 'danger' : 'main'}
              isDisabled={!ready || busy}
              onPress={() => void confirm()}
            >
              {change.verb} for {customer.code}
            </Button>
          ) : (
            <Button kind="main" isDisabled={!ready || busy} onPress={() => void keep()}>
              Ask for approval
            </Button>
          )}
        </>
      }
    >
      {named.map((field, at) => (
        <ChangeInput key={field.name} form={form} field={field} refused={fields} isFirst={at === 0} />
      ))}
      {proposal && proposal.refused === null ? (
        <>
          <ImpactLine line={impactLine(proposal.impact, writeMoney)} />
          <Tasks tasks={proposal.tasks} />
        </>
      ) : (
        problem === undefined && Object.keys(fields).length === 0 && <p>Checking …</p>
      )}
      {sees && sees.length > 0 && <Checks checks={sees} customer={customer.code} />}
      {proposal && proposal.steps.length > 3 && (
        <details>
          <summary>{proposal.steps.length} steps in time</summary>
          <TimeLine {...timelineOf(proposal.steps, proposal.policy.atATime)} />
        </details>
      )}
      {proposal && proposal.steps.length > 0 && <PolicyFields form={form} proposal={proposal} />}
      <TextField
        label="Why"
        placeholder="for the trail"
        error={errors.reason?.message}
        {...form.register('reason')}
      />
      {needsCode && (
        <TextField
          label={`Type ${customer.code}`}
          help="This cannot be undone."
          value={code}
          autoComplete="off"
          onChange={(event) => setCode(event.target.value.toUpperCase())}
        />
      )}
      {Object.entries(fields)
        .filter(([name]) => !named.some((field) => field.name === name))
        .map(([name, why]) => (
          <p key={name} role="alert" className={styles.problem}>
            {name.split('.').at(-1)}: {why}
          </p>
        ))}
      {problem !== undefined && Object.keys(fields).length === 0 && (
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
  retain: 'kept',
};
const MOST_NAMES = 8;

/** Things of one kind, by name; the rest in a number. */
function Names({ kind, tasks }: { readonly kind: string; readonly tasks: readonly ProposedTask[] }) {
  return (
    <span className={styles.kind}>
      {kind.replaceAll('-', ' ')}{' '}
      {tasks.slice(0, MOST_NAMES).map((task, index) => (
        <Fragment key={task.key}>
          {index > 0 && ', '}
          <span className={`mono ${styles.name ?? ''}`}>{task.name}</span>
        </Fragment>
      ))}
      {tasks.length > MOST_NAMES && ` and ${count(tasks.length - MOST_NAMES, 'more', 'more')}`}
    </span>
  );
}

/** What is done to what. */
export function Tasks({ tasks }: { readonly tasks: readonly ProposedTask[] }) {
  const done = [...new Set(tasks.map((task) => task.do))];
  return (
    <ul className={styles.tasks}>
      {done.map((what) => {
        const own = tasks.filter((task) => task.do === what);
        const says = [...new Set(own.flatMap((task) => task.says))];
        return (
          <li key={what}>
            <b>{VERB[what]}</b>
            <span>
              {[...new Set(own.map((task) => task.kind))].map((kind) => (
                <Names key={kind} kind={kind} tasks={own.filter((task) => task.kind === kind)} />
              ))}
              {says.length > 0 && says.length <= 3 && <small>{says.join('; ')}</small>}
            </span>
          </li>
        );
      })}
    </ul>
  );
}
