import { stringify } from 'csv-stringify/sync';
import { peopleEndpoints } from '../../contract';
import { PEOPLE_COLUMNS } from '../../core/people';
import { csvResponse, ok, paged, reads, writes } from '../http';
import { importPeople, listPeople } from '.';

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
    const people = await listPeople(app.db, scope, { limit: 1_000_000 });
    return csvResponse(
      `${scope.customer.code}-people.csv`,
      stringify(people, { header: true, columns: [...PEOPLE_COLUMNS], record_delimiter: '\r\n' }),
    );
  }),
];
