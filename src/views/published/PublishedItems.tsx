import type { Customer, Published } from '../../contract';
import { useState } from 'react';
import { get } from '../../client/api';
import { count } from '../../client/format';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Empty, Panel } from '../../ui/Panel';
import { PillLinks, Pills } from '../../ui/Pills';
import type { Changing } from '../shared/changing';
import { Confirm } from '../shared/Confirm';
import { asked, draftOf, faultsOf, movesOf, type Draft } from './edit';
import { FoundPrograms } from './FoundPrograms';
import { ItemForm } from './ItemForm';
import { ItemList } from './ItemList';
import { Rules } from './Rules';
import styles from './Published.module.css';

interface Props {
  readonly customer: Customer;
  /** Environments that publish something. */
  readonly places: readonly { readonly id: string; readonly name: string }[];
  readonly at: string | undefined;
  readonly initial: Published | undefined;
  readonly mayChange: boolean;
}

const NONE: Published = { rules: { crosses: [], screen: 'as the window' }, pools: [] };

/** What do people find, what does it start, and what may cross? Nothing is published before one says so. */
export function PublishedItems({ customer, places, at, initial, mayChange }: Props) {
  const { code } = customer;
  const { value: published, again } = useLive<Published>(
    {
      key: `published ${at ?? ''}`,
      read: () =>
        at === undefined
          ? Promise.resolve(NONE)
          : get('/customers/{customer}/environments/{environment}/published', {
              customer: code,
              environment: at,
            }),
    },
    initial ?? NONE,
    `/customers/${code}/events`,
    (change) => change.topic === 'environment' || change.topic === 'run',
  );
  const [role, setRole] = useState(initial?.pools[0]?.pool);
  const [drafts, setDrafts] = useState<Readonly<Record<string, Draft>>>({});
  const [changing, setChanging] = useState<Changing>();
  const pool = published.pools.find((one) => one.pool === role) ?? published.pools[0];
  if (!pool || at === undefined)
    return (
      <Panel title="What is published">
        <Empty says="Nothing is published yet. What pools publish comes with an environment." />
      </Panel>
    );
  const draft = drafts[pool.pool] ?? draftOf(pool);
  const edit = (next: Draft): void => setDrafts((before) => ({ ...before, [pool.pool]: next }));
  const forget = (): void => setDrafts(({ [pool.pool]: _gone, ...rest }) => rest);
  const faults = faultsOf(draft.items);
  const moves = movesOf(draft, pool);
  const item = draft.items[draft.at];
  const name = places.find(({ id }) => id === at)?.name ?? '';
  return (
    <>
      <div className={styles.places}>
        <PillLinks
          label="Environment"
          pills={places.map((one) => ({ value: one.id, name: one.name }))}
          chosen={at}
          hrefOf={(id) => `?environment=${id}`}
        />
        <Pills
          label="Pool"
          pills={published.pools.map((one) => ({ value: one.pool, name: one.pool }))}
          chosen={pool.pool}
          onChoose={setRole}
        />
      </div>
      <div className={styles.columns}>
        <div className={styles.column}>
          <Panel
            title={`What people find of ${pool.pool}`}
            side={
              mayChange && moves > 0 ? (
                <div className={styles.publish}>
                  <Button kind="quiet" onPress={forget}>
                    Start over
                  </Button>
                  <Button
                    kind="main"
                    isDisabled={Object.keys(faults).length > 0}
                    onPress={() =>
                      setChanging({
                        kind: 'publish-items',
                        verb: 'Publish',
                        what: count(moves, 'item', 'items'),
                        input: { pool: pool.pool, items: asked(draft) },
                        done: forget,
                      })
                    }
                  >
                    Publish {count(moves, 'change', 'changes')} for {code}
                  </Button>
                </div>
              ) : (
                <span className={styles.quiet}>{name}</span>
              )
            }
          >
            <ItemList draft={draft} pool={pool} faults={faults} onChoose={(n) => edit({ ...draft, at: n })} />
            {mayChange && <FoundPrograms pool={pool} draft={draft} onEdit={edit} />}
          </Panel>
          <Rules code={code} initial={published.rules} mayChange={mayChange} onKept={again} />
        </div>
        <Panel title={item?.name ?? 'Nothing chosen'}>
          {item && (
            <ItemForm
              key={`${pool.pool} ${draft.at}`}
              draft={draft}
              item={item}
              pool={pool}
              rules={published.rules}
              faults={faults}
              mayChange={mayChange}
              onEdit={edit}
            />
          )}
        </Panel>
      </div>
      {changing && (
        <Confirm
          customer={customer}
          environment={at}
          change={changing}
          onClose={() => setChanging(undefined)}
          onBegun={again}
        />
      )}
    </>
  );
}
