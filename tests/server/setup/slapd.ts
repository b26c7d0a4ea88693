import { execa, type ResultPromise } from 'execa';
import getPort from 'get-port';
import { Client } from 'ldapts';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** A real directory server that speaks LDAP, with a database of its own, until it is closed. */
export interface Slapd {
  readonly url: string;
  readonly base: string;
  readonly bindAs: string;
  readonly password: string;
  /** Changes it as its administrator. */
  change(work: (client: Client) => Promise<unknown>): Promise<void>;
  close(): Promise<void>;
}

const BASE = 'dc=harbour,dc=example';
const ADMIN = `cn=admin,${BASE}`;
const PASSWORD = 'a lantern for the reader';

const settings = (folder: string): string => `
include /etc/ldap/schema/core.schema
include /etc/ldap/schema/cosine.schema
include /etc/ldap/schema/inetorgperson.schema
modulepath /usr/lib/ldap
moduleload back_mdb
pidfile ${folder}/slapd.pid
sizelimit size.soft=500 size.pr=500 size.prtotal=unlimited
database mdb
maxsize 268435456
suffix "${BASE}"
rootdn "${ADMIN}"
rootpw ${PASSWORD.replaceAll(' ', '-')}
directory ${folder}
index objectClass,entryUUID,modifyTimestamp eq
`;

const MOST_TRIES = 100;
const TRY_MS = 50;

/** Starts one that holds these entries, as LDIF. @throws Error when it does not come up */
export async function startSlapd(ldif: string): Promise<Slapd> {
  const folder = await mkdtemp(join(tmpdir(), 'slapd-'));
  const file = join(folder, 'slapd.conf');
  await writeFile(file, settings(folder));
  const entries = join(folder, 'entries.ldif');
  await writeFile(entries, ldif);
  await execa('slapadd', ['-f', file, '-l', entries], {
    env: { PATH: `${process.env.PATH ?? ''}:/usr/sbin` },
  });
  const port = await getPort();
  const url = `ldap://127.0.0.1:${port}`;
  // In the foreground, and ended with us.
  const server: ResultPromise = execa('slapd', ['-f', file, '-h', url, '-d', '0'], {
    cleanup: true,
    reject: false,
    env: { PATH: `${process.env.PATH ?? ''}:/usr/sbin` },
  });
  const password = PASSWORD.replaceAll(' ', '-');
  const change = async (work: (client: Client) => Promise<unknown>): Promise<void> => {
    const client = new Client({ url, connectTimeout: 2_000, timeout: 20_000 });
    try {
      await client.bind(ADMIN, password);
      await work(client);
    } finally {
      await client.unbind().catch(() => undefined);
    }
  };
  for (let tries = 1; ; tries++)
    try {
      await change(async () => undefined);
      break;
    } catch (error) {
      if (tries === MOST_TRIES) throw error;
      await new Promise((again) => setTimeout(again, TRY_MS));
    }
  return {
    url,
    base: BASE,
    bindAs: ADMIN,
    password,
    change,
    close: async () => {
      server.kill('SIGTERM');
      await server;
      await rm(folder, { recursive: true, force: true });
    },
  };
}
