import type { SavedStepsView } from '../../contract';
import { namesUsed, readRecipe, readSaved, type SavedSteps } from '../../core/recipes';
import { MSP, type CustomerScope } from '../access';
import { refuseGone } from '../customers';
import type { Connection } from '../db';
import { everyImage, type StoredImage } from '../images';
import { conflict, notFound, Problem } from '../problem';
import { write, type WriteHouse } from '../write';

interface Row {
  readonly owner: string;
  readonly name: string;
  readonly text: string;
  readonly by: string;
  readonly at: number;
}

/** What a customer's recipes may use: of two of one name their own. By name. */
async function stepsFor(db: Connection, { customer }: CustomerScope): Promise<Row[]> {
  const rows = await db.rows<Row>(
    `SELECT customer_id AS owner, name, text, changed_by AS \`by\`, changed_at AS at FROM saved_steps
     WHERE customer_id IN (?, ?) ORDER BY name, customer_id = ?`,
    [customer.id, MSP.id, MSP.id],
  );
  return rows.filter(({ name }, n) => rows[n - 1]?.name !== name);
}

/** Saved steps as recipes are expanded by. */
export const savedFor = async (db: Connection, scope: CustomerScope): Promise<SavedSteps> =>
  Object.fromEntries((await stepsFor(db, scope)).map(({ name, text }) => [name, text]));

/** Saved steps with the images that use them, of the MSP's and the customer's own. */
export async function listSaved(db: Connection, scope: CustomerScope): Promise<SavedStepsView[]> {
  const [rows, images] = [await stepsFor(db, scope), await everyImage(db)];
  const seen = images.filter(({ owner }) => owner.id === MSP.id || owner.id === scope.customer.id);
  return rows.map(({ owner, ...one }) => ({
    ...one,
    own: owner === scope.customer.id,
    usedBy: seen.filter((image) => uses(image, one.name)).map(({ line }) => line.code),
  }));
}

function uses({ line }: StoredImage, name: string): boolean {
  const read = readRecipe(line.recipe);
  return read.ok && namesUsed(read.value).includes(name);
}

/** The steps that a customer saved under a name themselves; null: none. */
export const ownSteps = async (
  db: Connection,
  { customer }: CustomerScope,
  name: string,
): Promise<{ readonly text: string } | null> =>
  (await db.row<{ text: string }>('SELECT text FROM saved_steps WHERE customer_id = ? AND name = ?', [
    customer.id,
    name,
  ])) ?? null;

/** Saves steps under a name; those of the same name are replaced. @throws Problem 422 beside `text`, with the line */
export const keepSteps = (
  house: WriteHouse,
  scope: CustomerScope,
  { name, text }: { readonly name: string; readonly text: string },
): Promise<void> =>
  write(house, scope, [], async (tx) => {
    const read = readSaved(text);
    if (!read.ok)
      throw new Problem(422, 'invalid', 'Some of what was sent cannot be used.', {
        fields: { text: read.problem.map(({ line, says }) => `line ${line}: ${says}`).join('; ') },
      });
    await refuseGone(tx, scope);
    const before = await ownSteps(tx, scope, name);
    await tx.write(
      `INSERT INTO saved_steps (customer_id, name, text, changed_by, changed_at) VALUES (?, ?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE text = VALUES(text), changed_by = VALUES(changed_by), changed_at = VALUES(changed_at)`,
      [scope.customer.id, name, text, scope.actor.name, house.clock.now()],
    );
    await tx.record({
      action: 'save steps',
      subject: `steps ${name}`,
      ...(before ? { before } : {}),
      after: { text },
      topic: 'ground',
      id: name,
    });
  });

/** @throws Problem 404, 409 while a recipe uses them */
export const dropSteps = (house: WriteHouse, scope: CustomerScope, name: string): Promise<void> =>
  write(house, scope, [], async (tx) => {
    const gone = await tx.write('DELETE FROM saved_steps WHERE customer_id = ? AND name = ?', [
      scope.customer.id,
      name,
    ]);
    if (gone === 0) throw notFound('name');
    const users = (await everyImage(tx)).filter((image) => uses(image, name));
    // The MSP's are everyone's to use; a customer's own only theirs.
    const own = users.filter(({ owner }) => scope.customer.id === MSP.id || owner.id === scope.customer.id);
    if (own.length > 0)
      throw conflict('used', `${own.map(({ line }) => line.code).join(', ')}: the recipe uses them.`);
    await tx.record({ action: 'drop steps', subject: `steps ${name}`, topic: 'ground', id: name });
  });

/** Nobody needs the steps of who has left any more. */
export const forgetSteps = (tx: Connection, { customer }: CustomerScope): Promise<number> =>
  tx.write('DELETE FROM saved_steps WHERE customer_id = ?', [customer.id]);
