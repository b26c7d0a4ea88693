import { Plus, X } from 'lucide-react';
import type { ReactNode } from 'react';
import { Button } from '../../ui/Button';
import styles from './Onboard.module.css';

/** Any number of entries of one shape: each a row of fields, one more at a press. */
export function Rows({
  title,
  add,
  rows,
  onAdd,
  onRemove,
  error,
}: {
  readonly title: string;
  readonly add: string;
  readonly rows: readonly { readonly id: string; readonly fields: ReactNode; readonly says: string }[];
  readonly onAdd: () => void;
  readonly onRemove: (index: number) => void;
  readonly error?: string | undefined;
}) {
  return (
    <fieldset className={styles.rows}>
      <legend>{title}</legend>
      {rows.map((row, index) => (
        <div key={row.id} className={styles.row}>
          {row.fields}
          <Button kind="quiet" aria-label={`Remove ${row.says}`} onPress={() => onRemove(index)}>
            <X size={15} aria-hidden="true" />
          </Button>
        </div>
      ))}
      {error !== undefined && (
        <p role="alert" className={styles.problem}>
          {error}
        </p>
      )}
      <div>
        <Button kind="quiet" icon={<Plus size={15} aria-hidden="true" />} onPress={onAdd}>
          {add}
        </Button>
      </div>
    </fieldset>
  );
}
