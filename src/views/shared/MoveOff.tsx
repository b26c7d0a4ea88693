import type { Customer } from '../../contract';
import { useEffect, useState } from 'react';
import { get } from '../../client/api';
import { count } from '../../client/format';
import { Confirm } from './Confirm';
import type { Moving } from './moving';

/** Drains the hosts that some are on, as any host is drained; what is said to them comes after. */
export default function MoveOff({
  moving: { sessions },
  onClose,
  onDrained,
}: {
  readonly moving: Moving;
  readonly onClose: () => void;
  readonly onDrained: () => void;
}) {
  const [one] = sessions;
  const code = one?.customer ?? '';
  const customer = useCustomer(code);
  const hosts = [...new Set(sessions.flatMap(({ hostId }) => hostId ?? []))];
  const environment = one?.environmentId;
  if (!customer || environment === undefined || environment === null) return null;
  return (
    <Confirm
      customer={customer}
      environment={environment}
      change={{
        kind: 'drain',
        verb: 'Drain',
        what: hosts.length === 1 ? (one?.host ?? '') : count(hosts.length, 'host', 'hosts'),
        input: { hosts },
      }}
      onClose={onClose}
      onBegun={onDrained}
    />
  );
}

function useCustomer(code: string): Customer | undefined {
  const [customer, setCustomer] = useState<Customer>();
  useEffect(() => {
    let ended = false;
    get('/customers/{customer}', { customer: code }).then(
      (found) => {
        if (!ended) setCustomer(found);
      },
      () => undefined,
    );
    return () => {
      ended = true;
    };
  }, [code]);
  return customer;
}
