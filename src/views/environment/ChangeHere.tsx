import { useForm, useWatch } from 'react-hook-form';
import { writeSize } from '../../core/sizing';
import { SelectField, TextField } from '../../ui/Field';
import type { MarkLook } from '../../ui/Mark';
import { ChangeDialog } from '../shared/ChangeDialog';
import type { Changing } from './facts';

interface Props {
  readonly customer: { readonly code: string; readonly name: string; readonly mark: MarkLook };
  readonly environment: string;
  readonly changing: Changing;
  readonly onClose: () => void;
  readonly onBegun: (run: string) => void;
}

/** A change of this environment, with the one thing that can still be chosen. */
export default function ChangeHere({ customer, environment, changing, onClose, onBegun }: Props) {
  const { field } = changing;
  const form = useForm<Record<string, string | number>>({
    defaultValues: Object.fromEntries(
      Object.entries(changing.input).filter(
        (entry): entry is [string, string | number] => typeof entry[1] !== 'object',
      ),
    ),
  });
  const chosen = useWatch({ control: form.control });
  const input = field ? { ...changing.input, ...chosen } : changing.input;
  return (
    <ChangeDialog
      customer={customer}
      environment={environment}
      change={changing}
      input={input}
      danger={changing.danger ?? false}
      onClose={onClose}
      onBegun={onBegun}
      {...(field
        ? {
            fields: (errors) =>
              field.type === 'number' ? (
                <TextField
                  label={field.label}
                  type="number"
                  min={field.min}
                  max={field.max}
                  autoFocus
                  {...(field.help === undefined ? {} : { help: field.help })}
                  error={errors[field.name]}
                  {...form.register(field.name, { valueAsNumber: true })}
                />
              ) : (
                <SelectField
                  label={field.label}
                  autoFocus
                  error={errors[field.name]}
                  {...form.register(field.name)}
                >
                  {field.sizes.map((size) => (
                    <option key={size.key} value={size.key}>
                      {writeSize(size)}
                    </option>
                  ))}
                </SelectField>
              ),
          }
        : {})}
    />
  );
}
