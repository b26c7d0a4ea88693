import { useEffect, useState } from 'react';
import type { ProvisionWish } from '../../core/ground';
import { mayBegin } from '../../core/preflight';
import { impactLine, type ProvisionProposal } from '../../core/proposal';
import { ApiProblem, call, newKey, whyOf } from '../../client/api';
import { writeMoney } from '../../client/format';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { TextField } from '../../ui/Field';
import { ImpactLine } from '../../ui/ImpactLine';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Preflight } from './Preflight';
import styles from './Provision.module.css';

interface Stamped {
  readonly proposal: ProvisionProposal;
  readonly stamp: string;
}

interface Props {
  readonly customer: { readonly code: string; readonly name: string; readonly mark: MarkLook };
  readonly request: ProvisionWish & { readonly template: string; readonly site: string };
  readonly shown: ProvisionProposal;
  readonly onClose: () => void;
}

/** Asks the server for its proposal, made from the facts of this moment; what is confirmed is that one. */
export function Confirm({ customer, request, shown, onClose }: Props) {
  const [stamped, setStamped] = useState<Stamped>();
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [key] = useState(newKey);
  useEffect(() => {
    let ended = false;
    call<Stamped>('POST', `/customers/${customer.code}/proposals`, { body: request }).then(
      (found) => !ended && setStamped(found),
      (error: unknown) => !ended && setProblem(whyOf(error)),
    );
    return () => {
      ended = true;
    };
    // Asked once, when the dialog opens: the choices cannot change behind it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  const confirm = async (): Promise<void> => {
    if (!stamped) return;
    setBusy(true);
    setProblem(undefined);
    try {
      const { run } = await call<{ run: string }>('POST', `/customers/${customer.code}/environments`, {
        body: { ...request, stamp: stamped.stamp, reason },
        key,
      });
      location.assign(`/customers/${customer.code}/runs/${run}`);
    } catch (error) {
      setBusy(false);
      setProblem(whyOf(error));
      if (error instanceof ApiProblem && error.code === 'changed')
        setStamped(error.body as unknown as Stamped);
    }
  };
  const ready = stamped !== undefined && mayBegin(stamped.proposal.checks);
  const changed =
    stamped !== undefined && JSON.stringify(stamped.proposal.hosts) !== JSON.stringify(shown.hosts);
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Provision ${request.environment} for ${customer.name}`}
      mark={<Mark mark={customer.mark} size={34} />}
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <Button kind="main" isDisabled={!ready || busy} onPress={() => void confirm()}>
            Provision for {customer.code}
          </Button>
        </>
      }
    >
      {stamped ? (
        <ImpactLine line={impactLine(stamped.proposal.impact, writeMoney)} />
      ) : (
        problem === undefined && <p>Signing in to the provider and checking once more …</p>
      )}
      {changed && (
        <p className={styles.missing}>Someone else built meanwhile: the hosts are not quite those you saw.</p>
      )}
      {stamped && <Preflight checks={stamped.proposal.checks.filter((check) => check.state !== 'passes')} />}
      <TextField
        label="Why"
        placeholder="for the trail"
        value={reason}
        maxLength={250}
        onChange={(event) => setReason(event.target.value)}
      />
      {problem !== undefined && (
        <p role="alert" className={styles.missing}>
          {problem}
        </p>
      )}
    </Dialog>
  );
}
