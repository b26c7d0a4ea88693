/** A refusal of the API, as RFC 9457 tells it; `fields` says it beside each field. */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    detail: string,
    readonly fields: Readonly<Record<string, string>>,
    readonly body: Readonly<Record<string, unknown>>,
  ) {
    super(detail);
  }
}
