import type { Revision, Template, TemplateUse, WholeTemplate } from '../../contract';
import { deviationsOf, type TemplateDocument } from '../../core/templates';
import { MSP, reachable, type CustomerScope, type Scope } from '../access';
import { atMost, join, sql, type Connection, type Sql } from '../db';
import { notFound } from '../problem';
import { intentsWhere } from '../intents';
import { templateForm } from './form';

interface Stored {
  readonly code: string;
  readonly name: string;
  readonly says: string;
  readonly owner: string;
  readonly revision: number;
  readonly note: string;
  readonly document: string | null;
  readonly hasDraft: number;
}

const NEWEST = sql`SELECT t.code, t.name, t.says, IF(t.customer_id = ${MSP.id}, '', c.code) AS owner,
    IFNULL(r.revision, 0) AS revision, IFNULL(r.note, '') AS note, r.document, t.draft IS NOT NULL AS hasDraft
  FROM template t JOIN customer c ON c.id = t.customer_id LEFT JOIN template_revision r ON r.template_code = t.code
    AND r.revision = (SELECT MAX(x.revision) FROM template_revision x WHERE x.template_code = t.code)`;

/** Those that are for everyone, and those of customers in reach whose data are kept. */
const seen = (scope: Scope): Sql =>
  sql`(t.customer_id = ${MSP.id} OR (${reachable(scope, 't.customer_id')} AND c.data_deleted_at IS NULL))`;

/** The templates for everyone and of customers in reach, each at its newest revision, by name. */
export async function listTemplates(db: Connection, scope: Scope): Promise<Template[]> {
  return (await db.rows<Stored>(sql`${NEWEST} WHERE ${seen(scope)} ORDER BY t.name, t.code`)).map(templateOf);
}

const templateOf = ({ document, hasDraft, ...row }: Stored): Template => ({
  ...row,
  document: document === null ? null : templateForm.read(document),
  hasDraft: hasDraft === 1,
});

/** The templates that a customer's environments may be made from: those for everyone, and its own. */
export async function templatesFor(db: Connection, { customer }: CustomerScope): Promise<NewestRevision[]> {
  const rows = await db.rows<Stored>(
    sql`${NEWEST} WHERE t.customer_id IN (${MSP.id}, ${customer.id}) AND r.revision IS NOT NULL ORDER BY t.name, t.code`,
  );
  return rows.map(newestOf);
}

export interface NewestRevision {
  readonly code: string;
  readonly revision: number;
  readonly document: TemplateDocument;
}

const newestOf = ({ code, revision, document }: Stored): NewestRevision => ({
  code,
  revision,
  document: templateForm.read(document ?? '{}'),
});

/** Of a template for everyone, or of the customer's own. @throws Problem 404, also where it is another customer's */
export async function newestRevision(
  db: Connection,
  { customer }: CustomerScope,
  code: string,
): Promise<NewestRevision> {
  const row = await db.row<Stored>(
    sql`${NEWEST} WHERE t.customer_id IN (${MSP.id}, ${customer.id}) AND t.code = ${code} AND r.revision IS NOT NULL`,
  );
  if (!row) throw notFound('template');
  return newestOf(row);
}

/** A revision of a template for everyone, or of the customer's own. @throws Problem 404 */
export async function documentOf(
  db: Connection,
  { customer }: CustomerScope,
  code: string,
  revision: number,
): Promise<TemplateDocument> {
  const row = await db.row<{ document: string }>(
    sql`SELECT r.document FROM template_revision r JOIN template t ON t.code = r.template_code
        WHERE t.code = ${code} AND r.revision = ${revision} AND t.customer_id IN (${MSP.id}, ${customer.id})`,
  );
  if (!row) throw notFound('revision');
  return templateForm.read(row.document);
}

/** @throws Problem 404, also where its customer is out of reach */
export async function readTemplate(db: Connection, scope: Scope, code: string): Promise<WholeTemplate> {
  const row = await db.row<Stored>(sql`${NEWEST} WHERE t.code = ${code} AND ${seen(scope)}`);
  if (!row) throw notFound('template');
  const kept = await db.row<{ text: string | null; by: string; at: number; version: number }>(
    'SELECT draft AS text, draft_by AS `by`, draft_at AS at, draft_version AS version FROM template WHERE code = ?',
    [code],
  );
  const revisions = await db.rows<Revision>(
    'SELECT revision, note, created_by AS `by`, created_at AS at FROM template_revision WHERE template_code = ? ORDER BY revision DESC',
    [code],
  );
  const newest = row.revision === 0 ? undefined : await readRevision(db, scope, code, row.revision);
  return {
    ...templateOf(row),
    text: newest?.text ?? '',
    draft: kept && kept.text !== null ? { text: kept.text, by: kept.by, at: kept.at } : null,
    draftVersion: kept?.version ?? 0,
    revisions,
  };
}

/** One revision as it was published. @throws Problem 404 */
export async function readRevision(
  db: Connection,
  scope: Scope,
  code: string,
  revision: number,
): Promise<Revision & { readonly text: string }> {
  const row = await db.row<Revision & { text: string }>(
    sql`SELECT r.revision, r.note, r.created_by AS ${BY}, r.created_at AS at, r.text FROM template_revision r
     JOIN template t ON t.code = r.template_code JOIN customer c ON c.id = t.customer_id
     WHERE t.code = ${code} AND r.revision = ${revision} AND ${seen(scope)}`,
  );
  if (!row) throw notFound('revision');
  return row;
}

const BY = sql`\`by\``;

/** The environments of customers in reach that came from any revision of a template and are not retired; newest first. */
export async function usesOfTemplate(
  db: Connection,
  scope: Scope,
  template: string,
  page: { readonly after?: string | undefined; readonly find?: string | undefined; readonly limit: number },
): Promise<TemplateUse[]> {
  const { after = '', find = '' } = page;
  const rows = await db.rows<Omit<TemplateUse, 'deviations'>>(
    sql`SELECT e.id, c.code AS customer, e.name, e.revision FROM environment e JOIN customer c ON c.id = e.customer_id
     WHERE e.template_code = ${template} AND e.retired_at IS NULL AND ${reachable(scope, 'e.customer_id')}
       AND (${after} = '' OR e.id < ${after})
       AND (${find} = '' OR INSTR(e.name, ${find}) > 0 OR INSTR(c.code, ${find}) > 0)
     ORDER BY e.id DESC ${atMost(page.limit)}`,
  );
  if (rows.length === 0) return [];
  const intents = await intentsWhere(db, sql`e.id IN (${join(rows.map(({ id }) => id))})`);
  const deviations = new Map(
    intents.map(({ environment, intent }) => [environment, deviationsOf(intent, []).length]),
  );
  return rows.map((use) => ({ ...use, deviations: deviations.get(use.id) ?? 0 }));
}

export interface Used {
  readonly uses: number;
  readonly behind: number;
  /** Codes of some of their customers. */
  readonly customers: readonly string[];
}

/** By template, how many environments in reach came from it, and how many of those from an older revision. */
export async function countUses(db: Connection, scope: Scope): Promise<ReadonlyMap<string, Used>> {
  const rows = await db.rows<{ code: string; uses: number; behind: number; customers: string }>(
    sql`SELECT e.template_code AS code, COUNT(*) AS uses,
          COUNT(IF(e.revision < (SELECT MAX(r.revision) FROM template_revision r WHERE r.template_code = e.template_code), 1, NULL))
            AS behind,
          GROUP_CONCAT(DISTINCT c.code ORDER BY c.code LIMIT 8) AS customers
        FROM environment e JOIN customer c ON c.id = e.customer_id WHERE e.template_code IS NOT NULL AND e.retired_at IS NULL AND ${reachable(scope, 'e.customer_id')}
        GROUP BY e.template_code`,
  );
  return new Map(
    rows.map(({ code, customers, ...used }) => [code, { ...used, customers: customers.split(',') }]),
  );
}
