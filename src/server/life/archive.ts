import { strToU8, zipSync } from 'fflate';
import { stringify } from 'csv-stringify/sync';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { chargesFile, monthsOf } from '../costs';
import { aboutCustomer, customersYaml } from '../customers';
import { listEnvironments, proofOf } from '../environments';
import { peopleFile } from '../people';
import { listTrail } from '../trail';

const TRAIL_COLUMNS = ['at', 'actor', 'role', 'action', 'subject', 'reason', 'before', 'after'] as const;
const PAGE = 1_000;

const READ_ME = `What Laager held of this customer, in files that any program reads.

about.yaml        what was said of them (YAML)
people.csv        the people of their directory that were known (CSV, RFC 4180)
trail.csv         who did what for them, the newest first; before and after are JSON
charges/MONTH.csv what each month was charged, line by line; amounts are exact decimals
proofs/NAME.json  of each environment that was retired: everything that was made, and that it is gone
`;

/** All that is a customer's to hand over, as a ZIP file of open files. */
export async function archiveOf(app: App, scope: CustomerScope): Promise<Uint8Array> {
  const files: Record<string, Uint8Array> = {
    'read-me.txt': strToU8(READ_ME),
    'about.yaml': strToU8(customersYaml([await aboutCustomer(app.db, scope, app.clock.now())])),
    'people.csv': strToU8(await peopleFile(app.db, scope)),
    'trail.csv': strToU8(await trailFile(app, scope)),
  };
  for (const month of await monthsOf(app, scope))
    files[`charges/${month}.csv`] = strToU8((await chargesFile(app, scope, month)).text);
  for (const { id, name, state } of await listEnvironments(app.db, scope))
    if (state === 'retired')
      files[`proofs/${name}-${id}.json`] = strToU8(JSON.stringify(await proofOf(app, scope, id), null, 2));
  return zipSync(files);
}

async function trailFile(app: App, scope: CustomerScope): Promise<string> {
  const rows = [];
  for (let after: string | undefined, more = true; more;) {
    const page = await listTrail(app.db, scope, { after, limit: PAGE });
    rows.push(
      ...page.map((entry) => ({
        ...entry,
        at: new Date(entry.at).toISOString(),
        role: entry.role ?? '',
        before: entry.before === null ? '' : JSON.stringify(entry.before),
        after: entry.after === null ? '' : JSON.stringify(entry.after),
      })),
    );
    after = page.at(-1)?.id;
    more = page.length === PAGE;
  }
  // What people wrote shall not be reckoned with by whatever opens it.
  return stringify(rows, {
    header: true,
    columns: [...TRAIL_COLUMNS],
    record_delimiter: '\r\n',
    escape_formulas: true,
  });
}
