import { deskEndpoints } from '../../contract';
import { identity } from '../../core/text';
import { networkOf } from '../client-address';
import { cookie, cookieOf, fromOf, hereOf, nothing, ok, reads, publicRoute, sent, writes } from '../http';
import { tryIssuer, WAY_SECONDS } from '../identity';
import { countFrom } from '../sign-in';
import {
  actOnOwn,
  beginAtDesk,
  customerOfWay,
  deskIdentity,
  endAtDesk,
  endSignIns,
  keepIdentity,
  DESK_COOKIE,
  DESK_SESSION_MS,
  deskView,
  listMessages,
  lookAtDesk,
  askForLink,
  sayOnDesk,
  setFavourite,
  signInByLink,
  signOutOfDesk,
  startItem,
  unsayOnDesk,
  type DeskRefusal,
} from '.';

const WAY_COOKIE = 'laager_desk_way';
const BACK = '/api/v1/desk/outside/back';

/** To where people come in, with the reason. */
const sentBack = (why: DeskRefusal, customer: string, cookies: readonly string[] = []): Response =>
  sent(`/desk?${new URLSearchParams({ at: customer, why }).toString()}`, cookies);

export const deskRoutes = [
  publicRoute(deskEndpoints.askLink, async ({ app, body, request }) => {
    await countFrom(app.db, app.databaseName, `desk ${networkOf(fromOf(request))}`);
    await askForLink(app, identity(body.mail));
    return { status: 202 };
  }),
  publicRoute(deskEndpoints.signIn, async ({ app, body, request }) =>
    nothing({
      'set-cookie': cookie(request, DESK_COOKIE, await signInByLink(app, body.link), DESK_SESSION_MS / 1_000),
    }),
  ),
  publicRoute(deskEndpoints.signOut, async ({ app, request }) => {
    await signOutOfDesk(app, cookieOf(request, DESK_COOKIE) ?? '');
    return nothing({ 'set-cookie': cookie(request, DESK_COOKIE, '', 0) });
  }),
  reads(deskEndpoints.read, async ({ app }, desk) => ok(await deskView(app, desk, desk.person))),
  writes(
    deskEndpoints.start,
    ({ app, body }, desk) => startItem(app, desk, body),
    (made) => ok(made),
  ),
  writes(
    deskEndpoints.own,
    ({ app, body }, desk) => actOnOwn(app, desk, body.hostId, body.act),
    async (_made, { app }, desk) => ok(await deskView(app, desk, desk.person)),
  ),
  writes(
    deskEndpoints.favourite,
    ({ app, body }, desk) => setFavourite(app, desk, body.favourite),
    async (_made, { app }, desk) => ok(await deskView(app, desk, desk.person)),
  ),
  reads(deskEndpoints.look, async ({ app, params }, scope) =>
    ok(await lookAtDesk(app, scope, params.person)),
  ),
  writes(
    deskEndpoints.endSignIns,
    ({ app, params }, scope) => endSignIns(app, scope, params.person),
    (made) => ok(made),
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
  publicRoute(deskEndpoints.beginOutside, async ({ app, query, request }) => {
    const begun = await beginAtDesk(app, query.customer, `${hereOf(request)}${BACK}`);
    return typeof begun === 'string'
      ? sentBack(begun, query.customer)
      : sent(begun.to, [cookie(request, WAY_COOKIE, begun.kept, WAY_SECONDS)]);
  }),
  publicRoute(deskEndpoints.endOutside, async ({ app, request }) => {
    const came = new URL(`${hereOf(request)}${BACK}${new URL(request.url).search}`);
    const kept = cookieOf(request, WAY_COOKIE);
    const ended = await endAtDesk(app, came, kept);
    const over = cookie(request, WAY_COOKIE, '', 0);
    if (typeof ended === 'string') return sentBack(ended, customerOfWay(app, kept), [over]);
    return sent('/desk', [over, cookie(request, DESK_COOKIE, ended.token, DESK_SESSION_MS / 1_000)]);
  }),
  reads(deskEndpoints.identity, async ({ app }, scope) =>
    ok({ identity: await deskIdentity(app.db, scope) }),
  ),
  reads(deskEndpoints.tryIdentity, async ({ body }) => ok(await tryIssuer(body.issuer))),
  writes(
    deskEndpoints.keepIdentity,
    ({ app, body }, scope) => keepIdentity(app, scope, body),
    async (_made, { app }, scope) => ok({ identity: await deskIdentity(app.db, scope) }),
    (_ask, db, scope) => deskIdentity(db, scope),
  ),
];
