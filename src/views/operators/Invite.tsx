import { useState } from 'react';
import { useController } from 'react-hook-form';
import type { NewOperator } from '../../contract';
import { ROLES } from '../../contract/roles';
import { newKey, send } from '../../client/api';
import { checkedBy, showRefusal, usePageForm } from '../../client/form';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { SelectField, TextField } from '../../ui/Field';
import { Reach } from './Reach';
import styles from './Operators.module.css';

/** Invites someone: who they are, what they are here, whom they reach. The link is mailed to them alone. */
export function Invite({
  customers,
  onClose,
}: {
  readonly customers: readonly { readonly code: string; readonly name: string }[];
  readonly onClose: () => void;
}) {
  const { register, control, handleSubmit, setError, formState } = usePageForm<NewOperator>({
    defaultValues: { name: '', mail: '', role: 'engineer', customers: null },
    resolver: checkedBy(async () => (await import('../../contract/operators')).newOperatorSchema),
  });
  const { field: reach } = useController({ control, name: 'customers' });
  const { errors } = formState;
  const [problem, setProblem] = useState<string>();
  const [mailed, setMailed] = useState<string>();
  const submit = handleSubmit(async (body) => {
    setProblem(undefined);
    try {
      await send('POST', '/operators', {}, { body, key: newKey() });
      setMailed(body.mail);
    } catch (error) {
      setProblem(showRefusal(error, ['name', 'mail', 'role', 'customers'], setError));
    }
  });
  return (
    <Dialog
      open
      onClose={onClose}
      title="Invite someone"
      actions={
        mailed === undefined ? (
          <>
            <Button onPress={onClose}>Back</Button>
            <Button kind="main" isDisabled={formState.isSubmitting} onPress={() => void submit()}>
              Invite
            </Button>
          </>
        ) : (
          <Button kind="main" onPress={onClose}>
            Done
          </Button>
        )
      }
    >
      {mailed === undefined ? (
        <>
          <TextField label="Name" autoComplete="off" error={errors.name?.message} {...register('name')} />
          <TextField
            label="Mail address"
            type="email"
            autoComplete="off"
            error={errors.mail?.message}
            {...register('mail')}
          />
          <SelectField label="Role" error={errors.role?.message} {...register('role')}>
            {ROLES.map((role) => (
              <option key={role} value={role}>
                {role}
              </option>
            ))}
          </SelectField>
          <Reach
            customers={customers}
            chosen={reach.value}
            onChange={reach.onChange}
            error={errors.customers?.message}
          />
        </>
      ) : (
        <p role="status">We e-mail a link to {mailed}. It works once, for seven days. Nobody else sees it.</p>
      )}
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </Dialog>
  );
}
