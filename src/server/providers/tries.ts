import { setTimeout as pause } from 'node:timers/promises';
import { TRIES, type FoundSite, type Tried, type Try } from '../../contract';
import type { Clock } from '../clock';
import { newId, type Connection } from '../db';
import { CredentialsRefused, NotAllowed, OutsideError, Unreachable, type Unreached } from '../outside';
import { httpProvider } from './http';
import type { Operation, PresentResource, Provider, ProviderSite } from './port';
import { siteOfOther } from './store';

type What = Try['what'];
/** How one try went. `fix` is empty when there is nothing to do. */
type Went = Pick<Try, 'outcome' | 'says' | 'fix'>;

const ASKED: Readonly<Record<What, string>> = {
  address: 'GET /health',
  clock: 'Date of that answer',
  'sign in': 'POST /v1/token',
  sites: 'GET /v1/sites',
  prices: 'GET /v1/prices',
  'make and remove': 'POST and DELETE /v1/resources',
};

export interface TryHouse {
  readonly clock: Clock;
  readonly db: Connection;
}

/** What a later try needs of an earlier one. */
interface Learnt {
  clock?: number | undefined;
  sites?: readonly ProviderSite[];
}

/**
 * Tries a connection for real and keeps nothing of it: each try is told with what was asked, what was answered, and what to
 * do about it. After one that failed the others cannot be tried.
 */
export async function tryConnection(
  house: TryHouse,
  asked: Tried,
): Promise<{ readonly tries: Try[]; readonly sites: FoundSite[] }> {
  const port = httpProvider(asked);
  const learnt: Learnt = {};
  const tries: Try[] = [];
  let goesOn = true;
  for (const what of TRIES) {
    const at = house.clock.wall();
    const mayBeTried = goesOn && isAskedFor(what, asked);
    const went = mayBeTried ? await tried(DO[what], { port, house, asked, learnt }) : NOT_TRIED;
    if (went.outcome === 'fails') goesOn = false;
    tries.push({ what, asked: ASKED[what], ...went, at, tookMs: house.clock.wall() - at });
  }
  return { tries, sites: (learnt.sites ?? []).map(foundSite) };
}

const foundSite = ({ code, name, kind, nodes, quota, images, sizes }: ProviderSite): FoundSite => ({
  code,
  name,
  kind,
  zones: new Set(nodes.map((node) => node.zone)).size,
  nodes: nodes.length,
  vcpu: quota?.vcpu ?? nodes.reduce((sum, node) => sum + node.vcpu, 0),
  memoryGiB: quota ? null : nodes.reduce((sum, node) => sum + node.memoryGiB, 0),
  images: images.map((image) => image.name),
  sizes: sizes.length,
});

/** Without account and secret there is nothing to sign in with, and nothing after it. */
const isAskedFor = (what: What, { account, secret, making }: Tried): boolean =>
  what === 'address' ||
  what === 'clock' ||
  (account !== '' && secret !== '' && (what !== 'make and remove' || making));

const NOT_TRIED: Went = { outcome: 'not tried', says: '', fix: '' };

interface Trying {
  readonly port: Provider;
  readonly house: TryHouse;
  readonly asked: Tried;
  readonly learnt: Learnt;
}
type Deed = (trying: Trying) => Promise<Went>;

const works = (says: string): Went => ({ outcome: 'works', says, fix: '' });
const warns = (says: string, fix: string): Went => ({ outcome: 'warns', says, fix });
const fails = (says: string, fix: string): Went => ({ outcome: 'fails', says, fix });

async function tried(deed: Deed, trying: Trying): Promise<Went> {
  try {
    return await deed(trying);
  } catch (error) {
    if (error instanceof OutsideError) return fails(upper(error.message), fixOf(error));
    throw error;
  }
}

const upper = (text: string): string => text.slice(0, 1).toUpperCase() + text.slice(1, 200);

const UNREACHED: Readonly<Record<Unreached, string>> = {
  name: 'Look for a slip in the name, or have the name servers of this machine know it.',
  nobody: 'Look for a slip in the port, and whether a firewall lets this machine through.',
  certificate:
    'Use the name that stands in the certificate, or have it signed by an authority that this machine trusts.',
  silence: 'Look whether it is up, and whether a firewall lets this machine through.',
  elsewhere: 'Write the address that it sends to, if it is theirs: a secret is not sent on by itself.',
  other: 'Look whether it is https or http, and for a slip in the port.',
};

function fixOf(error: OutsideError): string {
  if (error instanceof Unreachable) return UNREACHED[error.why];
  if (error instanceof CredentialsRefused) return 'Copy account and secret again, whole and without spaces.';
  if (error instanceof NotAllowed) return 'Give the account this right at the provider.';
  return error.trouble === 'passing'
    ? 'Try again in a moment; if it stays, ask the provider.'
    : 'Look whether the address leads to the API of a provider of this kind.';
}

/** So far may clocks be apart: sign-ins and what is metered go by them. */
const CLOCK_WARNS_MS = 30_000;
const CLOCK_FAILS_MS = 5 * 60_000;

const DO: Readonly<Record<What, Deed>> = {
  address: async ({ port, asked, learnt }) => {
    learnt.clock = (await port.reach()).clock;
    return isOpen(asked.url)
      ? warns('Answers, but whoever is on the way can read the secret', 'Use https.')
      : works('Answers');
  },

  clock: async ({ house, learnt }) => {
    if (learnt.clock === undefined) return warns('Does not say what time it has', 'Ask the provider for it.');
    const ahead = learnt.clock - house.clock.wall();
    const seconds = Math.round(Math.abs(ahead) / 1000);
    if (Math.abs(ahead) < CLOCK_WARNS_MS) return works('The same as ours');
    const says = `${spanOf(seconds)} ${ahead > 0 ? 'ahead of' : 'behind'} ours`;
    const fix = 'Have both clocks set by a time server: sign-ins and what is metered go by them.';
    return Math.abs(ahead) < CLOCK_FAILS_MS ? warns(says, fix) : fails(says, fix);
  },

  'sign in': async ({ port }) => {
    await port.signIn();
    return works('Signed in');
  },

  sites: async ({ port, house, asked, learnt }) => {
    const sites = await port.sites();
    const codes = sites.map((site) => site.code);
    const taken = await siteOfOther(house.db, asked.code, codes);
    if (taken)
      return fails(
        `${taken.code} is a site of ${taken.provider} already`,
        'Change that connection, rather than adding another to the same place.',
      );
    learnt.sites = sites;
    return sites.length === 0
      ? fails('Has no site for this account', 'Have the provider open a site to the account.')
      : works(sites.map((site) => site.name).join(', '));
  },

  prices: async ({ port }) => {
    try {
      const { rates, currency } = await port.prices();
      return works(`${rates.length} in ${currency}`);
    } catch (error) {
      if (!(error instanceof OutsideError)) throw error;
      return warns(upper(error.message), 'Without prices it is not known what customers cost you.');
    }
  },

  'make and remove': ({ port, house, learnt }) =>
    makeAndRemove(port, house.clock, learnt.sites?.[0]?.code ?? ''),
};

/** A secret that goes over a network in the clear. Within one machine nobody else listens. */
function isOpen(url: string): boolean {
  const { protocol, hostname } = new URL(url);
  return protocol === 'http:' && !/^(localhost|127\.\d+\.\d+\.\d+|\[::1\])$/.test(hostname);
}

const spanOf = (seconds: number): string =>
  seconds < 120 ? `${seconds} seconds` : `${Math.round(seconds / 60)} minutes`;

/** How long the making and the removing may take, together. */
const PATIENCE_MS = 25_000;
const LOOK_MS = 300;
/** By this what it had to leave is found again; no customer has such a code. */
const TAGS = { customer: '-', purpose: 'trying the connection' };

const isOurTry = ({ kind, name, tags }: PresentResource): boolean =>
  kind === 'share' &&
  name.startsWith('laager-try-') &&
  tags.customer === TAGS.customer &&
  tags.purpose === TAGS.purpose;

/** Makes the smallest thing that there is and takes it away again: what an earlier try had to leave goes first. */
async function makeAndRemove(port: Provider, clock: Clock, site: string): Promise<Went> {
  const until = clock.wall() + PATIENCE_MS;
  // Looked at again here: of a provider that passes over the filter all else would be taken away.
  for (const left of await port.resources(TAGS))
    if (isOurTry(left) && left.busyWith === null) await port.remove(left.ref, left.version, newId());
  const name = `laager-try-${newId().slice(-6).toLowerCase()}`;
  const making = await port.make({ kind: 'share', site, name, attributes: { gib: 1 }, tags: TAGS }, newId());
  const made = await ended(port, clock, making, until);
  const left = warns(
    `Takes it on; ${name} was still at work after ${PATIENCE_MS / 1000} seconds`,
    'Try again later: what was left is then taken away first.',
  );
  if (made.state === 'failed') return fails(upper(made.says), 'Ask the provider why it cannot be made.');
  if (made.state === 'working') return left;
  const present = await port.resource(making.resource);
  const removing = await port.remove(making.resource, present?.version ?? 0, newId());
  const removed = await ended(port, clock, removing, until);
  if (removed.state === 'failed') return fails(upper(removed.says), `Take ${name} away at the provider.`);
  return removed.state === 'working' ? left : works(`Made ${name} and took it away again`);
}

async function ended(port: Provider, clock: Clock, begun: Operation, until: number): Promise<Operation> {
  let now = begun;
  while (now.state === 'working' && clock.wall() < until) {
    await pause(LOOK_MS);
    now = await port.operation(begun.id);
  }
  return now;
}
