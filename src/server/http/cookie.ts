import { serialize } from 'hono/utils/cookie';
import { isSecure } from './request';

/** A cookie that no script of a page reads, and no other site's request brings along. @param seconds 0: it goes */
export const cookie = (request: Request, name: string, value: string, seconds: number): string =>
  serialize(name, value, {
    path: '/',
    httpOnly: true,
    sameSite: 'Lax',
    maxAge: seconds,
    secure: isSecure(request),
  });
