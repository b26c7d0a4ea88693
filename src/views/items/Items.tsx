import type { Customer, GrantsFile, Group, Offered } from '../../contract';
import { useMemo, useState } from 'react';
import { get } from '../../client/api';
import { count } from '../../client/format';
import { useLive } from '../../client/live';
import { Empty, Panel } from '../../ui/Panel';
import { Pills } from '../../ui/Pills';
import type { Changing } from '../shared/changing';
import { Confirm } from '../shared/Confirm';
import { Grid } from './Grid';
import {
  byKind,
  cellOf,
  keyOf,
  largest,
  movesOf,
  targetOf,
  targetsOf,
  type Cell,
  type Target,
} from './moves';
import { OutlookPanel } from './OutlookPanel';
import { useOutlook } from './use-outlook';
import { AddTarget } from './AddTarget';
import { GrantFile } from './GrantFile';
import styles from './Items.module.css';

interface Props {
  readonly customer: Customer;
  readonly initial: readonly Offered[];
  readonly groups: readonly Group[];
  readonly mayChange: boolean;
  /** Which environment is shown first. */
  readonly environment?: string | undefined;
  /** Id of a person who is to get something. */
  readonly add?: string | undefined;
}

/** What is published, and to whom is it granted? Pressed cells are changes that are not made yet. */
export function Items({ customer, initial, groups, mayChange, environment, add }: Props) {
  const { code } = customer;
  const { value: offered, again } = useLive<readonly Offered[]>(
    {
      key: 'items',
      read: async () => (await get('/customers/{customer}/items', { customer: code })).entries,
    },
    initial,
    `/customers/${code}/events`,
    (change) => change.topic === 'environment' || change.topic === 'people' || change.topic === 'run',
  );
  const places = useMemo(
    () => [...new Map(offered.map(({ item }) => [item.environmentId, item.environment]))],
    [offered],
  );
  const [chosen, setChosen] = useState(environment);
  const at = places.some(([id]) => id === chosen) ? chosen : places[0]?.[0];
  const here = offered.filter(({ item }) => item.environmentId === at);
  const [extra, setExtra] = useState<readonly Target[]>([]);
  const [turned, setTurned] = useState<ReadonlyMap<string, Cell>>(new Map());
  const [until, setUntil] = useState('');
  const [withSeats, setWithSeats] = useState(false);
  const [changing, setChanging] = useState<Changing>();
  const targets = [...targetsOf(here), ...largest(groups), ...extra].filter(
    (one, n, all) => all.findIndex(({ to, id }) => to === one.to && id === one.id) === n,
  );
  targets.sort(byKind);
  const moves = movesOf([...turned.values()], until, customer.zone);
  const outlook = useOutlook(code, at, moves);
  if (places.length === 0)
    return (
      <Panel title="Items">
        <Empty says="Nothing is published yet. What pools publish comes with an environment." />
      </Panel>
    );
  const turn = (cell: Cell): void =>
    setTurned((before) => {
      const next = new Map(before);
      if (!next.delete(keyOf(cell))) next.set(keyOf(cell), cell);
      return next;
    });
  /** What a file says, pressed as if by hand; each with the end that stands in it. */
  const press = (read: GrantsFile): void => {
    setExtra((before) => [...before, ...read.add.map(targetOf)]);
    setTurned((before) => {
      const next = new Map(before);
      for (const one of read.add) {
        const cell = cellOf(one, here);
        next.set(keyOf(cell), cell);
      }
      return next;
    });
  };
  const licences = (withSeats ? (outlook?.pools ?? []) : [])
    .filter(({ short }) => short > 0)
    .map(({ pool, entitled }) => ({ pool, seats: entitled }));
  const name = places.find(([id]) => id === at)?.[1] ?? '';
  return (
    <div className={styles.page}>
      <Pills
        label="Environment"
        pills={places.map(([value, title]) => ({ value, name: title }))}
        chosen={at}
        onChoose={(id) => {
          setChosen(id);
          setTurned(new Map());
        }}
      />
      <div className={styles.columns}>
        <Panel title={`Who gets what of ${name}`} flush>
          <Grid
            code={code}
            offered={here}
            targets={targets}
            turned={turned}
            zone={customer.zone}
            onTurn={mayChange ? turn : undefined}
          />
          {mayChange && (
            <AddTarget
              code={code}
              groups={groups}
              asked={add}
              onAdd={(target) => setExtra((before) => [...before, target])}
            />
          )}
        </Panel>
        <div className={styles.side}>
          <OutlookPanel
            code={code}
            withSeats={withSeats}
            onWithSeats={setWithSeats}
            outlook={outlook}
            moves={moves}
            until={until}
            onUntil={setUntil}
            onClear={() => setTurned(new Map())}
            onChange={
              mayChange
                ? () =>
                    setChanging({
                      kind: 'grant-items',
                      verb: 'Change',
                      what: count(moves.add.length + moves.take.length, 'grant', 'grants'),
                      input: { ...moves, licences },
                    })
                : undefined
            }
          />
          {at !== undefined && (
            <GrantFile key={at} code={code} environment={at} onRead={mayChange ? press : undefined} />
          )}
        </div>
      </div>
      {changing && at !== undefined && (
        <Confirm
          customer={customer}
          environment={at}
          change={changing}
          onClose={() => setChanging(undefined)}
          onBegun={() => {
            setTurned(new Map());
            setExtra([]);
            again();
          }}
        />
      )}
    </div>
  );
}
