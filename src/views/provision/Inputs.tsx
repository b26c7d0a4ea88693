import type { FilledInput, InputValue } from '../../core/intent';
import type { TemplateInput } from '../../core/templates';
import { CheckField, SelectField, TextField } from '../../ui/Field';

interface Props {
  readonly inputs: readonly TemplateInput[];
  readonly filled: readonly FilledInput[];
  /** The customer's groups. */
  readonly groups: readonly { readonly id: string; readonly name: string; readonly people: number }[];
  /** What is wrong with each, by its key. */
  readonly problems: Readonly<Record<string, string>>;
  readonly onFill: (filled: readonly FilledInput[]) => void;
}

/** What a template asks of each customer; what is as usual is not said. */
export function Inputs({ inputs, filled, groups, problems, onFill }: Props) {
  const fill = (key: string, value: InputValue): void =>
    onFill([...filled.filter((one) => one.key !== key), { key, value }]);
  return inputs.map((input) => {
    const value = filled.find(({ key }) => key === input.key)?.value ?? input.usual;
    const about = {
      label: input.title,
      error: problems[input.key],
      ...(input.help === '' ? {} : { help: input.help }),
    };
    switch (input.type) {
      case 'count':
        return (
          <TextField
            key={input.key}
            {...about}
            type="number"
            min={input.least}
            max={input.most}
            value={String(value)}
            onChange={(event) => fill(input.key, event.target.value === '' ? '' : Number(event.target.value))}
          />
        );
      case 'choice':
        return (
          <SelectField
            key={input.key}
            {...about}
            value={String(value)}
            onChange={(event) => fill(input.key, event.target.value)}
          >
            {input.choices.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </SelectField>
        );
      case 'group':
        return (
          <SelectField
            key={input.key}
            {...about}
            value={String(value)}
            onChange={(event) => fill(input.key, event.target.value)}
          >
            <option value="">All people</option>
            {groups.map(({ id, name, people }) => (
              <option key={id} value={id}>
                {name} · {people}
              </option>
            ))}
          </SelectField>
        );
      case 'text':
        return (
          <TextField
            key={input.key}
            {...about}
            value={String(value)}
            maxLength={input.most}
            autoComplete="off"
            onChange={(event) => fill(input.key, event.target.value)}
          />
        );
      case 'yes':
        return (
          <CheckField
            key={input.key}
            {...about}
            checked={value === true}
            onChange={(event) => fill(input.key, event.target.checked)}
          />
        );
    }
  });
}
