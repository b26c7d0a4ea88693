import { X } from 'lucide-react';
import { ITEM_KINDS, type OfferedItem } from '../../core/intent';
import { TERMS, type Term, type TermKey } from '../../core/terms';
import { Button } from '../../ui/Button';
import { ManyField, SelectField, TextField } from '../../ui/Field';
import styles from './TermField.module.css';

interface Props {
  readonly term: TermKey;
  /** Told beside its title, to those who only hear it: of which pool it is. */
  readonly of?: string;
  /** Without its help, where there is little room. */
  readonly isTerse?: boolean;
  readonly value: unknown;
  /** Instead of free words: what may be chosen. */
  readonly options?: readonly string[] | undefined;
  /** For whom an item may be; left out, or none: all are for everyone. */
  readonly groups?: readonly { readonly value: string; readonly name: string }[] | undefined;
  readonly error?: string | undefined;
  readonly onChange: (value: unknown) => void;
}

/** One term of a pool, filled in as its list says; a value that an input fills is shown as words. */
export function TermField({
  term: key,
  of,
  isTerse = false,
  value,
  options,
  groups,
  error,
  onChange,
}: Props) {
  const term: Term = TERMS[key];
  const unit = term.form === 'figure' && term.unit !== undefined ? `, ${term.unit}` : '';
  const label = `${term.title}${unit}`;
  const about = {
    label,
    ...(of === undefined ? {} : { 'aria-label': `${label} of ${of}` }),
    ...(isTerse ? {} : { help: term.help }),
    error,
  };
  if (typeof value === 'string' && value.startsWith('='))
    return <TextField {...about} value={value} onChange={(event) => onChange(event.target.value)} />;
  switch (term.form) {
    case 'figure':
      return (
        <TextField
          {...about}
          inputMode="decimal"
          value={String(value ?? '')}
          onChange={(event) => onChange(figureOf(event.target.value))}
        />
      );
    case 'choice':
      return <Choose {...about} value={value} options={term.choices} onChange={onChange} />;
    case 'choices':
      return (
        <ManyField
          {...about}
          options={term.choices.map((one) => ({ value: one, name: one }))}
          chosen={Array.isArray(value) ? value.map(String) : []}
          onChange={(chosen) => onChange(term.choices.filter((one) => chosen.includes(one)))}
        />
      );
    case 'words':
      return options ? (
        <Choose {...about} value={value} options={options} onChange={onChange} />
      ) : (
        <TextField
          {...about}
          value={String(value ?? '')}
          autoComplete="off"
          onChange={(event) => onChange(event.target.value)}
        />
      );
    case 'items':
      return (
        <Items
          of={of}
          groups={groups ?? []}
          items={Array.isArray(value) ? (value as OfferedItem[]) : []}
          error={error}
          onChange={onChange}
        />
      );
  }
}

/** A figure as it was typed; what is none stays as it is, and is told. */
const figureOf = (typed: string): number | string =>
  typed.trim() === '' || Number.isNaN(Number(typed)) ? typed : Number(typed);

function Choose({
  value,
  options,
  onChange,
  ...about
}: {
  readonly label: string;
  readonly help?: string;
  readonly error: string | undefined;
  readonly value: unknown;
  readonly options: readonly string[];
  readonly onChange: (value: unknown) => void;
}) {
  const chosen = String(value ?? '');
  return (
    <SelectField {...about} value={chosen} onChange={(event) => onChange(event.target.value)}>
      {!options.includes(chosen) && <option value={chosen}>{chosen === '' ? 'choose one' : chosen}</option>}
      {options.map((one) => (
        <option key={one} value={one}>
          {one}
        </option>
      ))}
    </SelectField>
  );
}

/** What people find: each with its kind. */
function Items({
  of,
  groups,
  items,
  error,
  onChange,
}: {
  readonly of: string | undefined;
  readonly groups: readonly { readonly value: string; readonly name: string }[];
  readonly error: string | undefined;
  readonly items: readonly OfferedItem[];
  readonly onChange: (items: readonly OfferedItem[]) => void;
}) {
  const edit = (at: number, item: OfferedItem): void =>
    onChange(items.map((one, n) => (n === at ? item : one)));
  const whose = of === undefined ? '' : ` of ${of}`;
  return (
    <fieldset className={styles.items}>
      <legend>{TERMS.items.title}</legend>
      {items.map((item, at) => (
        <div key={at}>
          <input
            aria-label={`Item ${at + 1}${whose}`}
            value={item.name}
            onChange={(event) => edit(at, { ...item, name: event.target.value })}
          />
          <select
            aria-label={`Kind of item ${at + 1}${whose}`}
            value={item.kind}
            onChange={(event) =>
              edit(at, { ...item, kind: ITEM_KINDS.find((kind) => kind === event.target.value) ?? 'app' })
            }
          >
            {ITEM_KINDS.map((kind) => (
              <option key={kind}>{kind}</option>
            ))}
          </select>
          {groups.length > 0 && (
            <select
              aria-label={`For whom item ${at + 1}${whose} is`}
              value={item.for ?? ''}
              onChange={(event) => {
                const { for: _for, ...rest } = item;
                edit(at, event.target.value === '' ? rest : { ...rest, for: event.target.value });
              }}
            >
              <option value="">for everyone</option>
              {groups.map((one) => (
                <option key={one.value} value={one.value}>
                  {one.name}
                </option>
              ))}
            </select>
          )}
          <button
            type="button"
            aria-label={`Remove item ${at + 1}${whose}`}
            disabled={items.length === 1}
            onClick={() => onChange(items.filter((_, n) => n !== at))}
          >
            <X size={14} aria-hidden="true" />
          </button>
        </div>
      ))}
      <Button onPress={() => onChange([...items, { name: `App ${items.length + 1}`, kind: 'app' }])}>
        Add an item
      </Button>
      {error !== undefined && (
        <p role="alert" className={styles.error}>
          {error}
        </p>
      )}
    </fieldset>
  );
}
