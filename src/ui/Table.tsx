import { useRef, useState, type ReactNode } from 'react';
import {
  flexRender,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  useReactTable,
  type ColumnDef,
  type RowSelectionState,
  type SortingState,
  type VisibilityState,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Button } from './Button';
import { TableBar } from './TableBar';
import { TableHead } from './TableHead';
import styles from './Table.module.css';

export interface Column<Row> {
  readonly id: string;
  readonly title: string;
  /** What is sorted and filtered by. */
  readonly value: (row: Row) => string | number;
  readonly cell?: (row: Row) => ReactNode;
  /** Figures stand at the right. */
  readonly figure?: boolean;
  /** Not shown until chosen. */
  readonly hidden?: boolean;
  readonly width?: string;
}

interface Props<Row> {
  readonly rows: readonly Row[];
  readonly columns: readonly Column<Row>[];
  readonly idOf: (row: Row) => string;
  /** What the rows are: names the table, and the text field that filters it. */
  readonly label: string;
  readonly empty: ReactNode;
  /** With selection: what can be done with the rows that are selected. */
  readonly actions?: (selected: readonly Row[], clear: () => void) => ReactNode;
  readonly tools?: ReactNode;
  /** What the table's own filter begins with. */
  readonly filter?: string;
  readonly height?: number;
  /** Left out, the table filters the rows it has; given, whoever holds the whole list finds. */
  readonly find?: { readonly text: string; readonly onText: (text: string) => void };
  /** Given when there are more rows than these: reads on. Rows are sorted only when all are here. */
  readonly more?: (() => void) | undefined;
}

const ROW = 38;

/** Dense rows, thousands of them: sort by a heading, filter by text, choose columns, select for actions. */
export function Table<Row>({ filter = '', height = 560, ...props }: Props<Row>) {
  const { rows, columns, label, actions, more } = props;
  const [own, setOwn] = useState(filter);
  const find = props.find ?? { text: own, onText: setOwn };
  const [sorting, setSorting] = useState<SortingState>([]);
  const [selection, setSelection] = useState<RowSelectionState>({});
  const [visible, setVisible] = useState<VisibilityState>(
    Object.fromEntries(
      columns.filter((column) => column.hidden === true).map((column) => [column.id, false]),
    ),
  );
  // The table's functions are used here and in its parts only, and passed on to nothing that remembers them.
  // eslint-disable-next-line react-hooks/incompatible-library
  const table = useReactTable<Row>({
    data: rows as Row[],
    columns: columns.map((column): ColumnDef<Row> => ({
      id: column.id,
      header: column.title,
      accessorFn: column.value,
      cell: ({ row }) => (column.cell ? column.cell(row.original) : column.value(row.original)),
    })),
    getRowId: props.idOf,
    state: {
      sorting,
      globalFilter: props.find ? '' : own,
      rowSelection: selection,
      columnVisibility: visible,
    },
    onSortingChange: setSorting,
    onRowSelectionChange: setSelection,
    onColumnVisibilityChange: setVisible,
    enableRowSelection: actions !== undefined,
    enableSorting: more === undefined,
    globalFilterFn: 'includesString',
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
  });
  const shown = table.getRowModel().rows;
  const frame = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: 12,
    initialRect: { width: 1000, height },
  });
  if (rows.length === 0 && find.text === '') return <>{props.empty}</>;
  const look = new Map(columns.map((column) => [column.id, column]));
  const items = virtual.getVirtualItems();
  const above = items[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  return (
    <div>
      <TableBar
        table={table}
        label={label}
        find={find}
        partial={more !== undefined}
        actions={actions}
        tools={props.tools}
      />
      {/* The frame scrolls, so the keyboard must reach it. */}
      <div
        ref={frame}
        className={styles.frame}
        style={{ maxHeight: height }}
        tabIndex={0}
        role="region"
        aria-label={label}
      >
        <table aria-rowcount={rows.length}>
          <TableHead table={table} look={look} selects={actions !== undefined} />
          <tbody>
            {above > 0 && <tr style={{ height: above }} aria-hidden="true" />}
            {items.map((item) => {
              const row = shown[item.index];
              if (!row) return null;
              return (
                <tr
                  key={row.id}
                  aria-rowindex={item.index + 1}
                  data-selected={row.getIsSelected() || undefined}
                >
                  {actions && (
                    <td className={styles.pick}>
                      <input
                        type="checkbox"
                        aria-label={`Select ${String(columns[0]?.value(row.original) ?? row.id)}`}
                        checked={row.getIsSelected()}
                        onChange={row.getToggleSelectedHandler()}
                      />
                    </td>
                  )}
                  {row.getVisibleCells().map((cell) => (
                    <td
                      key={cell.id}
                      className={look.get(cell.column.id)?.figure === true ? styles.figure : undefined}
                    >
                      {flexRender(cell.column.columnDef.cell, cell.getContext())}
                    </td>
                  ))}
                </tr>
              );
            })}
            {below > 0 && <tr style={{ height: below }} aria-hidden="true" />}
          </tbody>
        </table>
        {shown.length === 0 && <p className={styles.nothing}>Nothing matches “{find.text}”.</p>}
        {more && (
          <div className={styles.more}>
            <Button onPress={more}>Show more</Button>
          </div>
        )}
      </div>
    </div>
  );
}
