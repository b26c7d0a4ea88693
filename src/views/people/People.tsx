import type { DeskMessage, Group, Mark, Page, Person } from '../../contract';
import { useState } from 'react';
import { BookUser, Download, X } from 'lucide-react';
import { get } from '../../client/api';
import { writeFigure } from '../../client/format';
import { useList } from '../../client/list';
import { useLive } from '../../client/live';
import { Button, ButtonLink } from '../../ui/Button';
import { Empty, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import { DeskMessages } from '../shared/DeskMessages';
import { Groups } from './Groups';
import { GroupWhy } from './GroupWhy';
import { Import } from './Import';
import { Members } from './Members';
import styles from './People.module.css';
import { whoColumns } from './who';

const nameOf = ({ given, family }: Person): string => `${given} ${family}`.trim();

const columnsOf = (code: string): readonly Column<Person>[] => [
  ...whoColumns<Person>(code, nameOf),
  {
    id: 'unit',
    title: 'Unit',
    value: (row) => row.unit,
    width: '150px',
    // The whole of it is told to who asks; the end tells them apart.
    cell: ({ unit }) => <span title={unit}>{unit.split('/').slice(-2).join(' › ')}</span>,
  },
  { id: 'mail', title: 'Mail', value: (row) => row.mail },
];

interface Props {
  readonly code: string;
  readonly zone: string;
  readonly mark: Mark;
  /** What stands on everyone's desk. */
  readonly messages: readonly DeskMessage[];
  /** How many they are in all. */
  readonly count: number;
  /** The first of those that `find` finds. */
  readonly initial: Page<Person>;
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
  count: countBefore,
  initial,
  groups: before,
  mayChange,
  find,
  chosen,
}: Props) {
  const isOurs = (change: { readonly topic: string }): boolean => change.topic === 'people';
  const events = `/customers/${code}/events`;
  const list = useList<Person>(`/customers/${code}/people`, initial, events, isOurs, {}, find);
  const { value: count, again } = useLive(
    { key: 'people', read: async () => (await get('/customers/{customer}', { customer: code })).people },
    countBefore,
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
  const tools = (
    <>
      {of && (
        <Button kind="quiet" icon={<X size={16} aria-hidden="true" />} onPress={() => setGroup(undefined)}>
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
      {mayChange && (
        <ButtonLink
          kind="quiet"
          href={`/api/v1/customers/${code}/people.csv`}
          icon={<Download size={16} aria-hidden="true" />}
        >
          CSV
        </ButtonLink>
      )}
    </>
  );
  return (
    <div className={styles.columns}>
      <div className={styles.side}>
        <Groups
          code={code}
          groups={groups.entries}
          units={groups.units}
          people={count}
          chosen={of?.id}
          onChoose={setGroup}
        />
        {of?.inScope === true && <GroupWhy key={of.id} code={code} group={of} />}
        {!of && <DeskMessages code={code} zone={zone} mark={mark} initial={messages} mayChange={mayChange} />}
        {mayChange && !of && <Import code={code} onDone={again} />}
      </div>
      {of ? (
        <Panel title={`${writeFigure(of.people)} in ${of.name}`} flush>
          <Members key={of.id} code={code} group={of} asOf={groups} tools={tools} />
        </Panel>
      ) : (
        <Panel title={`${writeFigure(count)} people of ${code}`} flush>
          <Table
            rows={list.entries}
            columns={columnsOf(code)}
            idOf={(row) => row.id}
            label="people"
            find={{ text: list.find, onText: list.setFind }}
            more={list.whole ? undefined : list.more}
            tools={tools}
            empty={
              <Empty says="Nobody is known yet. Link their directory, or import a file with the columns account, given, family and mail." />
            }
          />
        </Panel>
      )}
    </div>
  );
}
