/** What went wrong, as RFC 9457 tells it. `fields` says it beside each field of the request. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly detail: string,
    readonly more: {
      readonly fields?: Readonly<Record<string, string>>;
      readonly extra?: Readonly<Record<string, unknown>>;
      readonly headers?: Readonly<Record<string, string>>;
    } = {},
  ) {
    super(detail);
  }
}

/** Also for what belongs to a customer out of reach: it is as if it did not exist. */
export const notFound = (what: string): Problem => new Problem(404, 'not-found', `There is no such ${what}.`);

/** Something of what was sent cannot be used: said beside its field. */
export const unusable = (field: string, why: string): Problem =>
  new Problem(422, 'invalid', 'Some of what was sent cannot be used.', { fields: { [field]: why } });

export const conflict = (code: string, detail: string, extra?: Record<string, unknown>): Problem =>
  new Problem(409, code, detail, extra ? { extra } : {});
