import { useState } from 'react';
import { Check, Copy } from 'lucide-react';
import type { Held as HeldData } from '../../contract';
import { awaits, impactLine, mayBegin } from '../../core/planning';
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
  // Whoever looks may not begin it: it takes another's word than theirs.
  const waits = awaits(proposal.checks);
  const ready =
    same && proposal.refused === null && mayBegin(proposal.checks) && (!typesCode || code === customer.code);
  return (
    <div className={styles.page}>
      <Panel
        title={hold.title}
        side={<State hold={hold} same={same} mine={waits === undefined && mayChange} />}
      >
        <div className={styles.held}>
          <div className={styles.who}>
            <Mark mark={customer.mark} size={34} />
            <p>
              for {customer.name}; {hold.waits === null ? 'held' : 'asked for'} by {hold.actor}, kept until{' '}
              <b>{writeWhen(hold.until, zone)}</b>
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
          {typesCode && waits === undefined && mayChange && (
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
                  {hold.waits !== null && waits === undefined ? 'Say no' : 'Give back'}
                </Button>
                {waits === undefined && (
                  <Button kind="main" isDisabled={busy || !ready} onPress={() => void begin()}>
                    {hold.waits === null ? hold.verb : `Approve: ${hold.verb.toLowerCase()}`} for{' '}
                    {customer.code}
                  </Button>
                )}
              </>
            )}
          </div>
        </div>
      </Panel>
    </div>
  );
}

/** Whether it can still be begun, and by whom. */
function State({
  hold,
  same,
  mine,
}: {
  readonly hold: HeldData['hold'];
  readonly same: boolean;
  /** Whether who looks may begin it. */
  readonly mine: boolean;
}) {
  if (!same) return <Chip tone="care">otherwise by now</Chip>;
  if (hold.waits === null) return <Chip tone="good">held</Chip>;
  return <Chip tone="care">{mine ? 'waits for your approval' : 'waits for a lead'}</Chip>;
}
