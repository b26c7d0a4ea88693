import { peopleEndpoints } from '../../contract';
import { csvResponse, ok, paged, reads, writes } from '../http';
import { noteDownload } from '../trail';
import { importPeople, listPeople, peopleFile } from '.';

export const peopleRoutes = [
  reads(peopleEndpoints.list, async ({ app, query }, scope) =>
    ok(
      await paged(
        query.limit,
        (limit) => listPeople(app.db, scope, { ...query, limit }),
        (one) => one.account,
      ),
    ),
  ),
  writes(
    peopleEndpoints.import,
    ({ app, query, body }, scope) => importPeople(app, scope, body, query.keep === 'good'),
    (made) => ok(made),
  ),
  reads(peopleEndpoints.csv, async ({ app }, scope) => {
    const file = `${scope.customer.code}-people.csv`;
    const text = await peopleFile(app.db, scope);
    await noteDownload(app, scope, file);
    return csvResponse(file, text);
  }),
];
