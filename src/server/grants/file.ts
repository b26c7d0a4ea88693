import type { GrantsFile } from '../../contract';
import { stringify } from 'csv-stringify/sync';
import { GRANT_COLUMNS, grantHeaderFault, grantRows, readGrants } from '../../core/grants';
import type { Grant } from '../../core/intent';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { readRows, unreadable } from '../csv';
import { granteesAmong, granteesOf, groupFacts } from '../people';
import { notFound } from '../problem';
import type { KnownOffer } from './offers';
import { knownOf } from './read';

/** So many lines that are left out are told; the others only counted. */
const MOST_TOLD = 200;

/**
 * What a file of grants (CSV, RFC 4180) would grant of an environment beyond what is granted. It changes nothing.
 * @throws Problem 404; 422 when the file cannot be read, or its header lacks a column
 */
export async function readGrantFile(
  app: App,
  scope: CustomerScope,
  environment: string,
  file: string,
): Promise<GrantsFile> {
  const { groups, offers, zone } = await knownOf(app, scope);
  const here = within(offers, environment);
  const [header, ...rows] = await readRows(file);
  const fault = header ? grantHeaderFault(header.cells) : 'the file is empty';
  if (!header || fault !== undefined) throw unreadable(fault ?? 'the file is empty');
  const people = await granteesOf(app.db, scope);
  const { add, same, bad } = readGrants(header.cells, rows, {
    offers: here,
    groups,
    people,
    now: app.clock.now(),
    zone,
  });
  const ids = [...new Set(add.map(({ id }) => id).filter((id) => id !== ''))];
  const named = new Map((await granteesAmong(app.db, scope, ids)).map((one) => [one.id, one]));
  return {
    add: add.map((grant) => {
      const of = named.get(grant.id);
      return {
        ...grant,
        name: of?.name ?? 'All people',
        unit: of?.unit ?? '',
        inScope: of?.inScope ?? true,
        people: of?.people ?? 0,
      };
    }),
    same,
    bad: bad.slice(0, MOST_TOLD),
    badInAll: bad.length,
  };
}

/** An environment's grants as such a file. @throws Problem 404 */
export async function grantFile(app: App, scope: CustomerScope, environment: string): Promise<string> {
  const { offers, zone } = await knownOf(app, scope);
  const here = within(offers, environment);
  const groups = await groupFacts(app.db, scope);
  const named = here.flatMap(({ grants }) => grants.filter(({ to }) => to === 'person').map(({ id }) => id));
  const people = new Map((await granteesOf(app.db, scope, named)).map(({ id, account }) => [id, account]));
  const nameOf = ({ to, id }: Grant): string | undefined =>
    to === 'group' ? groups.get(id)?.name : people.get(id);
  const rows = grantRows(here, nameOf, zone);
  return stringify(rows, {
    header: true,
    columns: [...GRANT_COLUMNS],
    record_delimiter: '\r\n',
    // A directory may call its groups what it likes.
    escape_formulas: true,
  });
}

function within(offers: readonly KnownOffer[], environment: string): KnownOffer[] {
  const here = offers.filter(({ environmentId }) => environmentId === environment);
  if (here.length === 0) throw notFound('environment');
  return here;
}
