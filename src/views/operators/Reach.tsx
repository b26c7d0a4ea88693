import { CheckField, ManyField } from '../../ui/Field';

/** Whom someone reaches: every customer, or those that are pressed. */
export function Reach({
  customers,
  chosen,
  onChange,
  error,
}: {
  readonly customers: readonly { readonly code: string; readonly name: string }[];
  /** Null: every customer. */
  readonly chosen: readonly string[] | null;
  readonly onChange: (chosen: readonly string[] | null) => void;
  readonly error: string | undefined;
}) {
  return (
    <>
      <CheckField
        label="Reaches every customer"
        checked={chosen === null}
        onChange={(event) => onChange(event.target.checked ? null : [])}
        error={chosen === null ? error : undefined}
      />
      {chosen !== null && (
        <ManyField
          label="Reaches"
          options={customers.map(({ code }) => ({ value: code, name: code }))}
          chosen={chosen}
          onChange={onChange}
          error={error}
        />
      )}
    </>
  );
}
