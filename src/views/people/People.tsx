import type { DeskMessage, Group, Mark, Member, Person } from '../../contract';
import { useEffect, useState } from 'react';
import { BookUser, Download, X } from 'lucide-react';
import { get, getAll } from '../../client/api';
import { useLive } from '../../client/live';
import { Button, ButtonLink } from '../../ui/Button';
import { Empty, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import { DeskMessages } from '../shared/DeskMessages';
import { Groups } from './Groups';
import { GroupWhy } from './GroupWhy';
import { Import } from './Import';
import styles from './People.module.css';

const nameOf = ({ given, family }: Person): string => `${given} ${family}`.trim();

const columnsOf = (
  code: string,
  ways: ReadonlyMap<string, readonly string[]> | undefined,
): readonly Column<Person>[] => [
  {
    id: 'name',
    title: 'Name',
    value: nameOf,
    width: '160px',
    cell: (row) => (
      <a className={styles.name} href={`/customers/${code}/people/${row.id}`}>
        {nameOf(row)}
      </a>
    ),
  },
  {
    id: 'account',
    title: 'Account',
    value: (row) => row.account,
    width: '180px',
    cell: (row) => <span className="mono">{row.account}</span>,
  },
  ...(ways
    ? [
        {
          id: 'way',
          title: 'Through',
          value: (row: Person) => (ways.get(row.id) ?? []).join(' in '),
          cell: (row: Person) => <span className={styles.way}>{(ways.get(row.id) ?? []).join(' in ')}</span>,
        },
      ]
    : []),
  {
    id: 'unit',
    title: 'Unit',
    value: (row) => row.unit,
    width: '150px',
    // The whole of it is told to who asks; the end tells them apart.
    cell: ({ unit }) => <span title={unit}>{unit.split('/').slice(-2).join(' › ')}</span>,
    hidden: ways !== undefined,
  },
  { id: 'mail', title: 'Mail', value: (row) => row.mail, hidden: ways !== undefined },
];

interface Props {
  readonly code: string;
  readonly zone: string;
  readonly mark: Mark;
  /** What stands on everyone's desk. */
  readonly messages: readonly DeskMessage[];
  readonly initial: readonly Person[];
  readonly groups: { readonly entries: readonly Group[]; readonly units: readonly string[] };
  readonly mayChange: boolean;
  readonly find: string;
  /** Id of the group whose people are shown. */
  readonly chosen?: string | undefined;
}

/** Who is who, and in which group? */
export function People({
  code,
  zone,
  mark,
  messages,
  initial,
  groups: before,
  mayChange,
  find,
  chosen,
}: Props) {
  const isOurs = (change: { readonly topic: string }): boolean => change.topic === 'people';
  const events = `/customers/${code}/events`;
  const { value: people, again } = useLive<readonly Person[]>(
    { key: 'people', read: () => getAll('/customers/{customer}/people', { customer: code }) },
    initial,
    events,
    isOurs,
  );
  const { value: groups } = useLive(
    { key: 'groups', read: () => get('/customers/{customer}/groups', { customer: code }) },
    before,
    events,
    isOurs,
  );
  const [group, setGroup] = useState(chosen);
  const of = groups.entries.find(({ id }) => id === group);
  const members = useMembers(code, of?.id, people);
  const ways = members && new Map(members.map((one) => [one.id, one.way]));
  const rows = ways ? people.filter(({ id }) => ways.has(id)) : people;
  return (
    <div className={styles.columns}>
      <div className={styles.side}>
        <Groups
          code={code}
          groups={groups.entries}
          units={groups.units}
          people={people.length}
          chosen={of?.id}
          onChoose={setGroup}
        />
        {of?.inScope === true && <GroupWhy key={of.id} code={code} group={of} />}
        {!of && <DeskMessages code={code} zone={zone} mark={mark} initial={messages} mayChange={mayChange} />}
        {mayChange && !of && <Import code={code} onDone={again} />}
      </div>
      <Panel title={of ? `${rows.length} in ${of.name}` : `${people.length} people of ${code}`} flush>
        <Table
          // With another group the columns are others.
          key={ways ? `in ${of?.id ?? ''}` : ''}
          rows={of && !members ? [] : rows}
          columns={columnsOf(code, ways)}
          idOf={(row) => row.id}
          label="people"
          filter={of ? '' : find}
          tools={
            <>
              {of && (
                <Button
                  kind="quiet"
                  icon={<X size={16} aria-hidden="true" />}
                  onPress={() => setGroup(undefined)}
                >
                  Everyone
                </Button>
              )}
              <ButtonLink
                kind="quiet"
                href={`/customers/${code}/directory`}
                icon={<BookUser size={16} aria-hidden="true" />}
              >
                Their directory
              </ButtonLink>
              <ButtonLink
                kind="quiet"
                href={`/api/v1/customers/${code}/people.csv`}
                icon={<Download size={16} aria-hidden="true" />}
              >
                CSV
              </ButtonLink>
            </>
          }
          empty={
            of ? (
              <Empty
                says={
                  of.inScope
                    ? 'Nobody is in it.'
                    : `It stands in ${of.unit}, outside what is read: who is in it is not known here.`
                }
              />
            ) : (
              <Empty says="Nobody is known yet. Link their directory, or import a file with the columns account, given, family and mail." />
            )
          }
        />
      </Panel>
    </div>
  );
}

/** Those in the group that was chosen, read again when people change. */
function useMembers(
  code: string,
  group: string | undefined,
  people: readonly Person[],
): readonly Member[] | undefined {
  const [read, setRead] = useState<{ readonly of: string; readonly members: readonly Member[] }>();
  useEffect(() => {
    if (group === undefined) return undefined;
    let ended = false;
    get('/customers/{customer}/groups/{group}/members', { customer: code, group }).then(
      ({ entries }) => {
        if (!ended) setRead({ of: group, members: entries });
      },
      () => undefined,
    );
    return () => {
      ended = true;
    };
  }, [code, group, people]);
  return read && read.of === group ? read.members : undefined;
}
