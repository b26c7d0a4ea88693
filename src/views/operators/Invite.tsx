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

/** Invites someone: who they are, what they are here, whom they reach; what is sent to them is shown this once. */
export function Invite({
  customers,
  onClose,
}: {
  readonly customers: readonly { readonly code: string; readonly name: string }[];
  readonly onClose: () => void;
}) {
  const { register, control, handleSubmit, setError, formState } = usePageForm<NewOperator>({
    defaultValues: { name: '', mail: '', role: 'engineer', customers: null, password: null },
    resolver: checkedBy(async () => (await import('../../contract/operators')).newOperatorSchema),
  });
  const { field: reach } = useController({ control, name: 'customers' });
  const { errors } = formState;
  const [problem, setProblem] = useState<string>();
  const [link, setLink] = useState<string>();
  const submit = handleSubmit(async (body) => {
    setProblem(undefined);
    try {
      const { invite } = await send('POST', '/operators', {}, { body, key: newKey() });
      setLink(new URL(`/invite/${invite ?? ''}`, location.href).href);
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
        link === undefined ? (
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
      {link === undefined ? (
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
        <>
          <p>Send them this address. Whoever opens it first within seven days chooses the password.</p>
          <code className={styles.link}>{link}</code>
        </>
      )}
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </Dialog>
  );
}
