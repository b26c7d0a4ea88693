import { PlugZap } from 'lucide-react';
import { useState } from 'react';
import { useWatch } from 'react-hook-form';
import type { Connection, Provider } from '../../contract';
import { newKey, send } from '../../client/api';
import { checkedAs, dayOrNull, showRefusal, usePageForm } from '../../client/form';
import { useStored } from '../../client/stored';
import { Button, ButtonLink } from '../../ui/Button';
import { TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import styles from './Connect.module.css';
import { FoundSites } from './FoundSites';
import { Tries } from './Tries';
import { useTries } from './use-tries';

type Sent = Connection & { readonly code: string };
type Fields = Omit<Sent, 'secretEndsAt'> & { readonly secretEndsAt: string };

/** Connects a provider, or mends its connection: what is written is tried for real, beside it, as one types. */
export function Connect({
  known,
  taken,
}: {
  readonly known: Provider | undefined;
  readonly taken: readonly string[];
}) {
  const { register, handleSubmit, setError, formState, control } = usePageForm<Fields, Sent>({
    resolver: checkedAs<Fields, Sent>(
      async () => {
        const { connectionFormSchema } = await import('../../contract/providers');
        return connectionFormSchema(known === undefined ? taken : []);
      },
      ({ secretEndsAt, ...typed }) => ({ ...typed, secretEndsAt: dayOrNull(secretEndsAt) }),
    ),
  });
  const [code = known?.code ?? '', url = known?.url ?? '', account = known?.account ?? '', secret = ''] =
    useWatch({ control, name: ['code', 'url', 'account', 'secret'] });
  const trying = useTries({
    code: code.trim(),
    url: url.trim(),
    account: account.trim(),
    secret: secret.trim(),
  });
  const [problem, setProblem] = useState<string>();
  const stored = useStored(
    known
      ? { name: known.name, url: known.url, account: known.account, secretEndsAt: known.secretEndsAt }
      : null,
  );
  const failed = trying.tries.some((one) => one.outcome === 'fails');
  const submit = handleSubmit(async ({ code, ...body }) => {
    setProblem(undefined);
    try {
      await send('PUT', '/providers/{provider}', { provider: code }, { body, key: newKey(), stored });
      location.assign('/ground');
    } catch (error) {
      setProblem(showRefusal(error, ['code', 'name', 'url', 'account', 'secret'], setError));
    }
  });
  const errors = formState.errors;
  return (
    <div className={styles.page}>
      <Panel title={known ? known.name : 'Connection'}>
        <form className={styles.form} onSubmit={(event) => void submit(event)} noValidate>
          <div className={styles.pair}>
            <TextField
              label="Code"
              readOnly={known !== undefined}
              defaultValue={known?.code}
              autoComplete="off"
              spellCheck={false}
              error={errors.code?.message}
              {...register('code')}
            />
            <TextField
              label="Name"
              defaultValue={known?.name}
              autoComplete="off"
              error={errors.name?.message}
              {...register('name')}
            />
          </div>
          <TextField
            label="Address"
            type="url"
            placeholder="https://"
            defaultValue={known?.url}
            autoComplete="off"
            spellCheck={false}
            error={errors.url?.message}
            {...register('url')}
          />
          <TextField
            label="Account"
            defaultValue={known?.account}
            autoComplete="off"
            spellCheck={false}
            error={errors.account?.message}
            {...register('account')}
          />
          <TextField
            label="Secret"
            type="password"
            autoComplete="new-password"
            help={
              known
                ? 'the one in use goes when this one has signed in'
                : 'kept encrypted, and never shown again'
            }
            error={errors.secret?.message}
            {...register('secret')}
          />
          <TextField
            label="It ends on"
            type="date"
            help="told on Watch from thirty days before; may be empty"
            defaultValue={
              typeof known?.secretEndsAt !== 'number'
                ? ''
                : new Date(known.secretEndsAt).toISOString().slice(0, 10)
            }
            error={errors.secretEndsAt?.message}
            {...register('secretEndsAt')}
          />
          {(problem ?? trying.problem) !== undefined && (
            <p role="alert" className={styles.problem}>
              {problem ?? trying.problem}
            </p>
          )}
          <div className={styles.buttons}>
            <ButtonLink href="/ground">Back</ButtonLink>
            <Button
              type="submit"
              kind="main"
              icon={<PlugZap size={15} aria-hidden="true" />}
              isDisabled={failed || formState.isSubmitting}
            >
              {known ? 'Change' : 'Connect'}
            </Button>
          </div>
        </form>
      </Panel>
      <div className={styles.outcome}>
        <Panel title="Tried for real, as you type">
          <Tries trying={trying} />
        </Panel>
        <FoundSites sites={trying.sites} isKnown={known !== undefined} />
      </div>
    </div>
  );
}
