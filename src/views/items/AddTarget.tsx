import type { Group, Person } from '../../contract';
import { useEffect, useState } from 'react';
import { User, Users } from 'lucide-react';
import { get } from '../../client/api';
import styles from './Items.module.css';
import type { Target } from './moves';

interface Props {
  readonly code: string;
  readonly groups: readonly Group[];
  /** Id of a person who is there from the beginning. */
  readonly asked?: string | undefined;
  readonly onAdd: (target: Target) => void;
}

const MOST = 6;

/** Finds a group or a person by name, and gives them a row. */
export function AddTarget({ code, groups, asked, onAdd }: Props) {
  const [text, setText] = useState('');
  const people = useFound(code, text);
  useEffect(() => {
    if (asked === undefined) return;
    get('/customers/{customer}/people/{person}', { customer: code, person: asked }).then(
      (person) => onAdd(targetOf(person)),
      () => undefined,
    );
    // Once, when the page comes.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [asked, code]);
  const words = text.trim().toLowerCase();
  const found: Target[] =
    words === ''
      ? []
      : [
          ...groups
            .filter(({ name }) => name.toLowerCase().includes(words))
            .slice(0, MOST)
            .map(({ id, name, unit, inScope, people: count }): Target => ({
              to: 'group',
              id,
              name,
              unit,
              inScope,
              people: count,
            })),
          ...people.map(targetOf),
        ];
  return (
    <div className={styles.add}>
      <input
        type="search"
        aria-label="Add a group or a person"
        placeholder="Add a group or a person"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      {found.length > 0 && (
        <ul>
          {found.map((one) => (
            <li key={`${one.to} ${one.id}`}>
              <button
                type="button"
                onClick={() => {
                  onAdd(one);
                  setText('');
                }}
              >
                {one.to === 'group' ? (
                  <Users size={15} aria-hidden="true" />
                ) : (
                  <User size={15} aria-hidden="true" />
                )}
                <b>{one.name}</b>
                <small>
                  {one.to === 'group'
                    ? one.inScope
                      ? `${one.people} people`
                      : 'outside what is read'
                    : one.unit}
                </small>
              </button>
            </li>
          ))}
        </ul>
      )}
      {words !== '' && found.length === 0 && <p className={styles.quiet}>No group or person of that name.</p>}
    </div>
  );
}

const targetOf = ({ id, given, family, unit }: Pick<Person, 'id' | 'given' | 'family' | 'unit'>): Target => ({
  to: 'person',
  id,
  name: `${given} ${family}`.trim(),
  unit,
  inScope: true,
  people: 1,
});

const TYPING_MS = 200;

function useFound(code: string, text: string): readonly Person[] {
  const words = text.trim();
  const [found, setFound] = useState<{ readonly of: string; readonly people: readonly Person[] }>();
  useEffect(() => {
    if (words === '') return undefined;
    let ended = false;
    const timer = setTimeout(() => {
      get('/customers/{customer}/people', { customer: code }, { find: words, limit: MOST }).then(
        ({ entries }) => {
          if (!ended) setFound({ of: words, people: entries });
        },
        () => undefined,
      );
    }, TYPING_MS);
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [code, words]);
  return found && found.of === words ? found.people : [];
}
