import type { Column } from '../../ui/Table';
import styles from './People.module.css';

/** Who somebody is, the same in every list of people; their name leads to their page. */
export const whoColumns = <Row extends { readonly id: string; readonly account: string }>(
  code: string,
  nameOf: (row: Row) => string,
): readonly Column<Row>[] => [
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
];
