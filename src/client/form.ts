import { joiResolver } from '@hookform/resolvers/joi';
import type Joi from 'joi';
import type { FieldValues, Resolver } from 'react-hook-form';

/** What checks a form: a schema that is fetched when the form is first checked, so that the page comes without it. */
export const checkedBy =
  <Values extends FieldValues>(load: () => Promise<Joi.ObjectSchema>): Resolver<Values, unknown, Values> =>
  async (...form) =>
    joiResolver(await load(), { errors: { label: false } })(...form) as ReturnType<
      Resolver<Values, unknown, Values>
    >;
