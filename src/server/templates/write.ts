import type { NewRevision } from '../../contract';
import { checkTemplate, customersThatMeet } from '../../core/templates';
import type { Scope } from '../access';
import { Problem } from '../problem';
import { write, type WriteHouse } from '../write';

/** Keeps a template's next revision; the first makes the template. @returns its number @throws Problem 422 */
export async function addRevision(
  house: WriteHouse,
  scope: Scope,
  revision: NewRevision & { readonly code: string },
): Promise<number> {
  const faults = checkTemplate(revision.spec);
  if (faults.length > 0)
    throw new Problem(422, 'template', 'The template cannot be used.', {
      fields: { spec: faults.join('; ') },
    });
  const { code, name, says, note, spec } = revision;
  return write(house, scope, [], async (tx) => {
    const customers = await tx.rows<{ code: string }>("SELECT code FROM customer WHERE kind = 'customer'");
    const meeting = customersThatMeet(
      spec,
      customers.map((one) => one.code),
    );
    if (meeting)
      throw new Problem(422, 'template', 'The template cannot be used.', {
        fields: {
          'spec.naming': `hosts of two customers could have one name, ${meeting.join(' and ')}: say {customer} in it`,
        },
      });
    await tx.write(
      `INSERT INTO template (code, name, says) VALUES (?, ?, ?)
       ON DUPLICATE KEY UPDATE name = VALUES(name), says = VALUES(says)`,
      [code, name, says],
    );
    const last = await tx.row<{ revision: number | null }>(
      'SELECT MAX(revision) AS revision FROM template_revision WHERE template_code = ? FOR UPDATE',
      [code],
    );
    const next = (last?.revision ?? 0) + 1;
    await tx.write(
      'INSERT INTO template_revision (template_code, revision, spec, note, created_at) VALUES (?, ?, ?, ?, ?)',
      [code, next, JSON.stringify(spec), note, house.clock.now()],
    );
    await tx.record({
      action: 'revise template',
      subject: `${name} revision ${next}`,
      after: { note, spec },
      topic: 'ground',
      id: code,
    });
    return next;
  });
}
