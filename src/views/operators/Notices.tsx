import type { NoticeTarget, Says } from '../../contract';
import { useState } from 'react';
import { ApiProblem, newKey, send, whyOf } from '../../client/api';
import { useStored } from '../../client/stored';
import { count, writeExactly } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import styles from './Operators.module.css';
import { TryIt } from '../shared/TryIt';

/** Where is it told outside what needs a look? */
export function Notices({ initial }: { readonly initial: NoticeTarget | null }) {
  const [kept, setKept] = useState(initial);
  const [address, setAddress] = useState(initial?.address ?? '');
  const [secret, setSecret] = useState('');
  const [fields, setFields] = useState<Readonly<Record<string, string>>>({});
  const [says, setSays] = useState<Says>();
  const stored = useStored({ address: initial?.address ?? '' });
  const failed = (error: unknown): void => {
    setFields(error instanceof ApiProblem ? error.fields : {});
    if (!(error instanceof ApiProblem) || Object.keys(error.fields).length === 0)
      setSays({ worked: false, says: whyOf(error) });
  };
  const keep = (): void => {
    setFields({});
    setSays(undefined);
    send('PUT', '/notices', {}, { body: { address, secret }, key: newKey(), stored }).then(({ target }) => {
      setKept(target);
      setSecret('');
    }, failed);
  };
  const isChanged = address !== (kept?.address ?? '') || secret !== '';
  return (
    <Panel
      title="Notices"
      side={
        <span className={styles.help}>
          {kept === null
            ? 'told nowhere outside'
            : kept.sentAt === null
              ? 'nothing was taken yet'
              : `last taken ${writeExactly(kept.sentAt, 'UTC')} UTC`}
        </span>
      }
    >
      <div className={styles.approval}>
        <p className={styles.help}>
          What begins and ceases to need a look is sent there as a CloudEvent, signed with a secret that you
          share with it (docs/operations.md).
        </p>
        {kept !== null && kept.trouble !== '' && (
          <p role="status">
            <Chip tone="bad">
              {kept.trouble}: {count(kept.waiting, 'notice waits', 'notices wait')}
            </Chip>
          </p>
        )}
        <TextField
          label="Address"
          value={address}
          inputMode="url"
          placeholder="nowhere"
          error={fields.address}
          onChange={(event) => setAddress(event.target.value)}
        />
        <TextField
          label="Secret"
          type="password"
          autoComplete="off"
          value={secret}
          placeholder={kept === null ? '' : 'as it was'}
          help="at least 24 characters; it is never shown again"
          error={fields.secret}
          onChange={(event) => setSecret(event.target.value)}
        />
        <div className={styles.buttons}>
          <Button kind="main" isDisabled={!isChanged} onPress={keep}>
            {address === '' && kept !== null ? 'Tell it nowhere' : 'Keep'}
          </Button>
          <TryIt
            says={says}
            isDisabled={kept === null || isChanged}
            onTry={() => {
              setSays(undefined);
              send('POST', '/notices/tries', {}).then(setSays, failed);
            }}
          />
        </div>
      </div>
    </Panel>
  );
}
