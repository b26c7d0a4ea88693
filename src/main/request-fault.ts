import type { IncomingMessage } from 'node:http';
import { notFound, Problem } from '../server/problem';

/** What a page or the API may be asked with (RFC 9110); TRACE and CONNECT are nobody's here. */
const METHODS = ['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS'];

const ENCODED = /%[0-9a-f]{2}/i;

/** @returns why a request cannot even be handed on to the pages or the API */
export function faultOf({
  method = '',
  url = '',
  headers,
}: Pick<IncomingMessage, 'method' | 'url' | 'headers'>): Problem | undefined {
  if (!METHODS.includes(method))
    return new Problem(405, 'method', `Here one can ${METHODS.join(', ')}.`, {
      headers: { allow: METHODS.join(', ') },
    });
  const [path = ''] = url.split('?');
  let decoded: string;
  try {
    decoded = decodeURI(path);
    decodeURI(url);
  } catch {
    return new Problem(400, 'address', 'The address cannot be read: it holds a % that stands for nothing.');
  }
  if (!URL.canParse(url, `http://${headers.host ?? ''}`))
    return new Problem(400, 'address', 'The address cannot be read.');
  // The pages refuse what is encoded twice, and note each as a fault of theirs.
  if (decoded !== path && ENCODED.test(decoded))
    return new Problem(400, 'address', 'The address cannot be read: it is encoded more than once.');
  // What asks for the API gets an answer of the API.
  if (/^\/api(\/|$)/.test(path) && !path.startsWith('/api/v1')) return notFound('path');
  return undefined;
}
