import { peopleEndpoints } from '../../contract';
import { csvResponse, ok, paged, reads, writes } from '../http';
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
    return csvResponse(`${scope.customer.code}-people.csv`, await peopleFile(app.db, scope));
  }),
];
