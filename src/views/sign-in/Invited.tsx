import { useState } from 'react';
import { send } from '../../client/api';
import { checkedBy, showRefusal, usePageForm } from '../../client/form';
import { Button } from '../../ui/Button';
import { TextField } from '../../ui/Field';
import styles from './SignIn.module.css';

/** Who was invited chooses a password, once. */
export function Invited({
  token,
  name,
  mail,
}: {
  readonly token: string;
  readonly name: string;
  readonly mail: string;
}) {
  const { register, handleSubmit, setError, formState } = usePageForm<{ password: string }>({
    resolver: checkedBy(async () => (await import('../../contract/sign-in')).invitedSchema),
  });
  const [problem, setProblem] = useState<string>();
  const submit = handleSubmit(async (body) => {
    setProblem(undefined);
    try {
      await send('POST', '/invites/{invite}', { invite: token }, { body });
      location.assign('/sign-in');
    } catch (error) {
      setProblem(showRefusal(error, ['password'], setError));
    }
  });
  return (
    <form className={styles.form} onSubmit={(event) => void submit(event)} noValidate>
      <h1>Welcome, {name}</h1>
      <p>You sign in as {mail}. Choose a password.</p>
      <TextField
        label="Password"
        type="password"
        autoComplete="new-password"
        autoFocus
        help="at least 12 characters"
        error={formState.errors.password?.message}
        {...register('password')}
      />
      {problem !== undefined && (
        <p className={styles.problem} role="alert">
          {problem}
        </p>
      )}
      <Button type="submit" kind="main" isDisabled={formState.isSubmitting}>
        Begin
      </Button>
    </form>
  );
}
