import type { Person } from '../../contract';
import { BookUser, Download } from 'lucide-react';
import { getAll } from '../../client/api';
import { useLive } from '../../client/live';
import { ButtonLink } from '../../ui/Button';
import { Empty, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import { Import } from './Import';
import styles from './People.module.css';

const COLUMNS: readonly Column<Person>[] = [
  {
    id: 'account',
    title: 'Account',
    value: (row) => row.account,
    cell: (row) => <span className="mono">{row.account}</span>,
  },
  { id: 'given', title: 'Given name', value: (row) => row.given },
  { id: 'family', title: 'Family name', value: (row) => row.family },
  { id: 'mail', title: 'Mail', value: (row) => row.mail },
];

interface Props {
  readonly code: string;
  readonly initial: readonly Person[];
  readonly mayChange: boolean;
  readonly find: string;
}

export function People({ code, initial, mayChange, find }: Props) {
  const { value, again } = useLive<readonly Person[]>(
    { key: 'people', read: () => getAll('/customers/{customer}/people', { customer: code }) },
    initial,
    `/customers/${code}/events`,
    (change) => change.topic === 'people',
  );
  return (
    <div className={styles.columns}>
      <Panel title={`${value.length} people of ${code}`} flush>
        <Table
          rows={value}
          columns={COLUMNS}
          idOf={(row) => row.id}
          label="people"
          filter={find}
          tools={
            <>
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
            <Empty says="Nobody is known yet. Import a file with the columns account, given, family and mail." />
          }
        />
      </Panel>
      {mayChange && <Import code={code} onDone={again} />}
    </div>
  );
}
