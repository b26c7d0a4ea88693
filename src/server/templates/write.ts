import type { FileFault, NewRevision, TemplateDraft } from '../../contract';
import { customersThatMeet, readTemplate as readText, type TemplateDocument } from '../../core/templates';
import { enter, isInside, MSP, type CustomerScope, type Scope } from '../access';
import type { Connection } from '../db';
import { conflict, notFound, Problem } from '../problem';
import { write, type Tx, type WriteHouse } from '../write';
import { templateForm } from './form';

/** Whose a template is, or shall be: a customer in reach, or the MSP itself. */
async function ownerScope(
  house: WriteHouse,
  scope: Scope,
  code: string,
  owner: string,
): Promise<Scope | CustomerScope> {
  const row = await house.db.row<{ owner: string; id: string }>(
    'SELECT c.code AS owner, c.id FROM template t JOIN customer c ON c.id = t.customer_id WHERE t.code = ?',
    [code],
  );
  const is = row === undefined ? owner : row.id === MSP.id ? '' : row.owner;
  const inside = is === '' ? scope : await enter(house.db, scope, is).catch(outOfReach);
  // Whose it is, is not told: that its code is taken is.
  if (!inside) throw row ? taken(code) : notFound('customer');
  if (row && is !== owner) throw taken(code);
  if (is !== '' && (await hasLeft(house, is)))
    throw conflict('gone', `${is} has left: nothing more is kept.`);
  return inside;
}

async function hasLeft({ db }: WriteHouse, code: string): Promise<boolean> {
  const row = await db.row("SELECT id FROM customer WHERE code = ? AND state = 'retired'", [code]);
  return row !== undefined;
}

function outOfReach(error: unknown): undefined {
  if (error instanceof Problem) return undefined;
  throw error;
}

const taken = (code: string): Problem => conflict('taken', `${code} is taken: choose another code.`);

const idOf = (scope: Scope | CustomerScope): string => (isInside(scope) ? scope.customer.id : MSP.id);

/**
 * Keeps what is to become the next revision as it was typed, whole or not; the first makes the template.
 * @returns the version of the draft
 * @throws Problem 409 when somebody else has kept another meanwhile, or the code is another's
 */
export async function keepDraft(
  house: WriteHouse,
  scope: Scope,
  { code, text, owner, before }: TemplateDraft & { readonly code: string },
): Promise<number> {
  const inside = await ownerScope(house, scope, code, owner);
  const read = readText(text);
  return write(house, inside, [], async (tx) => {
    await makeTemplate(tx, code, idOf(inside), read.ok ? read.value : undefined);
    if (read.ok) await rename(tx, code, read.value, false);
    const now = await tx.row<{ version: number }>(
      'SELECT draft_version AS version FROM template WHERE code = ? FOR UPDATE',
      [code],
    );
    const last = now?.version ?? 0;
    if (last !== before) throw conflict('changed', 'Somebody else has changed this draft: load it again.');
    await tx.write(
      'UPDATE template SET draft = ?, draft_version = ?, draft_by = ?, draft_at = ? WHERE code = ?',
      [text, last + 1, scope.actor.name, house.clock.now(), code],
    );
    await tx.touch('ground', code);
    return last + 1;
  });
}

/** What is wrong with a template's text, by line. */
export function faultsOf(text: string): FileFault[] {
  const read = readText(text);
  return read.ok ? [] : [...read.problem];
}

/** Gives a draft up; a template that has no revision goes with it. @throws Problem 404 */
export async function dropDraft(house: WriteHouse, scope: Scope, code: string): Promise<void> {
  const { owner } = await ownedBy(house, scope, code);
  await write(house, owner, [], async (tx) => {
    await tx.write('UPDATE template SET draft = NULL, draft_version = draft_version + 1 WHERE code = ?', [
      code,
    ]);
    await tx.write(
      'DELETE FROM template WHERE code = ? AND NOT EXISTS (SELECT 1 FROM template_revision r WHERE r.template_code = ?)',
      [code, code],
    );
    await tx.record({ action: 'give up a draft', subject: `template ${code}`, topic: 'ground', id: code });
  });
}

async function ownedBy(
  house: WriteHouse,
  scope: Scope,
  code: string,
): Promise<{ owner: Scope | CustomerScope }> {
  const row = await house.db.row<{ owner: string; id: string }>(
    'SELECT c.code AS owner, c.id FROM template t JOIN customer c ON c.id = t.customer_id WHERE t.code = ?',
    [code],
  );
  if (!row) throw notFound('template');
  return { owner: row.id === MSP.id ? scope : await enter(house.db, scope, row.owner) };
}

/** What was written of templates that were one customer's own is kept no more; that there were such stays. */
export async function forgetTemplates(tx: Connection, { customer: { id } }: CustomerScope): Promise<void> {
  await tx.write(
    `UPDATE template_revision SET text = '', note = '' WHERE template_code IN (SELECT code FROM template WHERE customer_id = ?)`,
    [id],
  );
  await tx.write("UPDATE template SET draft = NULL, name = code, says = '' WHERE customer_id = ?", [id]);
}

/** A revision that may be published: whose it is was looked at. */
export interface Publishing {
  readonly code: string;
  readonly text: string;
  readonly note: string;
  readonly document: TemplateDocument;
  readonly inside: Scope | CustomerScope;
}

/** Publishes a template's next revision; the first makes the template. @returns its number @throws Problem 409, 422 */
export async function addRevision(
  house: WriteHouse,
  scope: Scope,
  asked: NewRevision & { readonly code: string },
): Promise<number> {
  const publishing = await publishingOf(house, scope, asked);
  return write(house, publishing.inside, [], (tx) => publish(tx, scope, publishing, house.clock.now()));
}

/** @throws Problem 403, 409, 422 for what may not be published */
export async function publishingOf(
  house: WriteHouse,
  scope: Scope,
  { code, owner, text, note }: NewRevision & { readonly code: string },
): Promise<Publishing> {
  const read = readText(text);
  if (!read.ok)
    throw new Problem(422, 'template', 'The template cannot be used.', {
      fields: { text: read.problem.map(({ line, says }) => `line ${line}: ${says}`).join('; ') },
    });
  const inside = await ownerScope(house, scope, code, owner);
  if (!isInside(inside) && scope.customers)
    throw new Problem(403, 'reach', 'This template is for every customer, and you reach some of them only.');
  return { code, text, note, document: read.value, inside };
}

/** Publishes it within a transaction of its owner's. @returns the number of the revision */
export async function publish(
  tx: Tx,
  scope: Scope,
  { code, text, note, document, inside }: Publishing,
  now: number,
): Promise<number> {
  if (!isInside(inside)) await refuseMeeting(tx, scope, document);
  await makeTemplate(tx, code, idOf(inside), document);
  await rename(tx, code, document, true);
  const last = await tx.row<{ revision: number | null }>(
    'SELECT MAX(revision) AS revision FROM template_revision WHERE template_code = ? FOR UPDATE',
    [code],
  );
  const next = (last?.revision ?? 0) + 1;
  await tx.write(
    `INSERT INTO template_revision (template_code, revision, text, document, note, created_by, created_at)
     VALUES (?, ?, ?, ?, ?, ?, ?)`,
    [code, next, text, templateForm.write(document), note, scope.actor.name, now],
  );
  await tx.write('UPDATE template SET draft = NULL, draft_version = draft_version + 1 WHERE code = ?', [
    code,
  ]);
  await tx.record({
    action: 'publish template',
    subject: `${document.name} revision ${next}`,
    after: { note, text },
    topic: 'ground',
    id: code,
  });
  return next;
}

/**
 * The template, called as its text says; one without a readable text by its code.
 * @throws Problem 409 when another has made one with its code meanwhile, for somebody else
 */
async function makeTemplate(tx: Tx, code: string, owner: string, document: Named | undefined): Promise<void> {
  const { name = code, says = '' } = document ?? {};
  await tx.write(
    'INSERT INTO template (code, customer_id, name, says) VALUES (?, ?, ?, ?) ON DUPLICATE KEY UPDATE code = code',
    [code, owner, name, says],
  );
  const made = await tx.row<{ owner: string }>(
    'SELECT customer_id AS owner FROM template WHERE code = ? FOR UPDATE',
    [code],
  );
  if (made?.owner !== owner) throw taken(code);
}

type Named = Pick<TemplateDocument, 'name' | 'says'>;

/** Once it is published, a template is called as its newest revision says, whatever a draft calls it. */
const rename = (tx: Tx, code: string, { name, says }: Named, isPublished: boolean): Promise<number> =>
  tx.write(
    `UPDATE template SET name = ?, says = ? WHERE code = ?
       AND (? OR NOT EXISTS (SELECT 1 FROM template_revision r WHERE r.template_code = ?))`,
    [name, says, code, isPublished, code],
  );

/** What is for everyone must not come to give two customers' hosts one name; whose, is told to who reaches everyone. */
async function refuseMeeting(tx: Tx, scope: Scope, document: TemplateDocument): Promise<void> {
  const customers = await tx.rows<{ code: string }>("SELECT code FROM customer WHERE kind = 'customer'");
  const meeting = customersThatMeet(
    document,
    customers.map((one) => one.code),
  );
  const whose = scope.customers ? '' : `, ${meeting?.join(' and ')}`;
  if (meeting)
    throw new Problem(422, 'template', 'The template cannot be used.', {
      fields: {
        text: `naming: hosts of two customers could have one name${whose}: say {customer} in it`,
      },
    });
}
