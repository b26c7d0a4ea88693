import { can, customerCode, OWN_CODE, RIGHTS, type Right, type Role } from '../../contract';
import { join, raw, sql, type Connection, type Sql } from '../db';
import { notFound, Problem } from '../problem';

export interface Actor {
  readonly id: string;
  readonly name: string;
  /** `person`: one of a customer's people, at their own desk. */
  readonly role: Role | 'system' | 'person';
  readonly rights: readonly Right[];
}

/** The tenant that is the MSP itself: what belongs to no customer belongs to it. */
export const MSP = { id: '00000000000000000000000000', code: OWN_CODE } as const;

/** A request that may be sent again: what it makes is kept with it. */
export interface RequestKey {
  readonly key: string;
  /** What the request is, signed by the key that seals, and as it was by another that is read too. */
  readonly hashes: readonly [now: string, ...before: string[]];
}

/** Refuses a write over what is no longer as it was read. Called in the transaction that writes. @throws Problem 412 */
export type Unchanged = (db: Connection) => Promise<void>;

/** Who acts, and whose customers they reach. Everything that reads or writes a customer's data takes one. */
export interface Scope {
  readonly actor: Actor;
  /** Ids of the customers in reach; undefined: every customer, and the MSP's own. */
  readonly customers: ReadonlySet<string> | undefined;
  readonly request?: RequestKey;
  readonly unchanged?: Unchanged;
  /** Whether they have yet to set up the second factor that is required: until then they may do nothing else. */
  readonly needsFactor?: boolean;
  /** The id of the API token that speaks for the actor; undefined: they are signed in themselves. */
  readonly token?: string;
  /** Whether that token may less than its operator: then it changes nothing of theirs either. */
  readonly isNarrowed?: boolean;
}

const entered = Symbol('entered');

/** Who acts, inside one customer. Made by `enter` and `systemScope` only, so no one is inside by mistake. */
export interface CustomerScope {
  readonly [entered]: true;
  readonly actor: Actor;
  readonly customer: { readonly id: string; readonly code: string };
  readonly request?: RequestKey;
  readonly unchanged?: Unchanged;
}

/** Whether it is inside one customer: by a mark that nothing from outside can carry, and of its own. */
export const isInside = (scope: Scope | CustomerScope): scope is CustomerScope =>
  Object.hasOwn(scope, entered);

/**
 * Goes inside a customer. @param own whether the MSP's own tenant is one too: to those alone who reach every customer
 * @throws Problem 404 when there is none of that code in reach
 */
export async function enter(db: Connection, scope: Scope, code: string, own = false): Promise<CustomerScope> {
  // A code that cannot be is of a customer that is not there: what the database might say of it is nobody's business.
  if (customerCode.validate(code).error) throw notFound('customer');
  const customer = await db.row<{ id: string; code: string }>(
    "SELECT id, code FROM customer WHERE code = ? AND (kind = 'customer' OR ?)",
    [code, own],
  );
  if (!customer || (scope.customers && !scope.customers.has(customer.id))) throw notFound('customer');
  return {
    [entered]: true,
    actor: scope.actor,
    customer,
    ...(scope.request ? { request: scope.request } : {}),
    ...(scope.unchanged ? { unchanged: scope.unchanged } : {}),
  };
}

/** The worker's and the loader's own scope, inside the customer whose step is done. */
export const systemScope = (customer: { id: string; code: string }, name = 'Laager'): CustomerScope => ({
  [entered]: true,
  actor: { id: 'system', name, role: 'system', rights: RIGHTS },
  customer,
});

/** One of a customer's people, inside that customer, and nowhere but at their own desk. */
export interface DeskScope extends CustomerScope {
  /** Our id of them. */
  readonly person: string;
}

/** @param person whose desk it is, as who they are was shown */
export const deskScope = (
  customer: { readonly id: string; readonly code: string },
  person: { readonly id: string; readonly name: string },
): DeskScope => ({
  [entered]: true,
  actor: { id: person.id, name: person.name, role: 'person', rights: [] },
  customer,
  person: person.id,
});

/** One of a customer's people, who may have done from their desk what else only Laager does: under their name and key. */
export const systemScopeFor = ({ customer, actor, request }: DeskScope): CustomerScope => ({
  ...systemScope(customer),
  actor: { ...actor, role: 'system', rights: RIGHTS },
  ...(request ? { request } : {}),
});

/** Who acts, and everywhere: for what Laager does by itself. */
export const SYSTEM: Scope = {
  actor: { id: 'system', name: 'Laager', role: 'system', rights: RIGHTS },
  customers: undefined,
};

/** A condition that keeps a query to the customers in reach; `column` is written by us. */
export function reachable(scope: Scope, column: string): Sql {
  if (!scope.customers) return sql`TRUE`;
  const ids = [...scope.customers];
  return ids.length === 0 ? sql`FALSE` : sql`${raw(column)} IN (${join(ids)})`;
}

/** The same for who may be inside a customer: then to that one. */
export const within = (scope: Scope | CustomerScope, column: string): Sql =>
  isInside(scope) ? sql`${raw(column)} = ${scope.customer.id}` : reachable(scope, column);

/** @throws Problem 403 for who has not the right to do this */
export function requireRight({ rights }: Actor, right: Right | undefined): void {
  if (!can(rights, right)) throw new Problem(403, 'right', `This requires the right “${String(right)}”.`);
}

/** Whoever asks, for what is done in several transactions: one request's key would stand for all of them. */
export const withoutRequest = <Asking extends Scope | CustomerScope>({
  request: _request,
  ...scope
}: Asking): Omit<Asking, 'request'> => scope;
