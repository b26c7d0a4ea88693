import type { ProposalView } from '../../contract';
import { Controller } from 'react-hook-form';
import { WEEKDAYS, writeWindow } from '../../core/calendar';
import { count } from '../../client/format';
import { CheckField, ManyField, TextField } from '../../ui/Field';
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
    ...(policy.window === undefined ? [] : [writeWindow(policy.window)]),
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
      <WindowFields form={form} />
    </details>
  );
}

/** Saturday night: what most people would choose. */
const FIRST = { days: [6], from: '22:00', to: '04:00' };

/** Whether it works in a window only, by the customer's clock. */
function WindowFields({ form }: { readonly form: ChangeForm }) {
  const errors = form.formState.errors.policy?.window;
  return (
    <Controller
      control={form.control}
      name="policy.window"
      render={({ field: { value, onChange } }) => (
        <div className={styles.window}>
          <CheckField
            label="Only in a window, by the customer’s clock"
            checked={value !== undefined}
            onChange={(event) => onChange(event.target.checked ? FIRST : undefined)}
          />
          {value !== undefined && (
            <>
              <ManyField
                label="Begins on"
                options={WEEKDAYS.map((name, n) => ({ value: String(n + 1), name }))}
                chosen={value.days.map(String)}
                error={errors?.days?.message}
                onChange={(days) => onChange({ ...value, days: days.map(Number).sort() })}
              />
              <TextField
                label="From"
                inputMode="numeric"
                placeholder="22:00"
                value={value.from}
                error={errors?.from?.message}
                onChange={(event) => onChange({ ...value, from: event.target.value })}
              />
              <TextField
                label="To"
                inputMode="numeric"
                placeholder="04:00"
                value={value.to}
                error={errors?.to?.message}
                onChange={(event) => onChange({ ...value, to: event.target.value })}
              />
            </>
          )}
        </div>
      )}
    />
  );
}
