import type { Desk, DeskPlace } from '../../contract';
import type { CustomerScope, DeskScope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
import { notFound } from '../problem';
import { write } from '../write';
import { deskView } from './view';

export {
  beginAtDesk,
  customerOfWay,
  deskIdentity,
  endAtDesk,
  forgetIdentity,
  keepIdentity,
  sealIdentitiesAnew,
  waysIn,
  type DeskRefusal,
} from './outside';
export { deskView } from './view';
export { forgetMessages, listMessages, sayOnDesk, unsayOnDesk } from './messages';
export { askForLink, mailAsked } from './links';
export { actOnOwn, startItem } from './start';
export {
  DESK_COOKIE,
  DESK_SESSION_MS,
  deskOf,
  endSignIns,
  linkOf,
  signInByLink,
  signOutOfDesk,
} from './session';

/** Puts an item first; null: none. @throws Problem 404 when they have no such environment */
export const setFavourite = (app: App, desk: DeskScope, place: DeskPlace | null): Promise<void> =>
  write(app, desk, [], async (tx) => {
    const { id } = desk.customer;
    if (place === null) {
      await tx.write(
        sql`DELETE FROM desk_favourite WHERE customer_id = ${id} AND person_id = ${desk.person}`,
      );
      return;
    }
    const kept = await tx.write(
      sql`REPLACE INTO desk_favourite (customer_id, person_id, environment_id, pool, item)
          SELECT customer_id, ${desk.person}, id, ${place.pool}, ${place.item} FROM environment
          WHERE customer_id = ${id} AND id = ${place.environmentId}`,
    );
    if (kept === 0) throw notFound('environment');
  });

/** Whoever was on the way somewhere has arrived by now, or came back. */
export const forgetArrivals = (app: App): Promise<number> =>
  app.db.write(sql`DELETE FROM arrival WHERE until_wall < ${app.clock.wall()} LIMIT 5000`);

/** Somebody's desk for whoever looks after them: that it was looked at stands on the trail. @throws Problem 404 */
export async function lookAtDesk(app: App, scope: CustomerScope, person: string): Promise<Desk> {
  const desk = await deskView(app, scope, person);
  await write(app, scope, [], (tx) =>
    tx.record({
      action: 'look at desk',
      subject: desk.person.name,
      topic: 'people',
      id: scope.customer.code,
    }),
  );
  return desk;
}
