import { directoryEndpoints } from '../../contract';
import { ok, reads, writes } from '../http';
import { directoryLink, keepLink, takeIn, tryLink } from '.';

export const directoryRoutes = [
  reads(directoryEndpoints.read, async ({ app }, scope) => ok(await directoryLink(app.db, scope))),
  reads(directoryEndpoints.try, async ({ app, body }, scope) => ok(await tryLink(app, scope, body))),
  writes(
    directoryEndpoints.keep,
    ({ app, body }, scope) => keepLink(app, scope, body),
    (made) => ok(made),
  ),
  writes(
    directoryEndpoints.take,
    ({ app }, scope) => takeIn(app, scope),
    (made) => ok(made),
  ),
];
