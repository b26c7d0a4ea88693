import { monthOf } from '../../core/calendar';
import { type Money, nothing } from '../../core/money';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { resourceCharges } from '../costs';
import { notFound } from '../problem';
import { ProviderTrouble } from '../provider';

/** One thing that was made, and what the provider says of it now. */
export interface ProofRow {
  readonly kind: string;
  readonly name: string;
  readonly ref: string;
  readonly says: 'gone' | 'still there' | 'unknown to the provider' | 'could not be asked';
  readonly goneAt: number | null;
  readonly lastCharge: Money;
  /** Whether anything still meters it. */
  readonly metering: boolean;
}

export interface Proof {
  readonly environment: string;
  readonly askedAt: number;
  readonly clean: boolean;
  readonly rows: readonly ProofRow[];
  readonly month: string;
  readonly lastCharges: Money;
  readonly returned: {
    readonly names: readonly string[];
    readonly stillInDirectory: readonly string[];
    /** What the directory said of itself when it was asked: only then is its part proven. */
    readonly directory: { readonly worked: boolean; readonly says: string };
    readonly subnet: string;
    readonly subnetReturned: boolean;
    readonly network: string;
    readonly networkReturned: boolean;
  };
}

interface MadeRow {
  readonly kind: string;
  readonly ref: string;
  readonly name: string | null;
}

const ASK_AT_ONCE = 8;

/** Asks the provider and the directory, now, about everything that was ever made for an environment. */
export async function proofOf(app: App, scope: CustomerScope, environmentId: string): Promise<Proof> {
  const environment = await app.db.row<{
    name: string;
    retired_at: number | null;
    zone: string;
    realm: string;
    currency: string;
    subnet_cidr: string;
    pool_returned: number | null;
    network_id: string;
    cidr: string;
    network_returned: number | null;
  }>(
    `SELECT e.name, e.retired_at, c.zone, c.realm, c.currency, p.subnet_cidr, p.returned_at AS pool_returned,
       n.id AS network_id, n.cidr, n.returned_at AS network_returned
     FROM environment e JOIN customer c ON c.id = e.customer_id
       JOIN pool p ON (p.customer_id, p.environment_id) = (e.customer_id, e.id)
       JOIN network n ON (n.customer_id, n.id) = (p.customer_id, p.network_id)
     WHERE e.customer_id = ? AND e.id = ?`,
    [scope.customer.id, environmentId],
  );
  if (!environment) throw notFound('environment');
  const month = monthOf(environment.retired_at ?? app.clock.now(), environment.zone);
  const made = await madeFor(
    app,
    scope,
    environmentId,
    environment.network_id,
    environment.network_returned !== null,
  );
  const charges = await resourceCharges(app, scope, environmentId, month);
  const rows: ProofRow[] = await strays(app, scope, environmentId, made, environment.currency);
  for (let at = 0; at < made.length; at += ASK_AT_ONCE)
    rows.push(
      ...(await Promise.all(
        made.slice(at, at + ASK_AT_ONCE).map(async (one) => ({
          ...(await ask(app, one)),
          lastCharge: charges.byRef.get(one.ref) ?? nothing(environment.currency),
          metering: charges.open.has(one.ref),
        })),
      )),
    );
  const names = await app.db.rows<{ name: string }>(
    `SELECT h.name FROM host h JOIN pool p ON (p.customer_id, p.id) = (h.customer_id, h.pool_id)
     WHERE p.customer_id = ? AND p.environment_id = ? AND h.returned_at IS NOT NULL ORDER BY h.name`,
    [scope.customer.id, environmentId],
  );
  const directory = await inDirectory(app, environment.realm);
  const stillInDirectory = names
    .map((one) => one.name)
    .filter((name) => directory.names.has(name.toUpperCase()));
  return {
    environment: environment.name,
    askedAt: app.clock.now(),
    clean:
      environment.retired_at !== null &&
      directory.worked &&
      stillInDirectory.length === 0 &&
      rows.every((row) => (row.says === 'gone' || row.says === 'unknown to the provider') && !row.metering),
    rows,
    month: month.key,
    lastCharges: charges.total,
    returned: {
      names: names.map((one) => one.name),
      stillInDirectory,
      directory: { worked: directory.worked, says: directory.says },
      subnet: environment.subnet_cidr,
      subnetReturned: environment.pool_returned !== null,
      network: environment.cidr,
      networkReturned: environment.network_returned !== null,
    },
  };
}

/** What the provider shows with the environment's tag that we never noted, because an answer was lost on the way. */
async function strays(
  app: App,
  scope: CustomerScope,
  environmentId: string,
  made: readonly MadeRow[],
  currency: string,
): Promise<ProofRow[]> {
  const noted = new Set(made.map((one) => one.ref));
  const row = (kind: string, name: string, ref: string, says: ProofRow['says']): ProofRow => ({
    kind,
    name,
    ref,
    says,
    goneAt: null,
    lastCharge: nothing(currency),
    metering: false,
  });
  try {
    return (await app.provider.resources(scope.customer.code))
      .filter((seen) => seen.tags.environment === environmentId && !noted.has(seen.id))
      .map((seen) => row(seen.kind, seen.name, seen.id, 'still there'));
  } catch (error) {
    if (!(error instanceof ProviderTrouble)) throw error;
    return [row('anything else', 'with its tag', '', 'could not be asked')];
  }
}

async function inDirectory(
  app: App,
  realm: string,
): Promise<{ names: ReadonlySet<string>; worked: boolean; says: string }> {
  try {
    const names = await app.directory.computers(realm);
    return { names: new Set(names.map((name) => name.toUpperCase())), worked: true, says: 'asked' };
  } catch (error) {
    if (!(error instanceof ProviderTrouble)) throw error;
    return { names: new Set(), worked: false, says: error.message };
  }
}

/** Everything made for the environment; its network only where it went with it. */
async function madeFor(
  app: App,
  scope: CustomerScope,
  environmentId: string,
  networkId: string,
  withNetwork: boolean,
): Promise<MadeRow[]> {
  return app.db.rows<MadeRow>(
    `SELECT l.kind, l.ref, o.name FROM link l
       LEFT JOIN observed o ON o.customer_id = l.customer_id AND o.ref = l.ref
     WHERE l.customer_id = ? AND ((l.environment_id = ? AND l.kind <> 'network') OR (? AND l.wanted_id = ?))
     ORDER BY FIELD(l.kind, 'pool', 'host', 'share', 'subnet', 'network'), o.name`,
    [scope.customer.id, environmentId, withNetwork, networkId],
  );
}

async function ask(app: App, made: MadeRow): Promise<Omit<ProofRow, 'lastCharge' | 'metering'>> {
  const row = { kind: made.kind, ref: made.ref, name: made.name ?? made.ref };
  try {
    const seen = await app.provider.resource(made.ref);
    if (!seen) return { ...row, says: 'unknown to the provider', goneAt: null };
    return { ...row, says: seen.state === 'gone' ? 'gone' : 'still there', goneAt: seen.goneAt };
  } catch (error) {
    if (error instanceof ProviderTrouble) return { ...row, says: 'could not be asked', goneAt: null };
    throw error;
  }
}
