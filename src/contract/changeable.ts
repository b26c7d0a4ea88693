import type { ChangedCustomer, WholeCustomer } from './customers';

/** What of a customer may be said otherwise at any time, as it is. */
export function changeableOf({
  code: _code,
  state: _state,
  plan: _plan,
  site: _site,
  currency: _currency,
  card: _card,
  ...rest
}: WholeCustomer): Omit<ChangedCustomer, 'reason'> {
  return rest;
}
