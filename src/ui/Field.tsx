import { useId, type InputHTMLAttributes, type ReactNode, type SelectHTMLAttributes } from 'react';
import styles from './Field.module.css';

interface Base {
  readonly label: string;
  /** One line where it is needed. */
  readonly help?: string;
  /** What is wrong, beside the field. */
  readonly error?: string | undefined;
}

function Frame({
  label,
  help,
  error,
  id,
  children,
}: Base & { readonly id: string; readonly children: ReactNode }) {
  return (
    <div className={styles.field}>
      <label htmlFor={id}>{label}</label>
      {children}
      {error !== undefined ? (
        <p className={styles.error} id={`${id}-says`} role="alert">
          {error}
        </p>
      ) : (
        help !== undefined && (
          <p className={styles.help} id={`${id}-says`}>
            {help}
          </p>
        )
      )}
    </div>
  );
}

const says = (id: string, { help, error }: Base) => ({
  'aria-invalid': error !== undefined,
  'aria-describedby': help !== undefined || error !== undefined ? `${id}-says` : undefined,
});

export function TextField({ label, help, error, ...input }: Base & InputHTMLAttributes<HTMLInputElement>) {
  const id = useId();
  const base = { label, ...(help === undefined ? {} : { help }), error };
  return (
    <Frame {...base} id={id}>
      <input id={id} className={styles.input} {...says(id, base)} {...input} />
    </Frame>
  );
}

export function SelectField({
  label,
  help,
  error,
  children,
  ...select
}: Base & SelectHTMLAttributes<HTMLSelectElement>) {
  const id = useId();
  const base = { label, ...(help === undefined ? {} : { help }), error };
  return (
    <Frame {...base} id={id}>
      <select id={id} className={styles.input} {...says(id, base)} {...select}>
        {children}
      </select>
    </Frame>
  );
}
