import type { ProposalView } from '../../contract';
import { count } from '../../client/format';
import { TextField } from '../../ui/Field';
import { numberOrNone, type ChangeForm } from './change-form';
import styles from './ChangeDialog.module.css';

/** How the run goes about it; closed until someone wants it otherwise. What is left empty stays as it is. */
export function PolicyFields({
  form,
  proposal,
}: {
  readonly form: ChangeForm;
  readonly proposal: ProposalView;
}) {
  const { policy, steps } = proposal;
  const empties = steps.some((step) => step.action === 'sign-out');
  const says = [
    `${policy.atATime} at a time`,
    ...(policy.waves === undefined ? [] : [`waves of ${policy.waves}`]),
    ...(empties ? [`${policy.drain?.minutes ?? 0} min to sign out`] : []),
    `stops after ${count(policy.failureLimit, 'failure', 'failures')}`,
  ].join(', ');
  const errors = form.formState.errors.policy;
  const number = (
    name: 'atATime' | 'failureLimit' | 'waves' | 'drainMinutes',
    label: string,
    now: number,
  ) => (
    <TextField
      label={label}
      type="number"
      min={0}
      placeholder={String(now)}
      error={errors?.[name]?.message}
      {...form.register(`policy.${name}`, { setValueAs: numberOrNone })}
    />
  );
  return (
    <details className={styles.policy}>
      <summary>{says}</summary>
      <div>
        {number('atATime', 'Steps at a time', policy.atATime)}
        {number('failureLimit', 'Stop after failures', policy.failureLimit)}
        {number('waves', 'Hosts in a wave, 0: no waves', policy.waves ?? 0)}
        {empties && number('drainMinutes', 'Minutes to sign out', policy.drain?.minutes ?? 0)}
        {empties && (
          <TextField
            label="What people are told"
            placeholder={policy.drain?.message ?? ''}
            error={errors?.message?.message}
            {...form.register('policy.message')}
          />
        )}
      </div>
    </details>
  );
}
