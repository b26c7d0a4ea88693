import { useState, type ComponentProps } from 'react';
import type { Retained as RetainedData } from '../../contract';
import { get } from '../../client/api';
import { count, writeDay } from '../../client/format';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Panel } from '../../ui/Panel';
import type { Changing } from '../shared/changing';
import { Confirm } from '../shared/Confirm';
import styles from './Retained.module.css';

interface Props {
  readonly customer: ComponentProps<typeof Confirm>['customer'] & { readonly zone: string };
  /** Only of this one; left out: of all of the customer's. */
  readonly environment?: string;
  readonly initial: readonly RetainedData[];
  readonly mayChange: boolean;
}

/** Which data are kept after a pool or an environment was retired, and until when? Nothing where there are none. */
export function Retained({ customer, environment, initial, mayChange }: Props) {
  const { code, zone } = customer;
  const { value, again } = useLive(
    {
      key: `retained ${code}`,
      read: async () => (await get('/customers/{customer}/retained', { customer: code })).entries,
    },
    initial,
    `/customers/${code}/events`,
    (change) => ['environment', 'run'].includes(change.topic),
  );
  const [changing, setChanging] = useState<{ readonly of: string; readonly change: Changing }>();
  const shown = value.filter((one) => environment === undefined || one.environmentId === environment);
  if (shown.length === 0) return null;
  return (
    <div className={styles.page}>
      <Panel title="Data kept" side={count(shown.length, 'resource', 'resources')}>
        <ul className={styles.list}>
          {shown.map((one) => (
            <li key={one.id}>
              <span className={styles.what}>
                <b>{one.holds}</b>
                <span className={styles.of}>
                  {environment === undefined && `${one.environment}, `}
                  <span className="mono">{one.name}</span>
                </span>
              </span>
              {one.there ? (
                <Chip tone="plain">until {writeDay(one.until, zone)}</Chip>
              ) : (
                <Chip tone="bad">not found at the provider</Chip>
              )}
              {mayChange && (
                <Button onPress={() => setChanging({ of: one.environmentId, change: dropping(one) })}>
                  Delete now…
                </Button>
              )}
            </li>
          ))}
        </ul>
        {changing && (
          <Confirm
            key={changing.change.what}
            customer={customer}
            environment={changing.of}
            change={changing.change}
            onClose={() => setChanging(undefined)}
            onBegun={again}
          />
        )}
      </Panel>
    </div>
  );
}

const dropping = (one: RetainedData): Changing => ({
  kind: 'drop-retained',
  verb: 'Delete',
  what: one.name,
  input: { retained: [one.id] },
  danger: true,
});
