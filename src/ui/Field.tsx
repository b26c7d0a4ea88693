import {
  useId,
  useState,
  type InputHTMLAttributes,
  type ReactNode,
  type SelectHTMLAttributes,
  type TextareaHTMLAttributes,
} from 'react';
import styles from './Field.module.css';

interface Base {
  readonly label: string;
  /** One line where it is needed. */
  readonly help?: ReactNode;
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
        Boolean(help) && (
          <p className={styles.help} id={`${id}-says`}>
            {help}
          </p>
        )
      )}
    </div>
  );
}

const isSaid = (help: ReactNode): boolean => help !== undefined && help !== false;

const says = (id: string, { help, error }: Base) => ({
  'aria-invalid': error !== undefined,
  'aria-describedby': isSaid(help) || error !== undefined ? `${id}-says` : undefined,
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

/** Text of several lines. @param mono for what is read letter by letter */
export function LongField({
  label,
  help,
  error,
  mono = false,
  ...area
}: Base & { readonly mono?: boolean } & TextareaHTMLAttributes<HTMLTextAreaElement>) {
  const id = useId();
  const base = { label, ...(help === undefined ? {} : { help }), error };
  return (
    <Frame {...base} id={id}>
      <textarea
        id={id}
        className={`${styles.input ?? ''} ${mono ? (styles.long ?? '') : ''}`}
        {...says(id, base)}
        {...area}
      />
    </Frame>
  );
}

/** Yes or no, with what it says beside its box. */
export function CheckField({
  label,
  help,
  error,
  ...input
}: Base & Omit<InputHTMLAttributes<HTMLInputElement>, 'type'>) {
  const id = useId();
  return (
    <div className={styles.check}>
      <input
        id={id}
        type="checkbox"
        {...says(id, { label, error, ...(help === undefined ? {} : { help }) })}
        {...input}
      />
      <label htmlFor={id}>{label}</label>
      {isSaid(error ?? help) && (
        <p className={error === undefined ? styles.help : styles.error} id={`${id}-says`}>
          {error ?? help}
        </p>
      )}
    </div>
  );
}

/** Of more than these, one looks for what is meant by its name. */
const MANY = 12;
/** So many are drawn then, beside those that are chosen. */
const MOST_DRAWN = 8;

/** Any of some: each is pressed on and off. */
export function ManyField({
  label,
  help,
  error,
  options,
  chosen,
  onChange,
}: Base & {
  readonly options: readonly { readonly value: string; readonly name: string }[];
  readonly chosen: readonly string[];
  readonly onChange: (chosen: readonly string[]) => void;
}) {
  const id = useId();
  const [text, setText] = useState('');
  const toggle = (value: string): void =>
    onChange(chosen.includes(value) ? chosen.filter((one) => one !== value) : [...chosen, value]);
  const on = new Set(chosen);
  const isMany = options.length > MANY;
  const found = options.filter(
    ({ value, name }) => !on.has(value) && name.toLowerCase().includes(text.trim().toLowerCase()),
  );
  const drawn = isMany
    ? [...options.filter(({ value }) => on.has(value)), ...found.slice(0, MOST_DRAWN)]
    : options;
  return (
    <fieldset className={styles.many} aria-describedby={`${id}-says`}>
      <legend>{label}</legend>
      {isMany && (
        <input
          type="search"
          className={styles.input}
          aria-label={`Find among ${label}`}
          placeholder={`Find one of ${options.length}`}
          value={text}
          onChange={(event) => setText(event.target.value)}
          // What is found is pressed; the form is not sent by looking for it.
          onKeyDown={(event) => event.key === 'Enter' && event.preventDefault()}
        />
      )}
      <div>
        {drawn.map(({ value, name }) => (
          <label key={value} data-on={chosen.includes(value) || undefined}>
            <input type="checkbox" checked={chosen.includes(value)} onChange={() => toggle(value)} />
            {name}
          </label>
        ))}
      </div>
      {isMany && found.length > MOST_DRAWN && (
        <p className={styles.help}>and {found.length - MOST_DRAWN} more: find them by name</p>
      )}
      {isSaid(error ?? help) && (
        <p className={error === undefined ? styles.help : styles.error} id={`${id}-says`}>
          {error ?? help}
        </p>
      )}
    </fieldset>
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
