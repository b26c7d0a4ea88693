import { useState } from 'react';
import type { AddressRange, Kept } from '../../contract';
import { newKey, send, whyOf } from '../../client/api';
import { checkedBy, showRefusal, usePageForm } from '../../client/form';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { SelectField, TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import styles from './AddressPlan.module.css';

/** Gives a site a further range. */
export function AddRange({
  sites,
  onDone,
}: {
  readonly sites: readonly { readonly code: string; readonly name: string }[];
  readonly onDone: () => void;
}) {
  const { register, handleSubmit, setError, reset, formState } = usePageForm<{ cidr: string }>({
    resolver: checkedBy(async () => (await import('../../contract/sites')).newRangeSchema),
  });
  const [site, setSite] = useState(sites[0]?.code ?? '');
  const [problem, setProblem] = useState<string>();
  const submit = handleSubmit(async (body) => {
    setProblem(undefined);
    try {
      await send('POST', '/sites/{site}/ranges', { site }, { body, key: newKey() });
      reset({ cidr: '' });
      onDone();
    } catch (error) {
      setProblem(showRefusal(error, ['cidr'], setError));
    }
  });
  return (
    <Panel title="Add a range">
      <form className={styles.form} onSubmit={(event) => void submit(event)} noValidate>
        <SelectField label="Site" value={site} onChange={(event) => setSite(event.target.value)}>
          {sites.map((one) => (
            <option key={one.code} value={one.code}>
              {one.name}
            </option>
          ))}
        </SelectField>
        <TextField
          label="Range"
          placeholder="10.20.0.0/16"
          help="private (RFC 1918), and nobody else’s"
          autoComplete="off"
          spellCheck={false}
          error={formState.errors.cidr?.message}
          {...register('cidr')}
        />
        {problem !== undefined && (
          <p role="alert" className={styles.problem}>
            {problem}
          </p>
        )}
        <Button type="submit" isDisabled={formState.isSubmitting || site === ''}>
          Add
        </Button>
      </form>
    </Panel>
  );
}

/** What is in use elsewhere, of which nothing is given. */
export function KeepClear({ kept, onDone }: { readonly kept: readonly Kept[]; readonly onDone: () => void }) {
  const { register, handleSubmit, setError, reset, formState } = usePageForm<Kept>({
    resolver: checkedBy(async () => (await import('../../contract/sites')).keepClearSchema),
  });
  const [problem, setProblem] = useState<string>();
  const submit = handleSubmit(async (body) => {
    setProblem(undefined);
    try {
      await send('POST', '/addresses/kept', {}, { body, key: newKey() });
      reset({ cidr: '', name: '' });
      onDone();
    } catch (error) {
      setProblem(showRefusal(error, ['cidr', 'name'], setError));
    }
  });
  const giveUp = async (cidr: string): Promise<void> => {
    setProblem(undefined);
    try {
      await send('DELETE', '/addresses/kept', {}, { query: { cidr }, key: newKey() });
    } catch (error) {
      setProblem(whyOf(error));
    }
    onDone();
  };
  return (
    <Panel title="Kept clear">
      <form className={styles.form} onSubmit={(event) => void submit(event)} noValidate>
        {kept.length > 0 && (
          <ul className={styles.keptList}>
            {kept.map((one) => (
              <li key={one.cidr}>
                <code>{one.cidr}</code> <span>{one.name}</span>
                <Button kind="quiet" aria-label={`Give up ${one.cidr}`} onPress={() => void giveUp(one.cidr)}>
                  Give up
                </Button>
              </li>
            ))}
          </ul>
        )}
        <TextField
          label="Addresses in use elsewhere"
          placeholder="192.168.10.0/24"
          help="nothing is given of them"
          autoComplete="off"
          spellCheck={false}
          error={formState.errors.cidr?.message}
          {...register('cidr')}
        />
        <TextField
          label="Whose, and where"
          placeholder="like: MHP, the pilot house"
          autoComplete="off"
          error={formState.errors.name?.message}
          {...register('name')}
        />
        {problem !== undefined && (
          <p role="alert" className={styles.problem}>
            {problem}
          </p>
        )}
        <Button type="submit" isDisabled={formState.isSubmitting}>
          Keep clear
        </Button>
      </form>
    </Panel>
  );
}

/** Makes a range larger. */
export function LargerRange({
  range,
  name,
  onClose,
  onDone,
}: {
  readonly range: AddressRange;
  readonly name: string;
  readonly onClose: () => void;
  readonly onDone: () => void;
}) {
  const { register, handleSubmit, setError, formState } = usePageForm<{ becomes: string }>({});
  const [problem, setProblem] = useState<string>();
  const submit = handleSubmit(async ({ becomes }) => {
    setProblem(undefined);
    try {
      await send(
        'PUT',
        '/sites/{site}/ranges',
        { site: range.site },
        { body: { cidr: range.cidr, becomes }, key: newKey() },
      );
      onDone();
    } catch (error) {
      setProblem(showRefusal(error, ['becomes'], setError));
    }
  });
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Make ${range.cidr} at ${name} larger`}
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <Button kind="main" isDisabled={formState.isSubmitting} onPress={() => void submit()}>
            Make larger
          </Button>
        </>
      }
    >
      <TextField
        label="It becomes"
        placeholder={range.cidr}
        help={`holds all of ${range.cidr}, and overlaps nothing else`}
        autoComplete="off"
        spellCheck={false}
        error={formState.errors.becomes?.message}
        {...register('becomes')}
      />
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </Dialog>
  );
}
