import { deskEndpoints } from '../../contract';
import { networkOf } from '../client-address';
import { cookie, cookieOf, fromOf, nothing, ok, reads, readsForAnyone, writes } from '../http';
import { countTry } from '../sign-in';
import {
  actOnOwn,
  DESK_COOKIE,
  DESK_SESSION_MS,
  deskView,
  listMessages,
  lookAtDesk,
  mailLinks,
  sayOnDesk,
  setFavourite,
  signInByLink,
  signOutOfDesk,
  startItem,
  unsayOnDesk,
} from '.';

export const deskRoutes = [
  readsForAnyone(deskEndpoints.askLink, async ({ app, body, request }) => {
    const mail = body.mail.toLowerCase();
    await countTry(app.db, app.databaseName, {
      network: `desk ${networkOf(fromOf(request))}`,
      account: `desk ${mail}`,
      browser: undefined,
    });
    await mailLinks(app, mail);
    return { status: 202 };
  }),
  readsForAnyone(deskEndpoints.signIn, async ({ app, body, request }) =>
    nothing({
      'set-cookie': cookie(request, DESK_COOKIE, await signInByLink(app, body.link), DESK_SESSION_MS / 1_000),
    }),
  ),
  reads(deskEndpoints.signOut, async ({ app, request }) => {
    await signOutOfDesk(app, cookieOf(request, DESK_COOKIE) ?? '');
    return nothing({ 'set-cookie': cookie(request, DESK_COOKIE, '', 0) });
  }),
  reads(deskEndpoints.read, async ({ app }, desk) => ok(await deskView(app, desk, desk.person))),
  reads(deskEndpoints.start, async ({ app, body }, desk) => ok(await startItem(app, desk, body))),
  reads(deskEndpoints.own, async ({ app, body }, desk) => {
    await actOnOwn(app, desk, body.hostId, body.act);
    return ok(await deskView(app, desk, desk.person));
  }),
  reads(deskEndpoints.favourite, async ({ app, body }, desk) => {
    await setFavourite(app, desk, body.favourite);
    return ok(await deskView(app, desk, desk.person));
  }),
  reads(deskEndpoints.look, async ({ app, params }, scope) =>
    ok(await lookAtDesk(app, scope, params.person)),
  ),
  reads(deskEndpoints.messages, async ({ app, query }, scope) =>
    ok({ messages: await listMessages(app, scope, query?.person) }),
  ),
  writes(
    deskEndpoints.say,
    ({ app, body }, scope) => sayOnDesk(app, scope, body),
    async (made) => ({ status: 201, body: made }),
  ),
  writes(
    deskEndpoints.unsay,
    ({ app, params }, scope) => unsayOnDesk(app, scope, params.message),
    async () => nothing(),
  ),
];
