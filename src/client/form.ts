import { joiResolver } from '@hookform/resolvers/joi';
import type Joi from 'joi';
import { ApiProblem, whyOf } from './api';
import { useEffect } from 'react';
import {
  useForm,
  type FieldValues,
  type Resolver,
  type UseFormProps,
  type UseFormReturn,
} from 'react-hook-form';

/** What checks a form: a schema that is fetched when the form is first checked, so that the page comes without it. */
export const checkedBy = <Values extends FieldValues>(
  load: () => Promise<Joi.ObjectSchema>,
): Resolver<Values, unknown, Values> => checkedAs<Values, Values>(load, (values) => values);

/** As `checkedBy`, of what is sent for what was typed: the form's fields bear the names of what is sent. */
export const checkedAs =
  <Values extends FieldValues, Sent extends FieldValues>(
    load: () => Promise<Joi.ObjectSchema>,
    sentFor: (values: Values) => object,
  ): Resolver<Values, unknown, Sent> =>
  async (values, ...rest) =>
    joiResolver(await load(), { abortEarly: false, errors: { label: false } })(
      sentFor(values) as FieldValues,
      ...(rest as unknown as [unknown, never]),
    ) as ReturnType<Resolver<Values, unknown, Sent>>;

/** A number as typed; null while the field is empty. */
export const numberOrNull = (typed: string): number | string | null =>
  typed.trim() === '' ? null : Number.isFinite(Number(typed)) ? Number(typed) : typed;

/** The beginning of a day as a date field has it, in UTC; null while the field is empty. */
export const dayOrNull = (typed: string): number | null =>
  typed === '' ? null : Date.parse(`${typed}T00:00:00Z`);

/**
 * The form of a page. What was typed before the page's script ran is kept, where a field has no default value here: what
 * it shall hold at first it is given by its own `defaultValue`.
 */
export function usePageForm<Values extends FieldValues, Sent extends FieldValues = Values>(
  options: UseFormProps<Values, unknown, Sent>,
): UseFormReturn<Values, unknown, Sent> {
  const form = useForm<Values, unknown, Sent>(options);
  const { reset, getValues } = form;
  // The fields have been read when they were mounted; who watches them is told now.
  useEffect(() => reset(getValues(), { keepDefaultValues: true }), [reset, getValues]);
  return form;
}

/**
 * Shows a refusal beside the fields that it names.
 * @param fields those that the form has
 * @returns what of it stands beside no field
 */
export function showRefusal<Field extends string>(
  error: unknown,
  fields: readonly Field[],
  setError: (field: Field, says: { readonly message: string }) => void,
): string | undefined {
  const named = error instanceof ApiProblem ? error.fields : {};
  const faulty = fields.filter((field) => named[field] !== undefined);
  for (const field of faulty) setError(field, { message: named[field] ?? '' });
  return faulty.length > 0 ? undefined : whyOf(error);
}
