import { flexRender, type Table } from '@tanstack/react-table';
import styles from './Table.module.css';

interface Props<Row> {
  readonly table: Table<Row>;
  /** How columns look, by id. */
  readonly look: ReadonlyMap<string, { readonly figure?: boolean; readonly width?: string }>;
  readonly selects: boolean;
}

/** The headings: pressed, they sort. */
export function TableHead<Row>({ table, look, selects }: Props<Row>) {
  return (
    <thead>
      {table.getHeaderGroups().map((group) => (
        <tr key={group.id}>
          {selects && (
            <th className={styles.pick}>
              <input
                type="checkbox"
                aria-label="Select all"
                checked={table.getIsAllRowsSelected()}
                onChange={table.getToggleAllRowsSelectedHandler()}
              />
            </th>
          )}
          {group.headers.map((header) => {
            const sorted = header.column.getIsSorted();
            const column = look.get(header.id);
            return (
              <th
                key={header.id}
                style={{ width: column?.width }}
                className={column?.figure === true ? styles.figure : undefined}
                aria-sort={sorted === false ? 'none' : sorted === 'asc' ? 'ascending' : 'descending'}
              >
                <button
                  type="button"
                  disabled={!header.column.getCanSort()}
                  onClick={header.column.getToggleSortingHandler()}
                >
                  {flexRender(header.column.columnDef.header, header.getContext())}
                  <span aria-hidden="true">{sorted === 'asc' ? ' ↑' : sorted === 'desc' ? ' ↓' : ''}</span>
                </button>
              </th>
            );
          })}
        </tr>
      ))}
    </thead>
  );
}
