import { useState } from 'react';
import { Check, Copy } from 'lucide-react';
import type { Held as HeldData } from '../../contract';
import { impactLine, mayBegin } from '../../core/planning';
import { newKey, send, whyOf } from '../../client/api';
import { writeMoney, writeWhen } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { TextField } from '../../ui/Field';
import { ImpactLine } from '../../ui/ImpactLine';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Panel } from '../../ui/Panel';
import { Tasks } from '../shared/ChangeDialog';
import { Checks } from '../shared/Checks';
import styles from './Held.module.css';

interface Props {
  readonly customer: { readonly code: string; readonly name: string; readonly mark: MarkLook };
  readonly initial: HeldData;
  readonly zone: string;
  readonly mayChange: boolean;
}

/** A proposal that someone holds: what it would do, until when it is kept, and whoever may begin it begins it here. */
export function Held({ customer, initial, zone, mayChange }: Props) {
  const { hold, now, same, typesCode } = initial;
  const { proposal, fingerprint } = now;
  const [code, setCode] = useState('');
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [copied, setCopied] = useState(false);
  const here = { customer: customer.code, hold: hold.id };
  const act = async (work: () => Promise<string>): Promise<void> => {
    setBusy(true);
    setProblem(undefined);
    try {
      location.assign(await work());
    } catch (error) {
      setProblem(whyOf(error));
      setBusy(false);
    }
  };
  const begin = (): Promise<void> =>
    act(async () => {
      const body = { fingerprint, reason: hold.reason, ...(typesCode ? { code } : {}) };
      const { run } = await send('POST', '/customers/{customer}/holds/{hold}/begin', here, {
        body,
        key: newKey(),
      });
      return `/customers/${customer.code}/runs/${run}`;
    });
  const giveBack = (): Promise<void> =>
    act(async () => {
      await send('DELETE', '/customers/{customer}/holds/{hold}', here, { key: newKey() });
      return `/customers/${customer.code}/runs`;
    });
  const ready =
    same && proposal.refused === null && mayBegin(proposal.checks) && (!typesCode || code === customer.code);
  return (
    <div className={styles.page}>
      <Panel
        title={hold.title}
        side={<Chip tone={same ? 'good' : 'care'}>{same ? 'held' : 'otherwise by now'}</Chip>}
      >
        <div className={styles.held}>
          <div className={styles.who}>
            <Mark mark={customer.mark} size={34} />
            <p>
              for {customer.name}; held by {hold.actor} until <b>{writeWhen(hold.until, zone)}</b>
              {hold.reason !== '' && `: ${hold.reason}`}. Its names, addresses, room and what it takes of the
              plan are nobody else’s until then.
            </p>
          </div>
          {!same && (
            <p role="alert" className={styles.problem}>
              What it would do is not what was held any more. Give it back, and propose it anew.
            </p>
          )}
          <ImpactLine line={impactLine(proposal.impact, writeMoney)} />
          <Tasks tasks={proposal.tasks} />
          <Checks checks={proposal.checks} customer={customer.code} />
          {typesCode && (
            <TextField
              label={`Type ${customer.code} to begin it`}
              value={code}
              autoComplete="off"
              onChange={(event) => setCode(event.target.value)}
            />
          )}
          {problem !== undefined && (
            <p role="alert" className={styles.problem}>
              {problem}
            </p>
          )}
          <div className={styles.actions}>
            <Button
              icon={copied ? <Check size={15} aria-hidden="true" /> : <Copy size={15} aria-hidden="true" />}
              onPress={() => void navigator.clipboard.writeText(location.href).then(() => setCopied(true))}
            >
              {copied ? 'Link copied' : 'Copy its link'}
            </Button>
            {mayChange && (
              <>
                <Button isDisabled={busy} onPress={() => void giveBack()}>
                  Give back
                </Button>
                <Button kind="main" isDisabled={busy || !ready} onPress={() => void begin()}>
                  {hold.verb} for {customer.code}
                </Button>
              </>
            )}
          </div>
        </div>
      </Panel>
    </div>
  );
}
