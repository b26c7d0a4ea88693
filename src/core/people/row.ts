/** Someone in a customer's directory, as imported. */
export interface PersonRow {
  readonly account: string;
  readonly given: string;
  readonly family: string;
  readonly mail: string;
}
