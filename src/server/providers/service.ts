import type { Connection, Provider as ConnectedProvider } from '../../contract';
import type { Scope, Sealing, SealPlace } from '../access';
import type { Clock } from '../clock';
import type { Database } from '../db';
import { CredentialsRefused, inTime, LATE, OutsideError, SCREEN_MS } from '../outside';
import { notFound, Problem } from '../problem';
import { write } from '../write';
import { httpProvider } from './http';
import { noteOddity } from './oddity';
import type { Provider, ProviderPrices, ProviderSite } from './port';
import {
  allProviders,
  keepPrices,
  keepProvider,
  keepSite,
  noteSignIn,
  providerNamed,
  providerOfSite,
  resealSecret,
  siteOfOther,
  type StoredProvider,
} from './store';

/** A provider that is connected, with the port to it. */
export interface Connected {
  readonly code: string;
  readonly name: string;
  readonly port: Provider;
  /** How far its record of changes has been read. */
  readonly feedPlace: string;
  /** How far the record of who comes and goes has been read; null: everyone who is in is to be read. */
  readonly sessionPlace: string | null;
}

/** The providers that are connected. A secret or address that was replaced holds from the next question on. */
export interface Providers {
  all(): Promise<Connected[]>;
  /** @throws OutsideError when there is no such provider */
  named(code: string): Promise<Connected>;
  /** The one whose site it is. @throws OutsideError when there is no such site */
  at(site: string): Promise<Connected>;
}

export function openProviders(db: Database, sealing: Sealing, clock: Pick<Clock, 'now'>): Providers {
  const open = new Map<string, { readonly made: string; readonly port: Provider }>();
  const connect = (row: StoredProvider): Connected => {
    const made = `${row.url} ${row.account} ${row.secret_sealed.toString('base64')}`;
    let known = open.get(row.code);
    if (known?.made !== made) {
      const { code, url, account } = row;
      known = {
        made,
        port: httpProvider(
          { code, url, account, secret: sealing.unseal(row.secret_sealed, placeOf(row)) },
          (of, count, why) => noteOddity({ db, clock }, code, 'entries ignored', `${count} of ${of}: ${why}`),
        ),
      };
      open.set(code, known);
    }
    return {
      code: row.code,
      name: row.name,
      port: known.port,
      feedPlace: row.feed_place,
      sessionPlace: row.session_place,
    };
  };
  const found = (row: StoredProvider | undefined, what: string): Connected => {
    if (!row) throw new OutsideError('provider', `of ${what} is not connected`, 'lasting');
    return connect(row);
  };
  return {
    all: async () => (await allProviders(db)).map(connect),
    named: async (code) => found(await providerNamed(db, code), code),
    at: async (site) => found(await providerOfSite(db, site), site),
  };
}

export interface ProviderHouse {
  readonly db: Database;
  readonly clock: Clock;
  readonly sealing: Sealing;
  readonly providers: Providers;
}

/** Signs in for real and remembers how it went. */
export async function trySignIn(
  house: ProviderHouse,
  provider: Connected,
): Promise<{ worked: boolean; says: string }> {
  const trying = provider.port.signIn().then(
    () => ({ worked: true, says: 'signed in just now' }),
    (error: unknown) => {
      if (error instanceof OutsideError) return { worked: false, says: error.says };
      throw error;
    },
  );
  const outcome = await inTime(trying, SCREEN_MS, LATE);
  await noteSignIn(house.db, provider.code, outcome, house.clock.wall());
  return outcome;
}

/** Reads a provider's sites, their sizes, nodes and quotas, and its prices, and keeps what was read. */
export async function readSites(house: ProviderHouse, provider: Connected, scope: Scope): Promise<void> {
  const [sites, prices] = await Promise.all([provider.port.sites(), askPrices(provider.port)]);
  await keepSites(house, provider.code, sites, prices, scope);
}

/** A provider that tells no prices is none the worse for all else: the last ones that it told stay. */
const askPrices = (port: Provider): Promise<ProviderPrices | undefined> =>
  port.prices().catch((error: unknown) => {
    if (error instanceof OutsideError) return undefined;
    throw error;
  });

async function keepSites(
  house: ProviderHouse,
  code: string,
  sites: readonly ProviderSite[],
  prices: ProviderPrices | undefined,
  scope: Scope,
): Promise<void> {
  await write(house, scope, [], async (tx) => {
    const taken = await siteOfOther(
      tx,
      code,
      sites.map((site) => site.code),
    );
    if (taken) throw new Problem(409, 'site', `Site ${taken.code} is ${taken.provider}'s already.`);
    for (const site of sites) await keepSite(tx, code, site, house.clock.now());
    if (prices) await keepPrices(tx, code, prices);
    await tx.touch('ground', code);
  });
}

/** A provider that is to be connected. */
interface ConnectionTo extends Connection {
  readonly code: string;
}

/**
 * Connects a provider, or mends its connection: its credentials are tried for real, then its sites are read.
 * @throws Problem 422 beside `secret` or `url` when it does not let us in: then nothing is kept
 */
export async function connectProvider(
  house: ProviderHouse,
  scope: Scope,
  asked: ConnectionTo,
): Promise<void> {
  const port = httpProvider(asked);
  const [sites, prices] = await port
    .signIn()
    .then(() => Promise.all([port.sites(), askPrices(port)]))
    .catch((error: unknown) => {
      if (!(error instanceof OutsideError)) throw error;
      const field = error instanceof CredentialsRefused ? 'secret' : 'url';
      throw new Problem(422, 'provider', `The provider does not let us in: ${error.message}.`, {
        fields: { [field]: error.message },
      });
    });
  await write(house, scope, [], async (tx) => {
    const before = await providerNamed(tx, asked.code);
    const taken = await siteOfOther(
      tx,
      asked.code,
      sites.map((site) => site.code),
    );
    if (taken) throw new Problem(409, 'site', `Site ${taken.code} is ${taken.provider}'s already.`);
    await keepProvider(tx, {
      code: asked.code,
      name: asked.name,
      url: asked.url,
      account: asked.account,
      secret_sealed: house.sealing.seal(asked.secret, placeOf(asked)),
      secret_ends_at: asked.secretEndsAt,
    });
    await noteSignIn(tx, asked.code, { worked: true, says: 'signed in just now' }, house.clock.wall());
    for (const site of sites) await keepSite(tx, asked.code, site, house.clock.now());
    if (prices) await keepPrices(tx, asked.code, prices);
    // Connected again as it was, there is nothing to put on the trail.
    if (before && isConnectedSo(house, before, asked)) return tx.touch('ground', asked.code);
    const shown = (one: { name: string; url: string; account: string }, secretEndsAt: number | null) => ({
      name: one.name,
      url: one.url,
      account: one.account,
      secretEndsAt,
    });
    await tx.record({
      action: before ? 'change provider' : 'connect provider',
      subject: asked.name,
      before: before ? shown(before, before.secret_ends_at) : undefined,
      after: shown(asked, asked.secretEndsAt),
      topic: 'ground',
      id: asked.code,
    });
  });
}

const placeOf = ({ code }: { readonly code: string }): SealPlace => ['provider', code];

/** Whether a provider is connected so already. One whose secret was sealed with another key is not. */
function isConnectedSo({ sealing }: ProviderHouse, row: StoredProvider, asked: ConnectionTo): boolean {
  try {
    return (
      row.name === asked.name &&
      row.url === asked.url &&
      row.account === asked.account &&
      row.secret_ends_at === asked.secretEndsAt &&
      sealing.unseal(row.secret_sealed, placeOf(row)) === asked.secret
    );
  } catch {
    return false;
  }
}

/** The providers, without their secrets. */
export async function listProviders(db: Database): Promise<ConnectedProvider[]> {
  return (await allProviders(db)).map((row) => ({
    code: row.code,
    name: row.name,
    url: row.url,
    account: row.account,
    signIn: { worked: row.sign_in_works === 1, says: row.sign_in_says },
    answeredAt: row.answered_wall,
    secretEndsAt: row.secret_ends_at,
  }));
}

/** @throws Problem 404 */
export async function getProvider(db: Database, code: string): Promise<ConnectedProvider> {
  const found = (await listProviders(db)).find((one) => one.code === code);
  if (!found) throw notFound('provider');
  return found;
}

/** Seals the secrets that are not sealed with the key that seals now. @returns how many those were */
export const sealProvidersAnew = (house: ProviderHouse, scope: Scope): Promise<number> =>
  write(house, scope, [], async (tx) => {
    const old = (await allProviders(tx)).filter(
      (row) => !house.sealing.isSealedNow(row.secret_sealed, placeOf(row)),
    );
    let done = 0;
    for (const { code, secret_sealed: before } of old) {
      const place = placeOf({ code });
      const anew = house.sealing.seal(house.sealing.unseal(before, place), place);
      done += await resealSecret(tx, code, before, anew);
    }
    if (done > 0)
      await tx.record({
        action: 'seal secrets anew',
        subject: `${done} of providers`,
        topic: 'ground',
        id: 'sealing',
      });
    return done;
  });
