import type { DeskScope } from '../access';
import type { App } from '../app';
import { cookieOf, refuseForeign } from '../http';
import { Problem } from '../problem';
import { DESK_COOKIE, deskOf } from './session';

/** Whose desk it is: by the cookie of the desk's own pages. @throws Problem 401, 403 */
export async function whoseDesk(app: App, request: Request): Promise<DeskScope> {
  const cookie = cookieOf(request, DESK_COOKIE);
  const desk = cookie === undefined ? undefined : await deskOf(app, cookie);
  if (!desk) throw new Problem(401, 'desk', 'Sign in at your desk first.');
  refuseForeign(request);
  return desk;
}
