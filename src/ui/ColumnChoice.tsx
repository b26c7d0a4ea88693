import { Columns3 } from 'lucide-react';
import styles from './Table.module.css';

interface Props {
  readonly columns: readonly { readonly id: string; readonly title: string; readonly shown: boolean }[];
  readonly onChange: (id: string, shown: boolean) => void;
}

/** Which columns a table shows. */
export function ColumnChoice({ columns, onChange }: Props) {
  return (
    <details className={styles.choice}>
      <summary aria-label="Choose columns" title="Choose columns">
        <Columns3 size={16} aria-hidden="true" />
      </summary>
      <div>
        {columns.map((column) => (
          <label key={column.id}>
            <input
              type="checkbox"
              checked={column.shown}
              onChange={(event) => onChange(column.id, event.target.checked)}
            />
            {column.title}
          </label>
        ))}
      </div>
    </details>
  );
}
