import type { Template, TemplateUse } from '../../contract';
import type { TemplateSpec } from '../../core/templates';
import { reachable, type Scope } from '../access';
import { atMost, sql, type Connection } from '../db';
import { notFound } from '../problem';

type Stored = Omit<Template, 'spec'> & { readonly spec: string };

const NEWEST = `SELECT t.code, t.name, t.says, r.revision, r.note, r.spec
  FROM template t JOIN template_revision r ON r.template_code = t.code
    AND r.revision = (SELECT MAX(x.revision) FROM template_revision x WHERE x.template_code = t.code)`;

/** The templates, each at its newest revision, by name. */
export async function listTemplates(db: Connection): Promise<Template[]> {
  return (await db.rows<Stored>(`${NEWEST} ORDER BY t.name`)).map(readTemplate);
}

/** @throws Problem 404 */
export async function newestRevision(db: Connection, code: string): Promise<Template> {
  const row = await db.row<Stored>(`${NEWEST} WHERE t.code = ?`, [code]);
  if (!row) throw notFound('template');
  return readTemplate(row);
}

const readTemplate = (row: Stored): Template => ({ ...row, spec: JSON.parse(row.spec) as TemplateSpec });

/** The environments of customers in reach that came from any revision of a template and are not retired; newest first. */
export async function usesOfTemplate(
  db: Connection,
  scope: Scope,
  template: string,
  page: { readonly after?: string | undefined; readonly find?: string | undefined; readonly limit: number },
): Promise<TemplateUse[]> {
  const { after = '', find = '' } = page;
  return db.rows<TemplateUse>(
    sql`SELECT e.id, c.code AS customer, e.name, e.revision
     FROM environment e JOIN customer c ON c.id = e.customer_id
     WHERE e.template_code = ${template} AND e.retired_at IS NULL AND ${reachable(scope, 'e.customer_id')}
       AND (${after} = '' OR e.id < ${after})
       AND (${find} = '' OR INSTR(e.name, ${find}) > 0 OR INSTR(c.code, ${find}) > 0)
     ORDER BY e.id DESC ${atMost(page.limit)}`,
  );
}
