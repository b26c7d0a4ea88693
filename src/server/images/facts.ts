import type { Facts, ImageFacts } from '../../core/facts';
import { currentOf, imageKey, lineOf, versionName, type ImageLine } from '../../core/images';
import type { Attributes } from '../../core/intent';
import { MSP, reachable, type CustomerScope, type Scope } from '../access';
import { join, sql, type Connection, type Sql } from '../db';
import { intentsWhere } from '../intents';

/** An image that is made here, as it is wanted. */
export interface StoredImage {
  readonly id: string;
  /** Whose it is: the MSP's, for everyone, or a customer's own. */
  readonly owner: { readonly id: string; readonly code: string; readonly state: string };
  readonly version: number;
  readonly line: ImageLine;
}

/** Every image that is not on its way out, whosesoever, by name: for what goes on by itself. */
export const everyImage = (connection: Connection): Promise<StoredImage[]> =>
  imagesWhere(connection, sql`TRUE`);

/** The MSP's images, and those of customers in reach. */
export const imagesInReach = (connection: Connection, scope: Scope): Promise<StoredImage[]> =>
  imagesWhere(connection, sql`(e.customer_id = ${MSP.id} OR ${reachable(scope, 'e.customer_id')})`);

/** What a customer's hosts can be made of: the MSP's images, and the customer's own. */
const imagesFor = (connection: Connection, customer: string): Promise<StoredImage[]> =>
  imagesWhere(connection, sql`e.customer_id IN (${join([...new Set([MSP.id, customer])])})`);

async function imagesWhere(connection: Connection, whose: Sql): Promise<StoredImage[]> {
  const images = await intentsWhere(connection, sql`${whose} AND e.holds = 'image' AND e.wanted = 'serving'`);
  return images.flatMap(({ environment: id, customer: owner, version, intent }) => {
    const line = lineOf(intent);
    return line ? [{ id, owner, version, line }] : [];
  });
}

/** Codes of all images, also of those that are going: each is used once. */
export async function imageCodes(connection: Connection): Promise<string[]> {
  const rows = await connection.rows<{ code: string }>(
    'SELECT image_code AS code FROM environment WHERE image_code IS NOT NULL',
  );
  return rows.map(({ code }) => code);
}

/** A version that stands at a site. */
export interface StandingVersion {
  readonly image: string;
  readonly key: string;
  readonly site: string;
  readonly gib: number;
  readonly programs: readonly string[];
  readonly capturedAt: number;
}

/** The versions that stand, of some images. */
export async function standingVersions(
  connection: Connection,
  images: readonly StoredImage[],
): Promise<StandingVersion[]> {
  if (images.length === 0) return [];
  const rows = await connection.rows<{
    environment_id: string;
    resource_key: string;
    site_code: string;
    attributes: string;
    made_at: number;
  }>(
    sql`SELECT r.environment_id, r.resource_key, p.site_code, p.attributes, p.made_at
        FROM present_resource p JOIN resource r ON r.customer_id = p.customer_id AND r.id = p.resource_id
          AND r.returned_at IS NULL AND r.wanted
        WHERE p.customer_id IN (${join([...new Set(images.map(({ owner }) => owner.id))])}) AND p.kind = 'image' AND p.present_condition = 'well'`,
  );
  return rows.map((row) => {
    const { gib, programs } = JSON.parse(row.attributes) as Attributes;
    return {
      image: row.environment_id,
      key: row.resource_key,
      site: row.site_code,
      gib: Number(gib ?? 0),
      programs: Array.isArray(programs) ? programs.map(String) : [],
      capturedAt: row.made_at,
    };
  });
}

/** The versions that a customer's hosts can be made of at a site, and those that are elsewhere: the MSP's, and its own. */
export async function imagesAt(
  connection: Connection,
  { customer }: CustomerScope,
  site: string,
): Promise<{ readonly here: ImageFacts[]; readonly elsewhere: ImageFacts[] }> {
  const images = await imagesFor(connection, customer.id);
  const standing = await standingVersions(connection, images);
  const here: ImageFacts[] = [];
  const elsewhere: ImageFacts[] = [];
  for (const { id, line } of images)
    for (const version of line.versions) {
      const own = standing.filter(
        (one) => one.image === id && version.sites.some((at) => one.key === imageKey(version.number, at)),
      );
      const [first] = own;
      if (version.state === 'dropped' || !first) continue;
      const facts: ImageFacts = {
        name: versionName(line.code, version.number),
        diskGiB: first.gib,
        of: {
          line: line.code,
          number: version.number,
          state: version.state,
          at: version.begunAt,
          licences: line.licences,
          programs: first.programs,
        },
      };
      (own.some((one) => one.site === site) ? here : elsewhere).push(facts);
    }
  return { here, elsewhere };
}

/** What an image's changes are proposed from: who stands on it, of whichever customer, and which sites there are. */
export async function imageFacts(
  connection: Connection,
  { customer }: CustomerScope,
  code: string,
): Promise<NonNullable<Facts['image']>> {
  const sites = await connection.rows<{ code: string; name: string; works: number; says: string }>(
    `SELECT s.code, s.name, p.sign_in_works AS works, p.sign_in_says AS says
     FROM site s JOIN provider p ON p.code = s.provider_code ORDER BY s.name`,
  );
  return {
    uses: await usesOf(connection, customer.id, code),
    sites: sites.map(({ works, says, ...site }) => ({ ...site, signIn: { worked: works === 1, says } })),
  };
}

export type Use = NonNullable<Facts['image']>['uses'][number];

/** The pools whose hosts are made of a version of an image: of a customer's own, only that customer's. */
export const usesOf = (connection: Connection, owner: string, code: string): Promise<Use[]> =>
  connection.rows<Use>(
    `SELECT r.image AS version, c.code AS customer, e.name AS environment, e.id AS environmentId,
       SUBSTRING_INDEX(SUBSTRING_INDEX(r.resource_key, ':', 2), ':', -1) AS pool, COUNT(*) AS hosts
     FROM resource r JOIN customer c ON c.id = r.customer_id
       JOIN environment e ON e.customer_id = r.customer_id AND e.id = r.environment_id
     WHERE r.image LIKE ? AND r.returned_at IS NULL AND ? IN (r.customer_id, ?)
     GROUP BY r.image, c.code, e.name, e.id, 5 ORDER BY c.code, e.name, 5`,
    [`${code}@%`, owner, MSP.id],
  );

/** What a template may name as its hosts' image, its owner's own among them, each once: lines of ours, what is at the sites, and lines without a version yet. */
export async function imagesForTemplates(
  connection: Connection,
  scope: Scope,
  owner: string,
  sites: readonly { readonly images: readonly { readonly name: string }[] }[],
): Promise<string[]> {
  const lines = (await imagesInReach(connection, scope))
    .filter((one) => one.owner.id === MSP.id || one.owner.code === owner)
    .map(({ line }) => line);
  const isCurrent = (line: ImageLine): boolean => currentOf(line) !== undefined;
  const ours = lines.filter(isCurrent).map(({ code }) => code);
  const begun = lines.filter((line) => !isCurrent(line)).map(({ code }) => code);
  const theirs = sites.flatMap(({ images }) => images.map(({ name }) => name));
  return [...new Set([...ours, ...theirs.sort(), ...begun])];
}
