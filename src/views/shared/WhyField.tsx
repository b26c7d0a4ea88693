import { TextField } from '../../ui/Field';

/** Why something is done: it stands on the trail. */
export const WhyField = ({
  value,
  onChange,
  label = 'Why',
}: {
  readonly value: string;
  readonly onChange: (why: string) => void;
  readonly label?: string;
}) => (
  <TextField
    label={label}
    placeholder="for the trail"
    maxLength={250}
    value={value}
    onChange={(event) => onChange(event.target.value)}
  />
);
