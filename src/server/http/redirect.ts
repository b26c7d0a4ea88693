import { isSecure } from './request';

/** Our own address, as the browser has it; an identity service sends nobody to one that it was not told of before. */
export const hereOf = (request: Request): string =>
  `${isSecure(request) ? 'https' : 'http'}://${request.headers.get('host') ?? new URL(request.url).host}`;

/** Sends the browser elsewhere, with cookies. */
export const sent = (to: string, cookies: readonly string[]): Response =>
  new Response(null, {
    status: 303,
    headers: [
      ['location', to],
      ['cache-control', 'no-store'],
      ...cookies.map((one): [string, string] => ['set-cookie', one]),
    ],
  });
