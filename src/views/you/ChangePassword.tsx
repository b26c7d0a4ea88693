import { LockKeyhole } from 'lucide-react';
import { useState } from 'react';
import type { PasswordChange } from '../../contract';
import { newKey, send } from '../../client/api';
import { checkedBy, showRefusal, usePageForm } from '../../client/form';
import { Button } from '../../ui/Button';
import { TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import styles from './You.module.css';

/** Another password for oneself: it takes the one that one has, and ends the sign-ins in other browsers and API tokens. */
export function ChangePassword() {
  const { register, handleSubmit, setError, reset, formState } = usePageForm<PasswordChange>({
    resolver: checkedBy(async () => (await import('../../contract/sign-in')).passwordChangeSchema),
  });
  const [says, setSays] = useState<{ readonly text: string; readonly isDone: boolean }>();
  const submit = handleSubmit(async (body) => {
    setSays(undefined);
    try {
      await send('PUT', '/password', {}, { body, key: newKey() });
      reset({ password: '', next: '' });
      setSays({
        text: 'Changed. Your sign-ins in other browsers and your API tokens have ended.',
        isDone: true,
      });
    } catch (error) {
      const problem = showRefusal(error, ['password', 'next'], setError);
      if (problem !== undefined) setSays({ text: problem, isDone: false });
    }
  });
  return (
    <Panel title="Change your password">
      <form className={styles.form} onSubmit={(event) => void submit(event)} noValidate>
        <TextField
          label="Current password"
          type="password"
          autoComplete="current-password"
          error={formState.errors.password?.message}
          {...register('password')}
        />
        <TextField
          label="New password"
          type="password"
          autoComplete="new-password"
          help="at least 12 characters; your API tokens will end"
          error={formState.errors.next?.message}
          {...register('next')}
        />
        {says && (
          <p role={says.isDone ? 'status' : 'alert'} className={says.isDone ? styles.help : styles.problem}>
            {says.text}
          </p>
        )}
        <Button
          type="submit"
          icon={<LockKeyhole size={15} aria-hidden="true" />}
          isDisabled={formState.isSubmitting}
        >
          Change
        </Button>
      </form>
    </Panel>
  );
}
