import { useState, type ReactNode } from 'react';
import { finishTime, POWER_AT_A_TIME, proposePower, type PowerChange } from '../../core/proposal';
import { call, newKey, whyOf } from '../../client/api';
import { count, writeSpan } from '../../client/format';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { TextField } from '../../ui/Field';
import { ImpactLine } from '../../ui/ImpactLine';
import type { EnvironmentFacts, HostFacts } from './facts';
import { hostsSay } from './hosts-say';

interface Props {
  readonly customer: { readonly code: string; readonly name: string };
  readonly environment: EnvironmentFacts;
  readonly change: PowerChange;
  readonly verb: string;
  readonly hosts: readonly HostFacts[];
  readonly mark: ReactNode;
  readonly onClose: () => void;
  readonly onDone: () => void;
}

/** Confirms a change of hosts: says whose they are and who is on them. */
export default function ChangeHosts({
  customer,
  environment,
  change,
  verb,
  hosts,
  mark,
  onClose,
  onDone,
}: Props) {
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [key] = useState(newKey);
  const steps = proposePower(
    change,
    hosts.map((host) => host.name),
  );
  const seconds = finishTime(steps, POWER_AT_A_TIME);
  const people = hosts.reduce((sum, host) => sum + host.sessions, 0);
  const confirm = async (): Promise<void> => {
    setBusy(true);
    try {
      await call('POST', `/customers/${customer.code}/environments/${environment.id}/changes`, {
        body: { hosts: hosts.map(({ id, version }) => ({ id, version })), change, reason },
        key,
      });
      onDone();
    } catch (error) {
      setBusy(false);
      setProblem(whyOf(error));
    }
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={`${verb} ${hostsSay(hosts)} of ${customer.name}`}
      mark={mark}
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <Button
            kind={change === 'power-off' && people > 0 ? 'danger' : 'main'}
            isDisabled={busy}
            onPress={() => void confirm()}
          >
            {verb} for {customer.code}
          </Button>
        </>
      }
    >
      <ImpactLine
        line={[
          count(people, 'person', 'people'),
          count(hosts.length, 'host', 'hosts'),
          `about ${writeSpan(seconds)}`,
          'can be undone',
        ].join(' · ')}
      />
      {change === 'power-off' && people > 0 && <p>Their sessions end when the hosts go off.</p>}
      {hosts.length > 1 && <p className="mono">{hosts.map((host) => host.name).join(', ')}</p>}
      <TextField
        label="Why"
        placeholder="for the trail"
        value={reason}
        maxLength={250}
        onChange={(event) => setReason(event.target.value)}
      />
      {problem !== undefined && <p role="alert">{problem}</p>}
    </Dialog>
  );
}
