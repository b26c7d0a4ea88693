import { createHash, createHmac } from 'node:crypto';
import { CloudEvent, HTTP } from 'cloudevents';
import { httpbis } from 'http-message-signatures';

/** What is told: that something needs a look, or does so no more. */
export interface Told {
  readonly id: string;
  readonly type: 'laager.look.opened' | 'laager.look.closed' | 'laager.notice.tried';
  readonly subject: string;
  readonly at: number;
  readonly data: Readonly<Record<string, unknown>>;
}

/** An event as it is sent: its body and every header that goes with it. */
export interface Signed {
  readonly body: string;
  readonly type: string;
  readonly headers: Readonly<Record<string, string>>;
}

const KEY_ID = 'laager';

/**
 * Writes an event as a CloudEvent 1.0 in structured mode, and signs the request that brings it: method, address, type and
 * digest (RFC 9421 with hmac-sha256, RFC 9530).
 * @param now the wall's time, in ms: whoever reads it refuses what is old
 */
export async function signedEvent(
  told: Told,
  source: string,
  address: string,
  secret: string,
  now: number,
): Promise<Signed> {
  const event = new CloudEvent({
    specversion: '1.0',
    id: told.id,
    type: told.type,
    source,
    subject: told.subject,
    time: new Date(told.at).toISOString(),
    datacontenttype: 'application/json',
    data: told.data,
  });
  const message = HTTP.structured(event);
  const body = String(message.body);
  const type = String(message.headers['content-type']);
  const digest = `sha-256=:${createHash('sha256').update(body).digest('base64')}:`;
  const signed = await httpbis.signMessage(
    {
      key: {
        id: KEY_ID,
        alg: 'hmac-sha256',
        sign: async (data: Buffer) => createHmac('sha256', secret).update(data).digest(),
      },
      fields: ['@method', '@target-uri', 'content-type', 'content-digest'],
      params: ['created', 'keyid', 'alg'],
      paramValues: { created: new Date(now) },
    },
    { method: 'POST', url: address, headers: { 'content-type': type, 'content-digest': digest } },
  );
  const { 'content-type': _type, ...headers } = signed.headers;
  return {
    body,
    type,
    headers: Object.fromEntries(
      Object.entries(headers).map(([name, value]) => [name.toLowerCase(), String(value)]),
    ),
  };
}
