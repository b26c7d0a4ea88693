import { useState } from 'react';
import type { CustomerPlan, NewAllowance } from '../../contract';
import { LIMITS, LIMIT_WORDS, type Limit } from '../../core/plans';
import { newKey, send } from '../../client/api';
import { checkedAs, dayOrNull, numberOrNull, showRefusal, usePageForm } from '../../client/form';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { SelectField, TextField } from '../../ui/Field';
import { Mark } from '../../ui/Mark';
import type { PlanOwner } from './owner';
import styles from './Plans.module.css';

interface Fields {
  limit: Limit;
  most: string;
  until: string;
  reason: string;
}

/** Raises one limit for a customer, for a reason, until a day. */
export function RaiseLimit({
  customer,
  held,
  onClose,
  onDone,
}: {
  readonly customer: PlanOwner;
  readonly held: CustomerPlan;
  readonly onClose: () => void;
  readonly onDone: () => void;
}) {
  const limits = LIMITS.filter((limit) => held.most[limit] !== null);
  const { register, handleSubmit, setError, formState } = usePageForm<Fields, NewAllowance>({
    resolver: checkedAs<Fields, NewAllowance>(
      async () => (await import('../../contract/plans')).newAllowanceSchema,
      ({ most, until, ...typed }) => ({
        ...typed,
        most: numberOrNull(most) ?? '',
        until: dayOrNull(until) ?? '',
      }),
    ),
  });
  const { errors } = formState;
  const [problem, setProblem] = useState<string>();
  const submit = handleSubmit(async (body) => {
    setProblem(undefined);
    try {
      await send(
        'POST',
        '/customers/{customer}/allowances',
        { customer: customer.code },
        { body, key: newKey() },
      );
      onDone();
    } catch (error) {
      setProblem(showRefusal(error, ['limit', 'most', 'until', 'reason'], setError));
    }
  });
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Raise a limit for ${customer.name}`}
      mark={<Mark mark={customer.mark} size={34} />}
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <Button kind="main" isDisabled={formState.isSubmitting} onPress={() => void submit()}>
            Raise for {customer.code}
          </Button>
        </>
      }
    >
      <div className={styles.pair}>
        <SelectField label="What" error={errors.limit?.message} {...register('limit')}>
          {limits.map((limit) => (
            <option key={limit} value={limit}>
              {LIMIT_WORDS[limit].title}, {held.most[limit]} in {held.name}
            </option>
          ))}
        </SelectField>
        <TextField label="To" inputMode="numeric" error={errors.most?.message} {...register('most')} />
      </div>
      <TextField label="Until" type="date" error={errors.until?.message} {...register('until')} />
      <TextField
        label="Why"
        placeholder="on the trail and on the customer’s page"
        error={errors.reason?.message}
        {...register('reason')}
      />
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </Dialog>
  );
}
