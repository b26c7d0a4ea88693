import type { Group, Item, KeptOut } from '../../contract';
import { useEffect, useState } from 'react';
import { get, whyOf } from '../../client/api';
import { count } from '../../client/format';
import { Chip } from '../../ui/Chip';
import { SelectField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import styles from './People.module.css';

const keyOf = (item: Item): string => `${item.environmentId} ${item.pool} ${item.name}`;
/** So many of those who are kept out are told at once. */
const MOST = 30;

/** Who of a group would not get in to an item, and why? */
export function GroupWhy({ code, group }: { readonly code: string; readonly group: Group }) {
  const [items, setItems] = useState<readonly Item[]>([]);
  const [chosen, setChosen] = useState('');
  const [answer, setAnswer] = useState<{ readonly of: string; readonly out: KeptOut }>();
  const [problem, setProblem] = useState<string>();
  useEffect(() => {
    let ended = false;
    get('/customers/{customer}/items', { customer: code }).then(
      ({ entries }) => {
        if (!ended) setItems(entries.map(({ item }) => item));
      },
      () => undefined,
    );
    return () => {
      ended = true;
    };
  }, [code]);
  const item = items.find((one) => keyOf(one) === chosen);
  const asked = item && `${group.id} ${chosen}`;
  useEffect(() => {
    if (!item || asked === undefined) return undefined;
    let ended = false;
    get(
      '/customers/{customer}/groups/{group}/why',
      { customer: code, group: group.id },
      { environment: item.environmentId, pool: item.pool, item: item.name },
    ).then(
      (out) => {
        if (ended) return;
        setAnswer({ of: asked, out });
        setProblem(undefined);
      },
      (error: unknown) => {
        if (!ended) setProblem(whyOf(error));
      },
    );
    return () => {
      ended = true;
    };
  }, [asked, code, group.id, item]);
  const out = answer && answer.of === asked ? answer.out : undefined;
  if (items.length === 0) return null;
  return (
    <Panel title="Who would not get in?">
      <div className={styles.why}>
        <SelectField label="To" value={chosen} onChange={(event) => setChosen(event.target.value)}>
          <option value="">choose an item</option>
          {items.map((one) => (
            <option key={keyOf(one)} value={keyOf(one)}>
              {one.name}, {one.pool} of {one.environment}
            </option>
          ))}
        </SelectField>
        {problem !== undefined && <p role="alert">{problem}</p>}
        {out && (
          <div role="status">
            <Chip tone={out.keptOut.length === 0 ? 'good' : 'care'}>
              {out.getIn} of {count(out.people, 'person gets in', 'people get in')}
            </Chip>
            <ul className={styles.out}>
              {out.keptOut.slice(0, MOST).map((one) => (
                <li key={one.id}>
                  <a href={`/customers/${code}/people/${one.id}`}>{one.name}</a>
                  <span>{one.link.says}</span>
                </li>
              ))}
            </ul>
            {out.keptOut.length > MOST && <p>and {out.keptOut.length - MOST} more</p>}
          </div>
        )}
      </div>
    </Panel>
  );
}
