import { patchBodyValidation, scimPatch, ScimError, type ScimPatchOperation } from 'scim-patch';
import { PATCH, ScimRefusal } from './resource';

const MOST_OPERATIONS = 1_000;
/** What a path could reach of an object that is not its own. */
const UNSAFE = /__proto__|prototype|constructor/i;

/**
 * A resource after PATCH (RFC 7644, section 3.5.2); what it was stays as it is.
 * @param request the body that was sent
 * @throws ScimRefusal 400 `invalidSyntax`, `invalidPath`, `noTarget` or `mutability`
 */
export function patched<Resource extends { readonly id: string }>(
  resource: Resource,
  request: unknown,
): Resource {
  const operations = operationsOf(request);
  let after: unknown;
  try {
    after = scimPatch(structuredClone(resource) as never, operations, { mutateDocument: true });
  } catch (error) {
    if (!(error instanceof ScimError)) throw error;
    throw new ScimRefusal(400, error.message, error.scimCode);
  }
  const next = after as Resource;
  if (next.id !== resource.id) throw new ScimRefusal(400, 'The id cannot be changed.', 'mutability');
  return next;
}

function operationsOf(request: unknown): ScimPatchOperation[] {
  if (typeof request !== 'object' || request === null) throw notUnderstood('it is no object');
  const { Operations: operations, schemas } = request as Record<string, unknown>;
  if (!Array.isArray(schemas) || !schemas.includes(PATCH)) throw notUnderstood(`its schema is not ${PATCH}`);
  if (!Array.isArray(operations) || operations.length === 0) throw notUnderstood('it asks for nothing');
  if (operations.length > MOST_OPERATIONS) throw new ScimRefusal(413, 'Those are too many operations.');
  if (UNSAFE.test(JSON.stringify(operations.map((one: { path?: unknown }) => one?.path ?? ''))))
    throw new ScimRefusal(400, 'There is no such path.', 'invalidPath');
  try {
    patchBodyValidation(request as never);
  } catch (error) {
    throw notUnderstood(error instanceof Error ? error.message : 'an operation is not known');
  }
  return operations as ScimPatchOperation[];
}

const notUnderstood = (why: string): ScimRefusal =>
  new ScimRefusal(400, `The request is not understood: ${why}.`, 'invalidSyntax');
