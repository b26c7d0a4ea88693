import type { Group, Member } from '../../contract';
import { useEffect, useState, type ReactNode } from 'react';
import { get } from '../../client/api';
import { Empty } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import styles from './People.module.css';
import { whoColumns } from './who';

const columnsOf = (code: string): readonly Column<Member>[] => [
  ...whoColumns<Member>(code, ({ name }) => name),
  {
    id: 'way',
    title: 'Through',
    value: (row) => row.way.join(' in '),
    cell: (row) => <span className={styles.way}>{row.way.join(' in ')}</span>,
  },
  { id: 'unit', title: 'Unit', value: (row) => row.unit, hidden: true },
];

interface Props {
  readonly code: string;
  readonly group: Group;
  /** Changes whenever anything of the customer's people does: then it is read again. */
  readonly asOf: unknown;
  readonly tools: ReactNode;
}

/** Who is in a group, and through which. */
export function Members({ code, group, asOf, tools }: Props) {
  const members = useMembers(code, group.id, asOf);
  return (
    <Table
      rows={members ?? NOBODY_YET}
      columns={columnsOf(code)}
      idOf={(row) => row.id}
      label="people"
      tools={tools}
      empty={
        members && (
          <Empty
            says={
              group.inScope
                ? 'Nobody is in it.'
                : `It stands in ${group.unit}, outside what is read: who is in it is not known here.`
            }
          />
        )
      }
    />
  );
}

const NOBODY_YET: readonly Member[] = [];

function useMembers(code: string, group: string, asOf: unknown): readonly Member[] | undefined {
  const [read, setRead] = useState<{ readonly of: string; readonly members: readonly Member[] }>();
  useEffect(() => {
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
  }, [code, group, asOf]);
  return read && read.of === group ? read.members : undefined;
}
