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
  /** The identity service where one may sign in too. */
  readonly outside?: { readonly name: string } | undefined;
  /** Why somebody was not let in from there. */
  readonly why?: string | null;
}

const WHY: Readonly<Record<string, string>> = {
  'not reached': 'It does not answer. Try again in a moment, or sign in with your password.',
  over: 'That took too long, or began in another browser. Begin again.',
  refused: 'It did not let you in, or what it said could not be trusted. Begin again.',
  'no groups': 'You are in no group that may come in here. Ask a lead.',
  ended: 'Your time here has ended. Ask a lead.',
  mail: 'It names no mail address of yours that is confirmed, or one that is another’s here.',
  'last lead': 'Your groups make you no lead any more, and nobody else is one. Ask whoever keeps the groups.',
};

export function SignIn({ next, refused, outside, why = null }: Props) {
  const { register, handleSubmit, setError, formState } = usePageForm<Credentials>({
    resolver: checkedBy(async () => (await import('../../contract/sign-in')).credentialsSchema),
  });
  const [problem, setProblem] = useState(
    refused?.says ?? (why === null ? undefined : (WHY[why] ?? WHY.refused)),
  );
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
      {outside && (
        <a className={styles.outside} href={`/api/v1/session/outside?next=${encodeURIComponent(next)}`}>
          With {outside.name}
        </a>
      )}
    </form>
  );
}
