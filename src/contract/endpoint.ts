import type Joi from 'joi';
import type { Right } from './roles';

export type Method = 'GET' | 'POST' | 'PUT' | 'DELETE';
/** `person`: one of a customer's people, at their own desk. */
export type Access = 'public' | 'operator' | 'customer' | 'person';

/** One way into the API: what it takes and answers. The server, its OpenAPI document and the client go by it. */
export interface Endpoint<
  Path extends string = string,
  Params = unknown,
  Query = unknown,
  Body extends Joi.AnySchema | undefined = Joi.AnySchema | undefined,
  Answer = unknown,
  Verb extends Method = Method,
> {
  readonly method: Verb;
  /** Under /api/v1, with parameters in braces. One with `{customer}` is inside that customer. */
  readonly path: Path;
  readonly summary: string;
  readonly area: string;
  readonly params?: Joi.AnySchema<Params>;
  readonly query?: Joi.AnySchema<Query>;
  readonly body?: Body;
  /** How long its body may be; 250,000 bytes unless it is said. */
  readonly mostBytes?: number;
  /** What an answer of its status holds; undefined: nothing, or not JSON. */
  readonly answer?: Joi.AnySchema<Answer>;
  /** 200 unless it is said. */
  readonly status?: number;
  /** Another media type than JSON, for what is sent or answered. */
  readonly requestType?: string;
  readonly responseType?: string;
  /** What whoever asks has to have the right to; undefined: to be an operator is enough. */
  readonly right?: Right;
  /** Whether it may be asked by who has yet to set up the second factor that is required. */
  readonly beforeFactor?: boolean;
  /** Whether it is also inside the MSP’s own tenant, for those who reach every customer. */
  readonly own?: boolean;
  /** Whether it changes what belongs to every customer: only who reaches them all may ask it. */
  readonly everyone?: boolean;
  /** Whether only who is signed in themselves may ask it: no API token speaks for them there. */
  readonly inPerson?: boolean;
  /** Whether it needs no sign-in. */
  readonly anyone?: boolean;
  /** Whether it only asks, although it is no GET. */
  readonly changesNothing?: boolean;
}

/** States an endpoint; its types follow from its schemas. */
export const endpoint = <
  const Path extends string,
  const Verb extends Method,
  Params = Readonly<Record<string, never>>,
  Query = Readonly<Record<string, never>>,
  Body extends Joi.AnySchema | undefined = undefined,
  Answer = undefined,
>(
  stated: Endpoint<Path, Params, Query, Body, Answer, Verb>,
): Endpoint<Path, Params, Query, Body, Answer, Verb> => stated;

/** An endpoint that changes nothing: it is a POST because what is asked is too long for an address. */
export type Question<
  Path extends string = string,
  Params = unknown,
  Query = unknown,
  Body extends Joi.AnySchema | undefined = Joi.AnySchema | undefined,
  Answer = unknown,
> = Endpoint<Path, Params, Query, Body, Answer, 'POST'> & { readonly changesNothing: true };

/** States a question; its types follow from its schemas. */
export const question = <
  const Path extends string,
  Params = Readonly<Record<string, never>>,
  Query = Readonly<Record<string, never>>,
  Body extends Joi.AnySchema | undefined = undefined,
  Answer = undefined,
>(
  stated: Omit<Endpoint<Path, Params, Query, Body, Answer, 'POST'>, 'method'>,
): Question<Path, Params, Query, Body, Answer> => ({ ...stated, method: 'POST', changesNothing: true });

export const accessOf = ({ anyone, path }: Pick<Endpoint, 'anyone' | 'path'>): Access =>
  anyone === true
    ? 'public'
    : path.startsWith('/desk')
      ? 'person'
      : path.includes('{customer}')
        ? 'customer'
        : 'operator';
