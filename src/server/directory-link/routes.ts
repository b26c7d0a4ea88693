import { directoryEndpoints } from '../../contract';
import { ok, reads, writes } from '../http';
import { askForReading, directoryLink, keepLink, keptLink, tryLink } from '.';

export const directoryRoutes = [
  reads(directoryEndpoints.read, async ({ app }, scope) => ok(await directoryLink(app.db, scope))),
  reads(directoryEndpoints.try, async ({ app, body }, scope) => ok(await tryLink(app, scope, body))),
  writes(
    directoryEndpoints.keep,
    ({ app, body }, scope) => keepLink(app, scope, body),
    (made) => ok(made),
    (_ask, db, scope) => keptLink(db, scope),
  ),
  writes(
    directoryEndpoints.take,
    ({ app, body }, scope) => askForReading(app, scope, body.agree),
    (made) => ok(made),
  ),
];
