import { patchBodyValidation, scimPatch, ScimError, type ScimPatchOperation } from 'scim-patch';
import { faultOfValue, isUnsafeKey } from '../untrusted';
import { membersAfter } from './members';
import { pathAsWritten, written } from './names';
import { MOST_DEPTH, MOST_ENTRIES, PATCH, ScimRefusal } from './resource';

const MOST_OPERATIONS = 1_000;

/**
 * A resource after PATCH (RFC 7644, section 3.5.2); what it was stays as it is. Names of attributes are the same whatever
 * their case (RFC 7643, section 2.1).
 * @param request the body that was sent
 * @throws ScimRefusal 400 `invalidSyntax`, `invalidPath`, `invalidValue`, `noTarget` or `mutability`
 */
export function patched<Resource extends { readonly id: string }>(
  resource: Resource,
  request: unknown,
): Resource {
  let after: Record<string, unknown> = structuredClone(resource) as Record<string, unknown>;
  for (const operation of operationsOf(request)) after = afterOne(after, operation);
  if (after.id !== resource.id) throw new ScimRefusal(400, 'The id cannot be changed.', 'mutability');
  return after as unknown as Resource;
}

function afterOne(resource: Record<string, unknown>, operation: ScimPatchOperation): Record<string, unknown> {
  const { path } = operation;
  const value: unknown = operation.value;
  // Without a path the value names the attributes: members among them are added as with a path.
  if (path === undefined && typeof value === 'object' && value !== null && 'members' in value) {
    const { members, ...others } = value;
    const first = afterOne(resource, { ...operation, path: 'members', value: members });
    return Object.keys(others).length === 0 ? first : afterOne(first, { ...operation, value: others });
  }
  const before = Array.isArray(resource.members) ? (resource.members as unknown[]) : [];
  const members = membersAfter(before, operation);
  if (members) return { ...resource, members };
  try {
    return scimPatch(resource as never, [operation], { mutateDocument: true }) as Record<string, unknown>;
  } catch (error) {
    if (error instanceof ScimError) throw new ScimRefusal(400, error.message, error.scimCode);
    // The library reaches into what it takes for an object.
    if (error instanceof TypeError) throw new ScimRefusal(400, 'There is no such path.', 'invalidPath');
    throw error;
  }
}

function operationsOf(request: unknown): ScimPatchOperation[] {
  if (typeof request !== 'object' || request === null) throw notUnderstood('it is no object');
  const { Operations: operations, schemas } = request as Record<string, unknown>;
  if (!Array.isArray(schemas) || !schemas.includes(PATCH)) throw notUnderstood(`its schema is not ${PATCH}`);
  if (!Array.isArray(operations) || operations.length === 0) throw notUnderstood('it asks for nothing');
  if (operations.length > MOST_OPERATIONS) throw new ScimRefusal(413, 'Those are too many operations.');
  const fault = faultOfValue(operations, { depth: MOST_DEPTH, entries: MOST_ENTRIES });
  if (fault !== undefined) throw new ScimRefusal(400, `The request ${fault}.`, 'invalidValue');
  return operations.map(operationOf);
}

function operationOf(asked: unknown): ScimPatchOperation {
  if (typeof asked !== 'object' || asked === null) throw notUnderstood('an operation is no object');
  const { op, path } = asked as { op?: unknown; path?: unknown };
  if (typeof op !== 'string') throw notUnderstood('an operation says not what it does');
  if (path !== undefined && path !== null && typeof path !== 'string')
    throw new ScimRefusal(400, 'A path is a text.', 'invalidPath');
  if (typeof path === 'string' && isUnsafeKey(path))
    throw new ScimRefusal(400, 'There is no such path.', 'invalidPath');
  const { value } = asked as { value?: unknown };
  const operation = {
    op: op.toLowerCase(),
    ...(typeof path === 'string' && path !== '' ? { path: pathAsWritten(path) } : {}),
    ...(value === undefined ? {} : { value: written(value) }),
  };
  try {
    patchBodyValidation({ schemas: [PATCH], Operations: [operation] } as never);
  } catch (error) {
    throw notUnderstood(error instanceof Error ? error.message : 'an operation is not known');
  }
  return operation as ScimPatchOperation;
}

const notUnderstood = (why: string): ScimRefusal =>
  new ScimRefusal(400, `The request is not understood: ${why}.`, 'invalidSyntax');
