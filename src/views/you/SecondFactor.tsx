import { ShieldCheck } from 'lucide-react';
import { useState } from 'react';
import type { Factor, FactorCode, FactorSet, NewFactor } from '../../contract';
import { get, newKey, send, whyOf } from '../../client/api';
import { checkedBy, showRefusal, usePageForm } from '../../client/form';
import { count } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import styles from './You.module.css';

/** A second factor for oneself: a code of an app beside the password, and codes for when the app is lost. */
export function SecondFactor({ initial }: { readonly initial: Factor }) {
  const [factor, setFactor] = useState(initial);
  const [made, setMade] = useState<NewFactor>();
  const [recovery, setRecovery] = useState<readonly string[]>();
  const [problem, setProblem] = useState<string>();
  const again = async (): Promise<void> => setFactor(await get('/second-factor', {}));
  const begin = async (): Promise<void> => {
    setProblem(undefined);
    setRecovery(undefined);
    try {
      setMade(await send('POST', '/second-factor', {}));
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  return (
    <Panel
      title="Second factor"
      side={
        factor.isSet ? (
          <Chip tone="good">set up</Chip>
        ) : (
          <Chip tone={factor.required ? 'bad' : 'care'}>none</Chip>
        )
      }
    >
      <div className={styles.form}>
        {factor.required && !factor.isSet && (
          <p role="status">
            Everyone here has to have one. Set it up, and everything else is open to you again.
          </p>
        )}
        {factor.toShow ? (
          <ShowCode />
        ) : made ? (
          <SetUp
            made={made}
            replaces={factor.isSet}
            onDone={(codes) => {
              setMade(undefined);
              setRecovery(codes);
              void again();
            }}
          />
        ) : (
          <>
            {factor.isSet && recovery === undefined && (
              <p className={styles.help}>
                {count(factor.recovery, 'recovery code is', 'recovery codes are')} left.
              </p>
            )}
            {recovery && (
              <>
                <p>Keep these where the app is not: each lets you in once. They are shown this once.</p>
                <ul className={styles.codes} aria-label="Recovery codes">
                  {recovery.map((code) => (
                    <li key={code}>
                      <code>{code}</code>
                    </li>
                  ))}
                </ul>
              </>
            )}
            {problem !== undefined && (
              <p role="alert" className={styles.problem}>
                {problem}
              </p>
            )}
            <Button icon={<ShieldCheck size={15} aria-hidden="true" />} onPress={() => void begin()}>
              {factor.isSet ? 'Set up another' : 'Set up'}
            </Button>
            {factor.isSet && !factor.required && <GiveUp onDone={() => void again()} />}
          </>
        )}
      </div>
    </Panel>
  );
}

/** The picture that an app reads, and the first code that it shows. */
function SetUp({
  made,
  replaces,
  onDone,
}: {
  readonly made: NewFactor;
  /** Whether there is one already. */
  readonly replaces: boolean;
  readonly onDone: (codes: readonly string[]) => void;
}) {
  const { register, handleSubmit, setError, formState } = usePageForm<FactorSet>({
    resolver: checkedBy(async () => (await import('../../contract/sign-in')).setFactorSchema),
  });
  const [problem, setProblem] = useState<string>();
  const submit = handleSubmit(async (body) => {
    setProblem(undefined);
    try {
      const { recovery } = await send('PUT', '/second-factor', {}, { body, key: newKey() });
      onDone(recovery);
    } catch (error) {
      setProblem(showRefusal(error, ['code', 'current'], setError));
    }
  });
  return (
    <form className={styles.form} onSubmit={(event) => void submit(event)} noValidate>
      <p>Read this with your app, or type its key:</p>
      <img src={made.picture} width="200" height="200" alt="The key as a picture for an app" />
      <code className={styles.secret}>{made.secret.replace(/(.{4})/g, '$1 ')}</code>
      <TextField
        label="The code that it shows now"
        inputMode="numeric"
        autoComplete="one-time-code"
        error={formState.errors.code?.message}
        {...register('code')}
      />
      <TextField
        label={replaces ? 'A code of your present second factor' : 'Your password'}
        type={replaces ? 'text' : 'password'}
        autoComplete={replaces ? 'one-time-code' : 'current-password'}
        help={replaces ? 'or a recovery code; your API tokens will end' : 'your API tokens will end'}
        error={formState.errors.current?.message}
        {...register('current')}
      />
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
      <Button type="submit" kind="main" isDisabled={formState.isSubmitting}>
        Set up
      </Button>
    </form>
  );
}

/** Where somebody came by the identity service without a code. */
const ShowCode = () => (
  <CodeForm
    says="Enter a code of your second factor to go on."
    label="Code"
    help="six digits, or a recovery code"
    verb="Continue"
    onCode={async (body) => {
      await send('PUT', '/second-factor/shown', {}, { body, key: newKey() });
      location.reload();
    }}
  />
);

const GiveUp = ({ onDone }: { readonly onDone: () => void }) => (
  <details>
    <summary>Give it up</summary>
    <CodeForm
      label="A code of it"
      verb="Give it up"
      isDanger
      onCode={async ({ code }) => {
        await send('DELETE', '/second-factor', {}, { query: { code }, key: newKey() });
        onDone();
      }}
    />
  </details>
);

/** One code, and what is done with it; why it is refused stands beside it. */
function CodeForm({
  says,
  label,
  help,
  verb,
  isDanger = false,
  onCode,
}: {
  readonly says?: string;
  readonly label: string;
  readonly help?: string;
  readonly verb: string;
  readonly isDanger?: boolean;
  readonly onCode: (body: FactorCode) => Promise<void>;
}) {
  const { register, handleSubmit, setError, formState } = usePageForm<FactorCode>({
    resolver: checkedBy(async () => (await import('../../contract/sign-in')).codeSchema),
  });
  const [problem, setProblem] = useState<string>();
  const submit = handleSubmit(async (body) => {
    setProblem(undefined);
    try {
      await onCode(body);
    } catch (error) {
      setProblem(showRefusal(error, ['code'], setError));
    }
  });
  return (
    <form className={styles.form} onSubmit={(event) => void submit(event)} noValidate>
      {says !== undefined && <p role="status">{says}</p>}
      <TextField
        label={label}
        help={help}
        autoComplete="one-time-code"
        error={formState.errors.code?.message}
        {...register('code')}
      />
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
      <Button type="submit" kind={isDanger ? 'danger' : 'main'} isDisabled={formState.isSubmitting}>
        {verb}
      </Button>
    </form>
  );
}
