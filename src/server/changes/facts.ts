import { asksAnother, type ApprovalRule } from '../../core/approval';
import type {
  Condition,
  CustomerFacts,
  EnvironmentFacts,
  Facts,
  KnownResource,
  PresentFacts,
  SiteFacts,
} from '../../core/facts';
import { isOfImage, type Attributes } from '../../core/intent';
import { withKept } from '../../core/planning';
import { NO_AMOUNTS, NO_LIMITS } from '../../core/plans';
import type { Rate } from '../../core/rating';
import { MSP, type CustomerScope } from '../access';
import type { App } from '../app';
import { takenBy } from '../claims';
import { approvalRule } from '../approval';
import { invitedLately } from '../operators';
import { begunWithoutApproval } from '../runs';
import { gatewayFacts } from '../certificates';
import { realmOf } from '../customers';
import { heldBy, keptAt } from '../holds';
import { imageCodes, imageFacts, imagesAt } from '../images';
import { join, sql, type Connection } from '../db';
import { inTime, LATE, SCREEN_MS } from '../outside';
import { notFound } from '../problem';
import { quantitiesOf } from '../metering';
import { AWAITED, durationsAt, UNSETTLED } from '../runs';
import { accountsAmong, granteesAmong, groupFacts } from '../people';
import { overridesOf } from '../overrides';
import { planFactsOf } from '../plans';
import { ratesOf } from '../pricing';
import { pricesInForce } from '../providers';
import { listSecrets } from '../recipe-secrets';
import { savedFor } from '../saved-steps';
import { readNeeds } from '../sizing';
import { blockFor, siteFacts, tryNameServers, tryRoute, type OutsideSays } from '../sites';
import { newestRevision } from '../templates';
import { intentAt, newestIntent } from '../intents';

/** What a proposal is about. */
export interface Subject {
  readonly site: string;
  readonly template?: string;
  readonly environment?: string;
  /** The version of its intent that the change looks back to. */
  readonly lookBackTo?: number | undefined;
  /** Accounts of people whom the change names. */
  readonly concerns?: readonly string[] | undefined;
  readonly grantees?: readonly string[] | undefined;
  /** The hold that it is about. */
  readonly hold?: string | undefined;
}

/**
 * Asks the customer's directory, and tries the way to it from where the customer's hosts would be. It may take a while:
 * never while holding a lock.
 */
export async function askOutside(app: App, scope: CustomerScope, site: string): Promise<OutsideSays> {
  const { id } = scope.customer;
  if (id === MSP.id) return { directory: NOT_NEEDED };
  const realm = await realmOf(app.db, scope);
  const [{ computers, ...directory }, route, nameServers] = await Promise.all([
    inTime<Awaited<ReturnType<App['directory']['check']>>>(app.directory.check(realm), SCREEN_MS, LATE),
    inTime(tryRoute(app, scope, site, realm), SCREEN_MS, LATE),
    inTime(tryNameServers(app, scope, site, realm), SCREEN_MS, undefined),
  ]);
  return { directory, route, nameServers, computers };
}

const NOT_NEEDED = { worked: true, says: 'its own network is not joined with any' };

/** The facts that a change is proposed from. @throws Problem 404 for a site, template or environment that is not there */
export async function readFacts(
  app: App,
  connection: Connection,
  scope: CustomerScope,
  subject: Subject,
  outside: OutsideSays,
): Promise<Facts> {
  const { card, ...customer } = await customerFacts(app, connection, scope, subject.site);
  const environment =
    subject.environment === undefined
      ? undefined
      : await environmentFacts(connection, scope, subject.environment, subject.lookBackTo);
  const from = subject.template ?? environment?.intent.template?.code;
  const template = from === undefined ? undefined : await newestRevision(connection, scope, from);
  const site = await siteFacts(connection, scope, subject.site, outside);
  const made = await imagesAt(connection, scope, subject.site);
  const facts: Facts = {
    now: app.clock.now(),
    ...(await approvalFacts(app, connection, scope, subject.hold)),
    customer,
    site: {
      ...site,
      durations: await durationsAt(connection, subject.site),
      images: [...site.images, ...made.here],
      imagesElsewhere: made.elsewhere,
      ...(outside.computers ? await namesAt(app, connection, scope, subject.site, outside.computers) : {}),
    },
    rates:
      card === null
        ? await ownRates(connection, subject.site, app.clock.now())
        : await ratesOf(connection, card),
    ...(template ? { template } : {}),
    ...(subject.concerns && subject.concerns.length > 0
      ? { accounts: await accountsAmong(connection, scope, subject.concerns) }
      : {}),
    ...(await granteeFacts(connection, scope, subject, template)),
    ...(environment || from !== undefined ? {} : { imagesTaken: await imageCodes(connection) }),
    known: await knownResources(connection, scope, subject),
    present: await presentFacts(app, connection, scope, subject),
    // What is set of all of the customer's hosts holds for a new environment, too.
    overrides: await overridesOf(connection, scope, environment?.id ?? ''),
    ...(environment ? { environment } : {}),
    ...(environment && isOfImage(environment.intent)
      ? {
          image: {
            ...(await imageFacts(connection, scope, environment.intent.name)),
            secrets: (await listSecrets(connection, scope)).map(({ name }) => name),
            saved: await savedFor(connection, scope),
          },
        }
      : {}),
  };
  return withKept(facts, await keptAt(connection, scope, subject.site, facts.now, subject.hold));
}

/** Whom the change names; and every group, where its template asks for some. */
async function granteeFacts(
  connection: Connection,
  scope: CustomerScope,
  { grantees = [] }: Subject,
  template: Facts['template'],
): Promise<Pick<Facts, 'grantees'>> {
  const asksGroups = template?.document.inputs.some(({ type }) => type === 'group') === true;
  const ids = [...grantees, ...(asksGroups ? (await groupFacts(connection, scope)).keys() : [])];
  return ids.length === 0 ? {} : { grantees: await granteesAmong(connection, scope, ids) };
}

/** What needs another's word, where whoever asks needs one. */
async function approvalFacts(
  { clock }: App,
  connection: Connection,
  scope: CustomerScope,
  hold: string | undefined,
): Promise<Pick<Facts, 'approval'>> {
  return approvalOf({ clock }, connection, scope, await approvalRule(connection), hold);
}

/** The same, where the rule has been read. */
export async function approvalOf(
  { clock }: Pick<App, 'clock'>,
  connection: Connection,
  scope: CustomerScope,
  rule: ApprovalRule,
  hold: string | undefined,
): Promise<Pick<Facts, 'approval'>> {
  if (rule.kinds.length + rule.above.length === 0) return {};
  const [held, invitedBy] = await Promise.all([
    hold === undefined ? undefined : heldBy(connection, scope, hold),
    invitedLately(connection, scope.actor.id, clock.wall()),
  ]);
  if (!asksAnother(rule, { ...scope.actor, heldBy: held, invitedBy })) return {};
  return { approval: { ...rule, begun: await begunWithoutApproval(connection, scope, clock.now()) } };
}

/** Names that a new computer cannot have: those that the directory knows, and those of servers at the provider. */
async function namesAt(
  { catalogue }: Pick<App, 'catalogue'>,
  connection: Connection,
  { customer }: CustomerScope,
  site: string,
  computers: readonly string[],
): Promise<Pick<SiteFacts, 'namesThere' | 'namesOfNobody'>> {
  const named = catalogue.kinds.flatMap(({ key, carriesSessions }) =>
    carriesSessions === true ? [key] : [],
  );
  const rows = await connection.rows<{ name: string; owner: string }>(
    sql`SELECT DISTINCT p.name, p.customer_id AS owner FROM present_resource p JOIN site s ON s.provider_code = p.provider_code
     WHERE s.code = ${site} AND p.kind IN (${join(named)}) AND p.present_condition <> 'gone'
       AND p.customer_id IN (${customer.id}, ${MSP.id})`,
  );
  const upper = (names: readonly string[]): string[] => [...new Set(names.map((name) => name.toUpperCase()))];
  const of = (id: string): string[] => rows.filter(({ owner }) => owner === id).map(({ name }) => name);
  return {
    namesThere: upper([...computers, ...of(customer.id)]),
    namesOfNobody: upper(of(MSP.id)),
  };
}

/** The facts as people may see them: what is nobody's may be another customer's, and its name says whose; so may a code. */
export function shownFacts({
  site: { namesOfNobody: _names, ...site },
  imagesTaken: _codes,
  ...facts
}: Facts): Facts {
  return { ...facts, site };
}

/** The MSP sells itself nothing: its own have no limits. */
const OWN_PLAN: Awaited<ReturnType<typeof planFactsOf>> = {
  plan: {
    name: 'our own',
    most: NO_LIMITS,
    sizes: [],
    sites: [],
    fees: [],
    retentionDays: 0,
    localAdministrator: false,
    included: [],
    readyHosts: 0,
    allowances: [],
  },
  takes: NO_AMOUNTS,
};

/** What is the MSP's own costs what its provider asks. */
async function ownRates(connection: Connection, site: string, now: number): Promise<readonly Rate[]> {
  const row = await connection.row<{ provider: string }>(
    'SELECT provider_code AS provider FROM site WHERE code = ?',
    [site],
  );
  return (await pricesInForce(connection, now)).get(row?.provider ?? '')?.rates ?? [];
}

async function customerFacts(
  app: App,
  connection: Connection,
  scope: CustomerScope,
  site: string,
): Promise<CustomerFacts & { readonly card: string | null }> {
  const { id, code } = scope.customer;
  const row = await connection.row<{
    currency: string;
    zone: string;
    state: string;
    realm: string;
    card_code: string | null;
    naming: string | null;
    name_servers: string | null;
  }>(
    `SELECT currency, zone, state, realm, card_code, JSON_VALUE(details, '$.naming') AS naming,
       JSON_QUERY(details, '$.nameServers') AS name_servers FROM customer WHERE id = ?`,
    [id],
  );
  if (!row) throw notFound('customer');
  const { plan, takes } = id === MSP.id ? OWN_PLAN : await planFactsOf(connection, scope, app.clock.now());
  const environments = await connection.rows<{ name: string }>(
    'SELECT name FROM environment WHERE customer_id = ? AND retired_at IS NULL',
    [id],
  );
  const { block } = await blockFor(connection, scope, site);
  const gateway = await gatewayFacts(connection, scope);
  return {
    code,
    currency: row.currency,
    zone: row.zone,
    state: row.state,
    realm: row.realm,
    naming: row.naming ?? '',
    card: row.card_code,
    plan,
    takes,
    stands: (await quantitiesOf(app, connection, scope)).get(id) ?? {},
    needs: await readNeeds(connection, scope),
    people: takes.people,
    block,
    taken: await takenBy(connection, scope),
    environments: environments.map((one) => one.name),
    ...(gateway ? { gateway } : {}),
    nameServers: JSON.parse(row.name_servers ?? '[]') as string[],
  };
}

async function environmentFacts(
  connection: Connection,
  scope: CustomerScope,
  id: string,
  lookBackTo: number | undefined,
): Promise<EnvironmentFacts> {
  const row = await connection.row<{ version: number; wanted: 'serving' | 'retired'; shares: number }>(
    `SELECT e.version, e.wanted, EXISTS (SELECT 1 FROM environment o WHERE o.customer_id = e.customer_id
        AND o.site_code = e.site_code AND o.id <> e.id AND o.wanted = 'serving' AND o.holds <> 'image') AS shares
     FROM environment e WHERE e.customer_id = ? AND e.id = ?`,
    [scope.customer.id, id],
  );
  const intent = row && (await newestIntent(connection, scope, id));
  if (!intent) throw notFound('environment');
  const earlier = lookBackTo === undefined ? undefined : await intentAt(connection, scope, id, lookBackTo);
  return {
    id,
    version: row.version,
    wanted: row.wanted,
    intent,
    shares: row.shares === 1,
    ...(earlier ? { earlier } : {}),
  };
}

/** The environment's resources, and what the customer has at the site for all its environments. */
export async function knownResources(
  connection: Connection,
  scope: CustomerScope,
  { site, environment }: Pick<Subject, 'site' | 'environment'>,
): Promise<KnownResource[]> {
  const rows = await connection.rows<KnownRow>(
    `SELECT r.id, r.resource_key, r.kind, r.name, r.attributes, r.needs, r.version, r.wanted,
       ${UNSETTLED} AS unsettled, ${AWAITED} AS awaited,
       (SELECT COUNT(*) FROM session x WHERE x.customer_id = r.customer_id AND x.provider_code = r.provider_code
         AND x.host_ref = r.ref) AS people
     FROM resource r WHERE r.customer_id = ? AND r.returned_at IS NULL
       AND ((r.environment_id IS NULL AND r.site_code = ?) OR r.environment_id = ?) ORDER BY r.id`,
    [scope.customer.id, site, environment ?? ''],
  );
  return rows.map(readKnown);
}

/** A resource as its row tells it, with what is at work on it and who is in. */
export interface KnownRow {
  readonly id: string;
  readonly resource_key: string;
  readonly kind: string;
  readonly name: string;
  readonly attributes: string;
  readonly needs: string;
  readonly version: number;
  readonly wanted: number;
  readonly unsettled: number;
  readonly awaited: number;
  readonly people: number;
}

export function readKnown(row: KnownRow): KnownResource {
  return {
    id: row.id,
    key: row.resource_key,
    kind: row.kind,
    name: row.name,
    attributes: JSON.parse(row.attributes) as Attributes,
    needs: JSON.parse(row.needs) as string[],
    version: row.version,
    wanted: row.wanted === 1,
    unsettled: row.unsettled === 1,
    ...(row.awaited === 1 ? { awaited: true } : {}),
    people: row.people,
  };
}

/** What the provider says is there of an environment; what we noted as a resource comes before what only says it is. */
async function presentFacts(
  app: App,
  connection: Connection,
  scope: CustomerScope,
  { site, environment }: Subject,
): Promise<PresentFacts[]> {
  const known = new Set(app.catalogue.kinds.map((kind) => kind.key));
  const rows = await connection.rows<{
    ref: string;
    kind: string;
    name: string;
    resource_key: string | null;
    present_condition: Condition;
    attributes: string;
  }>(
    `SELECT p.ref, p.kind, p.name, r.resource_key, p.present_condition, p.attributes
     FROM present_resource p LEFT JOIN resource r ON r.customer_id = p.customer_id AND r.returned_at IS NULL
       AND (r.id = p.resource_id OR (r.provider_code = p.provider_code AND r.ref = p.ref))
     WHERE p.customer_id = ? AND p.present_condition <> 'gone'
       AND ((p.environment_id IS NULL AND p.site_code = ? AND r.id IS NOT NULL) OR p.environment_id = ?)
     ORDER BY IFNULL(r.ref = p.ref, 0) DESC, p.made_at, p.ref`,
    [scope.customer.id, site, environment ?? ''],
  );
  return rows
    .filter((row) => known.has(row.kind))
    .map((row) => ({
      ref: row.ref,
      kind: row.kind,
      name: row.name,
      key: row.resource_key,
      condition: row.present_condition,
      attributes: JSON.parse(row.attributes) as Attributes,
    }));
}
