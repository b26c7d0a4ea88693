import { useState } from 'react';
import { impactLine, type Impact } from '../../core/proposal';
import type { Money } from '../../core/money';
import { call, newKey, whyOf } from '../../client/api';
import { count, writeMoney, writeSpan } from '../../client/format';
import { Button, ButtonLink } from '../../ui/Button';
import { TextField } from '../../ui/Field';
import { ImpactLine } from '../../ui/ImpactLine';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Panel } from '../../ui/Panel';
import styles from './Retire.module.css';

export interface RetireFacts {
  readonly environment: string;
  readonly seconds: number;
  readonly hosts: readonly string[];
  readonly peopleIn: number;
  readonly peopleWarned: number;
  readonly givenBack: { readonly names: number; readonly subnet: string; readonly network: string | null };
  readonly saved: Money;
  readonly impact: Impact;
  readonly version: number;
}

interface Props {
  readonly customer: { readonly code: string; readonly name: string; readonly mark: MarkLook };
  readonly environmentId: string;
  readonly proposal: RetireFacts;
}

/** What goes, in which order, and what comes back; the customer's code is typed before anything does. */
export function Retire({ customer, environmentId, proposal }: Props) {
  const [code, setCode] = useState('');
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [key] = useState(newKey);
  const path = `/customers/${customer.code}/environments/${environmentId}`;
  const right = code.trim().toUpperCase() === customer.code;
  const confirm = async (): Promise<void> => {
    setBusy(true);
    try {
      const { run } = await call<{ run: string }>('POST', `${path}/retirement`, {
        body: { code: code.trim().toUpperCase(), reason },
        key,
        version: proposal.version,
      });
      location.assign(`/customers/${customer.code}/runs/${run}`);
    } catch (error) {
      setBusy(false);
      setProblem(whyOf(error));
    }
  };
  return (
    <div className={styles.page}>
      <section className={styles.order}>
        <h1>Retire {proposal.environment}</h1>
        <Stages proposal={proposal} />
      </section>
      <Panel title={`From ${customer.name}`} side={<Mark mark={customer.mark} size={36} />}>
        <form
          className={styles.form}
          onSubmit={(event) => {
            event.preventDefault();
            if (right && !busy) void confirm();
          }}
        >
          <ImpactLine line={impactLine(proposal.impact, writeMoney)} />
          {proposal.peopleIn > 0 && (
            <p className={styles.care}>
              {count(proposal.peopleIn, 'person is', 'people are')} in at this moment: their sessions are
              closed.
            </p>
          )}
          <p className={styles.care}>Profiles on the share go with it. There is no way back.</p>
          <TextField
            label="Why"
            placeholder="for the trail"
            value={reason}
            maxLength={250}
            onChange={(event) => setReason(event.target.value)}
          />
          <TextField
            label={`Type ${customer.code} to retire`}
            value={code}
            autoComplete="off"
            spellCheck={false}
            error={
              code !== '' && !right && !customer.code.startsWith(code.trim().toUpperCase())
                ? `this is ${customer.code}`
                : undefined
            }
            onChange={(event) => setCode(event.target.value)}
          />
          {problem !== undefined && (
            <p role="alert" className={styles.problem}>
              {problem}
            </p>
          )}
          <div className={styles.buttons}>
            <ButtonLink href={path}>Keep it</ButtonLink>
            <Button type="submit" kind="danger" isDisabled={!right || busy}>
              Retire for {customer.code}
            </Button>
          </div>
        </form>
      </Panel>
    </div>
  );
}

/** The order of going, as a path from people to proof. */
function Stages({ proposal }: { readonly proposal: RetireFacts }) {
  const { givenBack } = proposal;
  const stages: readonly { readonly name: string; readonly says: string }[] = [
    { name: 'Warn', says: `${count(proposal.peopleWarned, 'person gets', 'people get')} a mail` },
    { name: 'Close', says: 'nobody new; sessions end' },
    { name: 'Withdraw', says: 'items are no longer published; licences end' },
    {
      name: 'Hosts',
      says: `${count(proposal.hosts.length, 'host leaves', 'hosts leave')} pool, directory and provider`,
    },
    { name: 'Pool, share, subnet', says: `${givenBack.subnet} is given back` },
    {
      name: 'Network',
      says:
        givenBack.network === null
          ? 'stays: another environment uses it'
          : `${givenBack.network} is given back`,
    },
    {
      name: 'Proof',
      says: `provider and directory are asked; ${count(givenBack.names, 'name is', 'names are')} free again`,
    },
  ];
  return (
    <>
      <ol className={styles.stages}>
        {stages.map((stage) => (
          <li key={stage.name}>
            <b>{stage.name}</b>
            <span>{stage.says}</span>
          </li>
        ))}
      </ol>
      <p className={styles.saved}>
        About {writeSpan(proposal.seconds)}; {writeMoney(proposal.saved)} a month less, counted always on.
      </p>
      <p className={`mono ${styles.names}`}>{proposal.hosts.join(' ')}</p>
    </>
  );
}
