import type { Offered } from '../../contract';
import { Check, Minus, Plus, User, Users } from 'lucide-react';
import { writeWhen } from '../../client/format';
import { ItemIcon } from '../shared/ItemIcon';
import styles from './Items.module.css';
import { keyOf, type Cell, type Target } from './moves';

interface Props {
  readonly code: string;
  readonly offered: readonly Offered[];
  readonly targets: readonly Target[];
  readonly turned: ReadonlyMap<string, Cell>;
  readonly zone: string;
  /** Left out: nothing may be changed. */
  readonly onTurn?: ((cell: Cell) => void) | undefined;
}

/** Items across, those they are granted to down; where they meet, a cell that is pressed. */
export function Grid({ code, offered, targets, turned, zone, onTurn }: Props) {
  return (
    <div className={styles.scroll}>
      <table className={styles.grid}>
        <thead>
          <tr>
            <td />
            {offered.map(({ item, licences, seated }) => (
              <th key={`${item.pool} ${item.name}`} scope="col">
                <ItemIcon item={item} size={36} />
                <span>{item.name}</span>
                <small>
                  {item.pool} · {seated} of {licences} seats
                </small>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {targets.map((target) => (
            <tr key={`${target.to} ${target.id}`}>
              <th scope="row">
                <TargetName code={code} target={target} />
              </th>
              {offered.map((one) => (
                <td key={`${one.item.pool} ${one.item.name}`}>
                  <GrantCell one={one} target={target} turned={turned} zone={zone} onTurn={onTurn} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function TargetName({ code, target }: { readonly code: string; readonly target: Target }) {
  const { to, id, name, people, inScope, unit } = target;
  const says =
    to === 'person'
      ? inScope
        ? 'one person'
        : 'gone from the directory'
      : inScope
        ? `${people} people`
        : `outside what is read: ${unit}`;
  return (
    <>
      {to === 'person' ? <User size={15} aria-hidden="true" /> : <Users size={15} aria-hidden="true" />}
      <span>
        {to === 'everyone' ? (
          name
        ) : (
          <a
            href={
              to === 'group' ? `/customers/${code}/people?group=${id}` : `/customers/${code}/people/${id}`
            }
          >
            {name}
          </a>
        )}
        <small data-bad={!inScope}>{says}</small>
      </span>
    </>
  );
}

function GrantCell({
  one,
  target,
  turned,
  zone,
  onTurn,
}: Pick<Props, 'turned' | 'zone' | 'onTurn'> & { readonly one: Offered; readonly target: Target }) {
  const grant = one.grants.find(({ to, id }) => to === target.to && id === target.id);
  const cell: Cell = { pool: one.item.pool, item: one.item.name, target, has: grant !== undefined };
  const isTurned = turned.has(keyOf(cell));
  const again = turned.get(keyOf(cell))?.isAgain === true;
  const state = isTurned ? (cell.has && !again ? 'taken' : 'added') : cell.has ? 'has' : 'none';
  return (
    <button
      type="button"
      className={styles.cell}
      data-state={state}
      aria-pressed={state === 'has' || state === 'added'}
      aria-label={`${one.item.name} of ${one.item.pool} for ${target.name}`}
      disabled={!onTurn}
      onClick={() => onTurn?.(cell)}
    >
      {state === 'has' && <Check size={18} aria-hidden="true" />}
      {state === 'added' && <Plus size={18} aria-hidden="true" />}
      {state === 'taken' && <Minus size={18} aria-hidden="true" />}
      {grant && grant.until !== null && !isTurned && <small>until {writeWhen(grant.until, zone)}</small>}
    </button>
  );
}
