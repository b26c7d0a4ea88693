import type { Facts } from '../../core/facts';
import { withKept } from '../../core/planning';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';
import { keptAt } from '../holds';
import type { OutsideSays } from '../sites';
import { approval } from './approval';
import { customer } from './customer';
import { environment } from './environment';
import { image, imagesTaken } from './image';
import { known } from './known';
import { overrides } from './overrides';
import { accounts, grantees } from './people';
import { present } from './present';
import { rates } from './rates';
import type { FactAsk, FactKey, FactReader, Subject } from './reader';
import { retained, served } from './served';
import { site } from './site';
import { template } from './template';

/* What a change is proposed from, group by group. A new group is a reader of the same shape and its line here. */

const READERS: { readonly [Key in FactKey]: FactReader<Key> } = {
  now: ({ app }) => Promise.resolve(app.clock.now()),
  approval,
  customer,
  site,
  rates,
  template,
  accounts,
  grantees,
  imagesTaken,
  environment,
  known,
  present,
  overrides,
  image,
  served,
  retained,
};

/** Facts with some of their groups; of the others nothing was read. */
export type Some<Key extends FactKey> = { readonly [One in Key]: Facts[One] };

/**
 * Reads groups of facts, each once.
 * @throws Problem 404 for a site, template or environment that is not there
 */
export async function readSome<Key extends FactKey>(
  app: App,
  connection: Connection,
  scope: CustomerScope,
  subject: Subject,
  keys: readonly Key[],
  outside: OutsideSays,
): Promise<Some<Key>> {
  const read = new Map<FactKey, Promise<unknown>>();
  const ask: FactAsk = { app, connection, scope, subject, outside, get };
  function get<One extends FactKey>(key: One): Promise<Facts[One]> {
    const known = read.get(key) as Promise<Facts[One]> | undefined;
    if (known) return known;
    const reader: FactReader<One> = READERS[key];
    const found = reader(ask);
    read.set(key, found);
    return found;
  }
  const found: [Key, unknown][] = [];
  // One after the other: within a transaction there is one connection.
  for (const key of keys) found.push([key, await get(key)]);
  return Object.fromEntries(found.filter(([, value]) => value !== undefined)) as Some<Key>;
}

/** The facts that a change is proposed from; what is kept for other proposals counts as taken. @throws Problem 404 */
export async function readFacts(
  app: App,
  connection: Connection,
  scope: CustomerScope,
  subject: Subject,
  keys: readonly FactKey[],
  outside: OutsideSays,
): Promise<Facts> {
  const facts = (await readSome(app, connection, scope, subject, keys, outside)) as Facts;
  return withKept(facts, await keptAt(connection, scope, subject.site, facts.now, subject.hold));
}
