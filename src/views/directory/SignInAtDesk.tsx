import type { DeskIdentity, Says } from '../../contract';
import { useState } from 'react';
import { ApiProblem, newKey, send, whyOf } from '../../client/api';
import { useStored } from '../../client/stored';
import { Button } from '../../ui/Button';
import { CheckField, SelectField, TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import styles from './DirectoryLink.module.css';
import { TryIt } from '../shared/TryIt';

const NONE: DeskIdentity = { name: '', issuer: '', client: 'laager', knownBy: 'mail', onlyThere: false };

interface Props {
  readonly code: string;
  readonly initial: DeskIdentity | null;
  /** Where the service sends people back to; empty: nobody has said at which address we are reached. */
  readonly address: string;
  readonly mayChange: boolean;
}

/** With what do their people sign in to their desk? */
export function SignInAtDesk({ code, initial, address, mayChange }: Props) {
  const [kept, setKept] = useState(initial);
  const [asked, setAsked] = useState(initial ?? NONE);
  const [secret, setSecret] = useState('');
  const [fields, setFields] = useState<Readonly<Record<string, string>>>({});
  const [says, setSays] = useState<Says>();
  const stored = useStored(initial);
  const set = (over: Partial<DeskIdentity>): void => setAsked({ ...asked, ...over });
  const isChanged = secret !== '' || JSON.stringify(asked) !== JSON.stringify(kept ?? NONE);
  const failed = (error: unknown): void => {
    const found = error instanceof ApiProblem ? error.fields : {};
    setFields(found);
    const isChanged = error instanceof ApiProblem && error.status === 412;
    if (isChanged || Object.keys(found).length === 0) setSays({ worked: false, says: whyOf(error) });
  };
  const keep = (): void => {
    setFields({});
    setSays(undefined);
    send(
      'PUT',
      '/customers/{customer}/desk-identity',
      { customer: code },
      { body: { ...asked, secret }, key: newKey(), stored },
    ).then(({ identity }) => {
      setKept(identity);
      setAsked(identity ?? NONE);
      setSecret('');
    }, failed);
  };
  return (
    <Panel
      title="How they sign in"
      side={
        <span className={styles.quiet}>
          {kept === null
            ? 'by a way in that is mailed'
            : kept.onlyThere
              ? 'with their own alone'
              : 'with their own, or by mail'}
        </span>
      }
    >
      <div className={styles.form}>
        <TextField
          label="Issuer of their identity service"
          inputMode="url"
          placeholder="none: ways in are mailed"
          disabled={!mayChange}
          value={asked.issuer}
          error={fields.issuer}
          onChange={(event) => set({ issuer: event.target.value })}
        />
        {asked.issuer !== '' && (
          <>
            <TextField
              label="What the button says"
              placeholder="the harbour’s sign-in"
              disabled={!mayChange}
              value={asked.name}
              error={fields.name}
              onChange={(event) => set({ name: event.target.value })}
            />
            <TextField
              label="What we are called there"
              disabled={!mayChange}
              value={asked.client}
              error={fields.client}
              onChange={(event) => set({ client: event.target.value })}
            />
            <TextField
              label="Secret"
              type="password"
              autoComplete="off"
              disabled={!mayChange}
              value={secret}
              error={fields.secret}
              {...(kept ? { help: 'left empty: the one that is kept' } : {})}
              onChange={(event) => setSecret(event.target.value)}
            />
            <SelectField
              label="People are known by"
              disabled={!mayChange}
              value={asked.knownBy}
              onChange={(event) => set({ knownBy: event.target.value === 'account' ? 'account' : 'mail' })}
            >
              <option value="mail">the mail address that it has made sure of</option>
              <option value="account">their account there</option>
            </SelectField>
            <CheckField
              label="Nobody comes in by mail"
              checked={asked.onlyThere}
              disabled={!mayChange}
              onChange={(event) => set({ onlyThere: event.target.checked })}
            />
            <p className={styles.quiet}>
              It sends people back to <span className="mono">{address}/api/v1/desk/outside/back</span>; they
              begin at{' '}
              <span className="mono">
                {address}/desk?at={code.toLowerCase()}
              </span>
            </p>
          </>
        )}
        {mayChange && (
          <div className={styles.buttons}>
            <Button kind="main" isDisabled={!isChanged} onPress={keep}>
              Keep for {code}
            </Button>
            {asked.issuer !== '' && (
              <TryIt
                says={says}
                onTry={() => {
                  setSays(undefined);
                  send(
                    'POST',
                    '/customers/{customer}/desk-identity/tried',
                    { customer: code },
                    { body: { issuer: asked.issuer } },
                  ).then(setSays, failed);
                }}
              />
            )}
          </div>
        )}
      </div>
    </Panel>
  );
}
