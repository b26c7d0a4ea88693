import { useState } from 'react';
import type { Credentials } from '../../contract';
import { checkedBy, showRefusal, usePageForm } from '../../client/form';
import { ApiProblem, send } from '../../client/api';
import { Button } from '../../ui/Button';
import { TextField } from '../../ui/Field';
import styles from './SignIn.module.css';

interface Props {
  readonly next: string;
  /** What was wrong with a form that was sent before this page came to life. */
  readonly refused?:
    { readonly mail: string; readonly says: string; readonly asksCode?: boolean } | undefined;
}

export function SignIn({ next, refused }: Props) {
  const { register, handleSubmit, setError, formState } = usePageForm<Credentials>({
    resolver: checkedBy(async () => (await import('../../contract/sign-in')).credentialsSchema),
  });
  const [problem, setProblem] = useState(refused?.says);
  const [asksCode, setAsksCode] = useState(refused?.asksCode ?? false);
  const submit = handleSubmit(async (fields) => {
    setProblem(undefined);
    try {
      await send('POST', '/session', {}, { body: fields });
      location.assign(next);
    } catch (error) {
      const asks = error instanceof ApiProblem && error.code === 'second-factor';
      if (asks && !asksCode) {
        setAsksCode(true);
        return;
      }
      setProblem(showRefusal(error, ['mail', 'password', 'code'], setError));
    }
  });
  return (
    <form className={styles.form} method="post" onSubmit={(event) => void submit(event)} noValidate>
      <h1>Laager</h1>
      <p>Hosted desktops for many customers, each kept apart.</p>
      <TextField
        label="Mail address"
        type="email"
        autoComplete="username"
        defaultValue={refused?.mail}
        autoFocus
        error={formState.errors.mail?.message}
        {...register('mail')}
      />
      <TextField
        label="Password"
        type="password"
        autoComplete="current-password"
        error={formState.errors.password?.message}
        {...register('password')}
      />
      {asksCode && (
        <TextField
          label="Code of your second factor"
          inputMode="numeric"
          autoComplete="one-time-code"
          autoFocus
          help="six digits that your app shows, or a recovery code"
          error={formState.errors.code?.message}
          {...register('code')}
        />
      )}
      {problem !== undefined && (
        <p className={styles.problem} role="alert">
          {problem}
        </p>
      )}
      <Button type="submit" kind="main" isDisabled={formState.isSubmitting}>
        Sign in
      </Button>
    </form>
  );
}
