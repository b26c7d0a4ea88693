import type { Group } from '../../contract';
import { useState } from 'react';
import { ChevronRight, CircleSlash2 } from 'lucide-react';
import { count, writeFigure } from '../../client/format';
import { ButtonLink } from '../../ui/Button';
import { Empty, Panel } from '../../ui/Panel';
import styles from './Groups.module.css';

interface Props {
  readonly code: string;
  readonly groups: readonly Group[];
  /** What is read of the directory; none: all of it, or chosen groups. */
  readonly units: readonly string[];
  readonly people: number;
  readonly chosen: string | undefined;
  readonly onChoose: (group: string | undefined) => void;
}

/** So many are drawn; the others are found by their name. */
const MOST = 60;
/** Of what stands deeper the name would have no room. */
const DEEPEST_DRAWN = 5;
const INDENT_PX = 14;

/** The groups as they stand in one another, the outermost first, each with how many are in it of all. */
export function Groups({ code, groups, units, people, chosen, onChoose }: Props) {
  const [text, setText] = useState('');
  const isFound = ({ name }: Group): boolean => name.toLowerCase().includes(text.trim().toLowerCase());
  const inside = groups.filter(({ inScope }) => inScope);
  const outside = groups.filter((group) => !group.inScope && isFound(group));
  const rows =
    text.trim() === '' ? nested(inside) : inside.filter(isFound).map((group) => ({ group, depth: 0 }));
  if (groups.length === 0)
    return (
      <Panel title="Groups">
        <Empty says="No groups are known. They come with a linked directory.">
          <ButtonLink kind="plain" href={`/customers/${code}/directory`}>
            Link their directory
          </ButtonLink>
        </Empty>
      </Panel>
    );
  return (
    <Panel title={count(groups.length, 'group', 'groups')}>
      {groups.length > 12 && (
        <input
          className={styles.find}
          type="search"
          aria-label="Find a group"
          placeholder="Find a group"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      )}
      <ul className={styles.groups}>
        {rows.slice(0, MOST).map(({ group, depth }, n) => (
          <li
            key={`${group.id} ${n}`}
            style={{ paddingInlineStart: `${Math.min(depth, DEEPEST_DRAWN) * INDENT_PX}px` }}
          >
            <button
              type="button"
              aria-pressed={group.id === chosen}
              onClick={() => onChoose(group.id === chosen ? undefined : group.id)}
            >
              {depth > 0 && <ChevronRight size={13} aria-hidden="true" className={styles.in} />}
              <span className={styles.title} title={group.name}>
                {group.name}
                {group.grants > 0 && (
                  <small title="granted to it">{count(group.grants, 'item', 'items')}</small>
                )}
              </span>
              <span className={styles.bar} aria-hidden="true">
                <span style={{ width: `${people === 0 ? 0 : (100 * group.people) / people}%` }} />
              </span>
              <b>{writeFigure(group.people)}</b>
            </button>
          </li>
        ))}
      </ul>
      <More than={MOST} of={rows.length} />
      {outside.length > 0 && (
        <div className={styles.outside}>
          <p>
            <CircleSlash2 size={15} aria-hidden="true" /> Outside what is read
            {units.length > 0 && <>, which is {units.join(', ')}</>}
          </p>
          <ul>
            {outside.slice(0, MOST).map((group) => (
              <li key={group.id}>
                <b>{group.name}</b> <span>in {group.unit === '' ? 'no unit' : group.unit}</span>
              </li>
            ))}
          </ul>
          <More than={MOST} of={outside.length} />
          <ButtonLink kind="quiet" href={`/customers/${code}/directory`}>
            Change what is read
          </ButtonLink>
        </div>
      )}
    </Panel>
  );
}

const More = ({ than, of }: { readonly than: number; readonly of: number }) =>
  of > than && <p className={styles.quiet}>and {writeFigure(of - than)} more: find them by name</p>;

/** Each group below the first that it stands in; what stands only in a circle begins with its largest. */
function nested(groups: readonly Group[]): { readonly group: Group; readonly depth: number }[] {
  const names = new Set(groups.map(({ name }) => name));
  const innerOf = new Map<string, Group[]>();
  for (const group of groups)
    for (const outer of group.within) innerOf.set(outer, [...(innerOf.get(outer) ?? []), group]);
  const rows: { group: Group; depth: number }[] = [];
  const shown = new Set<string>();
  const show = (group: Group, depth: number): void => {
    if (shown.has(group.id)) return;
    shown.add(group.id);
    rows.push({ group, depth });
    for (const inner of innerOf.get(group.name) ?? []) show(inner, depth + 1);
  };
  const bySize = [...groups].sort(
    (a, b) => b.people - a.people || a.name.localeCompare(b.name, 'en', { numeric: true }),
  );
  for (const group of bySize) if (!group.within.some((name) => names.has(name))) show(group, 0);
  for (const group of bySize) show(group, 0);
  return rows;
}
