import type { ReactNode } from 'react';
import type { Table } from '@tanstack/react-table';
import { ColumnChoice } from './ColumnChoice';
import styles from './Table.module.css';

interface Props<Row> {
  readonly table: Table<Row>;
  readonly label: string;
  readonly find: { readonly text: string; readonly onText: (text: string) => void };
  /** Whether there are more rows than the table has. */
  readonly partial: boolean;
  readonly actions: ((selected: readonly Row[], clear: () => void) => ReactNode) | undefined;
  readonly tools: ReactNode;
}

/** Above a table: what filters it and which columns it shows; or, while rows are selected, what can be done with them. */
export function TableBar<Row>({ table, label, find, partial, actions, tools }: Props<Row>) {
  const selected = table.getSelectedRowModel().rows.map((row) => row.original);
  if (actions && selected.length > 0)
    return (
      <div className={styles.bar}>
        <div className={styles.actions} role="toolbar" aria-label={`${selected.length} selected`}>
          <b>{selected.length} selected</b>
          {actions(selected, () => table.resetRowSelection(true))}
        </div>
      </div>
    );
  const shown = table.getRowModel().rows.length;
  const all = table.getCoreRowModel().rows.length;
  return (
    <div className={styles.bar}>
      <input
        type="search"
        className={styles.search}
        placeholder={`Filter ${label}`}
        aria-label={`Filter ${label}`}
        value={find.text}
        onChange={(event) => find.onText(event.target.value)}
      />
      <span className={styles.count}>
        {shown === all ? all : `${shown} of ${all}`}
        {partial && ' and more'}
      </span>
      <span className={styles.tools}>
        {tools}
        <ColumnChoice
          columns={table.getAllLeafColumns().map((column) => ({
            id: column.id,
            title: String(column.columnDef.header),
            shown: column.getIsVisible(),
          }))}
          onChange={(id, on) => table.getColumn(id)?.toggleVisibility(on)}
        />
      </span>
    </div>
  );
}
