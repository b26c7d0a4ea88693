import Joi from 'joi';

/**
 * Shapes of what goes over the wire: a Joi schema that carries the type of what it lets through, so that both are stated
 * once. Joi's own methods lose such types where they widen a schema (`allow`, `valid`, `optional`), hence the few
 * statements of a type below.
 */

/** The type of what a schema lets through, defaults filled in. */
export type Of<Schema> = Schema extends Joi.AnySchema<infer Value> ? Value : never;

declare const filledIn: unique symbol;
/** A key that may be left out of what is sent, as its default is filled in. */
export interface FilledIn {
  readonly [filledIn]: true;
}

type Keys = Readonly<Record<string, Joi.AnySchema>>;
type Optional<Schemas extends Keys> = {
  [Key in keyof Schemas]: MayBeMissing<Of<Schemas[Key]>> extends true ? Key : never;
}[keyof Schemas];
type MayBeMissing<Value> = unknown extends Value ? false : undefined extends Value ? true : false;
type Leavable<Schemas extends Keys> = {
  [Key in keyof Schemas]: Schemas[Key] extends FilledIn ? Key : Optional<Pick<Schemas, Key>>;
}[keyof Schemas];
type Flat<Value> = { readonly [Key in keyof Value]: Value[Key] };

/** The type of an object with these keys: those that may be undefined may be missing. */
export type OfKeys<Schemas extends Keys> = Flat<
  { [Key in Exclude<keyof Schemas, Optional<Schemas>>]: Of<Schemas[Key]> } & {
    [Key in Optional<Schemas>]?: Of<Schemas[Key]>;
  }
>;

declare const sentAs: unique symbol;
/** An object's schema, with the type of what may be sent: keys with a default left out. */
export type ObjectShape<Schemas extends Keys> = Joi.ObjectSchema<OfKeys<Schemas>> & {
  readonly [sentAs]?: Flat<
    { [Key in Exclude<keyof Schemas, Leavable<Schemas>>]: Of<Schemas[Key]> } & {
      [Key in Leavable<Schemas>]?: Of<Schemas[Key]>;
    }
  >;
};

/** The type of what is sent to a schema, defaults left out. */
export type Sent<Schema> = Schema extends { readonly [sentAs]?: infer Value }
  ? Exclude<Value, undefined>
  : Of<Schema>;

export const shape = <Schemas extends Keys>(keys: Schemas): ObjectShape<Schemas> =>
  Joi.object(keys).required();

export const text = Joi.string().allow('').required();
export const maybeText: Joi.AnySchema<string | null> = Joi.string().allow(null, '').required();
export const number = Joi.number().required();
export const part = Joi.number().min(0).max(1).required();
export const whole = Joi.number().integer().required();
export const maybeWhole: Joi.AnySchema<number | null> = Joi.number().integer().allow(null).required();
export const flag = Joi.boolean().required();

export const oneOf = <const Value extends string>(values: readonly Value[]): Joi.AnySchema<Value> =>
  Joi.string()
    .valid(...values)
    .required() as Joi.AnySchema as Joi.AnySchema<Value>;

export const listOf = <Entry>(entry: Joi.AnySchema<Entry>): Joi.AnySchema<readonly Entry[]> =>
  Joi.array<readonly Entry[]>().items(entry.optional()).required();

/** It may be missing. */
export const optional = <Value>(schema: Joi.AnySchema<Value>): Joi.AnySchema<Value | undefined> =>
  schema.optional() as Joi.AnySchema<Value | undefined>;

/** It may be null. */
export const maybe = <Value>(schema: Joi.AnySchema<Value>): Joi.AnySchema<Value | null> =>
  schema.allow(null) as Joi.AnySchema<Value | null>;

/** It may be left out of what is sent; then it is `value`. */
export const filled = <Value, Default extends Value & (string | number | boolean | object | null)>(
  schema: Joi.AnySchema<Value>,
  value: Default,
): Joi.AnySchema<Value> & FilledIn => schema.optional().default(value) as Joi.AnySchema<Value> & FilledIn;

/** A flat object of texts by name. */
export const texts: Joi.AnySchema<Readonly<Record<string, string>>> = Joi.object()
  .pattern(Joi.string(), Joi.string())
  .required();
