import { unseal } from '../access';
import { transaction, type Database } from '../db';
import { tell } from '../live';
import { httpProvider } from './http';
import { ProviderTrouble, type Provider, type ProviderSite } from './port';

interface ProviderRow {
  readonly code: string;
  readonly url: string;
  readonly account: string;
  readonly secret_sealed: Buffer;
}

/** The provider that is connected. One is; the table holds more when there are more. */
export const knownProvider = (db: Database): Promise<ProviderRow | undefined> =>
  db.row<ProviderRow>('SELECT code, url, account, secret_sealed FROM provider ORDER BY code LIMIT 1');

/** The adapter for the connected provider. @throws Error when none is connected */
export async function openProvider(db: Database, secretKey: string): Promise<Provider> {
  const row = await knownProvider(db);
  if (!row) throw new Error('no provider is connected');
  return httpProvider({ url: row.url, account: row.account, secret: unseal(secretKey, row.secret_sealed) });
}

/** Signs in for real and remembers how it went. */
export async function trySignIn(
  db: Database,
  provider: Provider,
  now: number,
): Promise<{ worked: boolean; says: string }> {
  const outcome = await provider.signIn().then(
    () => ({ worked: true, says: 'signed in just now' }),
    (error: unknown) => ({
      worked: false,
      says:
        error instanceof ProviderTrouble
          ? `the provider ${error.message}`
          : 'the provider could not be asked',
    }),
  );
  await db.write('UPDATE provider SET sign_in_works = ?, sign_in_says = ?, tried_at = ?', [
    outcome.worked,
    outcome.says,
    now,
  ]);
  return outcome;
}

/** Reads the sites, their sizes, nodes and quotas, and keeps what was read. */
export async function readGround(
  db: Database,
  provider: Provider,
  providerCode: string,
  now: number,
  wall: number,
): Promise<void> {
  const sites = await provider.sites();
  await transaction(db, async (connection) => {
    for (const site of sites) {
      await connection.write(
        `INSERT INTO site (code, provider_code, name, kind, reserved_addresses, images, sizes, quota, read_at)
         VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)
         ON DUPLICATE KEY UPDATE name = VALUES(name), images = VALUES(images), sizes = VALUES(sizes),
           quota = VALUES(quota), read_at = VALUES(read_at)`,
        [
          site.code,
          providerCode,
          site.name,
          site.kind,
          site.reservedAddresses,
          JSON.stringify(site.images),
          JSON.stringify(site.sizes),
          site.quota && JSON.stringify(site.quota),
          now,
        ],
      );
      for (const node of site.nodes) await connection.write(NODE, nodeValues(site, node));
    }
    await tell(connection, null, 'ground', providerCode, wall);
  });
}

const NODE = `INSERT INTO node (site_code, id, zone, vcpu, memory_gib, disk_gib, dedicated_to, state)
  VALUES (?, ?, ?, ?, ?, ?, ?, ?)
  ON DUPLICATE KEY UPDATE vcpu = VALUES(vcpu), memory_gib = VALUES(memory_gib), disk_gib = VALUES(disk_gib),
    dedicated_to = VALUES(dedicated_to), state = VALUES(state)`;

const nodeValues = (site: ProviderSite, node: ProviderSite['nodes'][number]): (string | number | null)[] => [
  site.code,
  node.id,
  node.zone,
  node.vcpu,
  node.memoryGiB,
  node.diskGiB,
  node.dedicatedTo,
  node.state,
];
