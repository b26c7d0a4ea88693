import { DateTime } from 'luxon';
import { writeSize } from '../../core/machines';
import { CheckField, LongField, SelectField, TextField } from '../../ui/Field';
import { numberOrNone, type ChangeForm } from './change-form';
import type { ChangeField } from './changing';

/** The one field of a change's input that can still be chosen. */
export function ChangeInput({
  form,
  field,
  refused,
  isFirst = true,
}: {
  readonly form: ChangeForm;
  readonly field: ChangeField;
  /** What the server says of the fields. */
  readonly refused: Readonly<Record<string, string>>;
  readonly isFirst?: boolean;
}) {
  const name = `input.${field.name}` as const;
  const error = form.getFieldState(name, form.formState).error?.message ?? refused[field.name];
  if (field.type === 'size')
    return (
      <SelectField label={field.label} autoFocus={isFirst} error={error} {...form.register(name)}>
        {field.sizes.map((size) => (
          <option key={size.key} value={size.key}>
            {writeSize(size)}
          </option>
        ))}
      </SelectField>
    );
  if (field.type === 'one')
    return (
      <SelectField label={field.label} autoFocus={isFirst} error={error} {...form.register(name)}>
        {field.options.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </SelectField>
    );
  if (field.type === 'yes')
    return (
      <CheckField
        label={field.label}
        {...(field.help === undefined ? {} : { help: field.help })}
        error={error}
        {...form.register(name)}
      />
    );
  if (field.type === 'accounts')
    return (
      <LongField
        label={field.label}
        autoFocus={isFirst}
        rows={3}
        mono
        {...(field.help === undefined ? {} : { help: field.help })}
        error={error}
        {...form.register(name, { setValueAs: accountsOf })}
      />
    );
  if (field.type === 'moment')
    return (
      <TextField
        label={field.label}
        type="datetime-local"
        {...(field.help === undefined ? {} : { help: field.help })}
        error={error}
        {...form.register(name, { setValueAs: (typed: unknown) => momentOrNull(typed, field.zone) })}
      />
    );
  if (field.type === 'text')
    return (
      <TextField
        label={field.label}
        autoFocus={isFirst}
        autoComplete="off"
        {...(field.help === undefined ? {} : { help: field.help })}
        error={error}
        {...form.register(name)}
      />
    );
  return (
    <TextField
      label={field.label}
      type="number"
      min={field.min}
      max={field.max}
      autoFocus={isFirst}
      {...(field.help === undefined ? {} : { help: field.help })}
      error={error}
      {...form.register(name, { setValueAs: numberOrNone })}
    />
  );
}

/** The moment that a clock in a zone shows so; null: nothing was typed. */
function momentOrNull(typed: unknown, zone: string): number | null {
  if (typeof typed !== 'string') return typeof typed === 'number' ? typed : null;
  const at = DateTime.fromISO(typed, { zone });
  return at.isValid ? at.toMillis() : null;
}

/** Accounts as they were typed: one a line, or with commas or spaces between them. */
const accountsOf = (typed: unknown): readonly string[] =>
  Array.isArray(typed)
    ? typed.map(String)
    : String(typed)
        .split(/[\s,;]+/)
        .filter((one) => one !== '');
