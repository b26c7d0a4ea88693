import { faultOfValue } from '../../core/untrusted';
import { Problem } from '../problem';
import { readText } from './request';

/** How long a body may be that its endpoint says nothing of. */
const MOST_BYTES = 250_000;
/** What we ask for is flat; what is deeper is not for us. */
const MOST_DEPTH = 16;
/** Keys and entries of lists together. */
const MOST_ENTRIES = 4_000;

/** The body of a request, of the type that is wanted and no larger. @throws Problem 400, 413, 415 */
export async function readBody(
  request: Request,
  requestType = 'application/json',
  mostBytes = MOST_BYTES,
): Promise<unknown> {
  const type = request.headers.get('content-type')?.split(';')[0]?.trim().toLowerCase();
  if (type !== requestType) throw new Problem(415, 'media-type', `Send ${requestType}.`);
  const text = await readText(request, mostBytes);
  return requestType === 'application/json' ? readJson(text) : text;
}

function readJson(text: string): unknown {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new Problem(400, 'json', 'The body is not JSON.');
  }
  const fault = faultOfValue(value, { depth: MOST_DEPTH, entries: MOST_ENTRIES });
  if (fault !== undefined) throw new Problem(400, 'json', `The body ${fault}.`);
  return value;
}
