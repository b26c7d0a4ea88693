import { TextField } from '../../ui/Field';

/** What touches several customers is done once whoever does it has typed how many those are. */
export function CountField({
  count,
  what,
  value,
  onValue,
}: {
  readonly count: number;
  /** In the plural. */
  readonly what: string;
  readonly value: string;
  readonly onValue: (value: string) => void;
}) {
  const isOther = value.trim() !== '' && value.trim() !== String(count);
  return (
    <TextField
      label={`Type how many ${what} those are`}
      inputMode="numeric"
      autoComplete="off"
      value={value}
      error={isOther ? `those are ${count}` : undefined}
      onChange={(event) => onValue(event.target.value)}
    />
  );
}
