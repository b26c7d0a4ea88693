import { identity } from '../text';
import { dateAt, dayNamed, type Instant } from '../calendar';
import { GRANTED_TO, type Grant } from '../intent';
import type { FileRow } from '../people';
import type { Groups, Offer } from './effective';
import { isSameGrant } from './grant';

export const GRANT_COLUMNS = ['pool', 'item', 'to', 'name', 'until'] as const;
type Column = (typeof GRANT_COLUMNS)[number];

/** `until` may be left out: what ends nowhere. */
const NEEDED: readonly Column[] = ['pool', 'item', 'to', 'name'];

/** A grant with the pool whose item it is of. */
export interface PoolGrant extends Grant {
  readonly pool: string;
}

/** What a file of grants is read against. */
export interface GrantFileFacts {
  readonly offers: readonly Pick<Offer, 'pool' | 'items' | 'grants'>[];
  readonly groups: Groups;
  readonly people: readonly {
    readonly id: string;
    readonly account: string;
    readonly leftAt: Instant | null;
  }[];
  readonly now: Instant;
  readonly zone: string;
}

export interface GrantsRead {
  /** What is not granted yet, or with another end. */
  readonly add: readonly PoolGrant[];
  /** So many stand already, just as the file says. */
  readonly same: number;
  /** What is left out, by the line that it stands on, and why. */
  readonly bad: readonly { readonly line: number; readonly reason: string }[];
}

/** What is wrong with a header row; undefined when it names the columns, in any order and case. */
export function grantHeaderFault(header: readonly string[]): string | undefined {
  const missing = NEEDED.filter((column) => !namesOf(header).includes(column));
  return missing.length === 0
    ? undefined
    : `the first line must name the columns ${GRANT_COLUMNS.join(', ')}; missing: ${missing.join(', ')}`;
}

/**
 * Reads rows of grants: an item of a pool, to whom, and until when. Groups are named as the directory names them, people
 * by account. What names somebody who is gone, or nobody, is left out by name; nothing is guessed.
 * @param header a header for which `grantHeaderFault` is undefined
 */
export function readGrants(
  header: readonly string[],
  rows: readonly FileRow[],
  facts: GrantFileFacts,
): GrantsRead {
  const names = namesOf(header);
  const add: PoolGrant[] = [];
  const bad: { line: number; reason: string }[] = [];
  let same = 0;
  for (const { line, cells } of rows) {
    const cell = (column: Column): string => unguarded((cells[names.indexOf(column)] ?? '').trim());
    const read = grantOf(cell, facts);
    if (typeof read === 'string') bad.push({ line, reason: read });
    else if (add.some((one) => one.pool === read.pool && isSameGrant(one, read)))
      bad.push({ line, reason: 'stands on a line before it already' });
    else if (isThere(read, facts)) same++;
    else if (read.until !== null && read.until <= facts.now)
      bad.push({ line, reason: `${cell('until')} is over` });
    else add.push(read);
  }
  return { add, same, bad };
}

/** A cell that begins like a formula is written with a mark before it, so that no spreadsheet reckons it. */
const unguarded = (cell: string): string => cell.replace(/^'(?=[=+\-@\t\r＝＋－＠])/u, '');

const namesOf = (header: readonly string[]): string[] => header.map((name) => name.trim().toLowerCase());

const isThere = (grant: PoolGrant, { offers }: GrantFileFacts): boolean =>
  offers.some(
    ({ pool, grants }) =>
      pool === grant.pool && grants.some((one) => isSameGrant(one, grant) && one.until === grant.until),
  );

/** @returns what is wrong, where something is */
function grantOf(cell: (column: Column) => string, facts: GrantFileFacts): PoolGrant | string {
  const offer = facts.offers.find(({ pool }) => pool === cell('pool').toLowerCase());
  if (!offer) return `there is no pool "${cell('pool')}"`;
  const item = offer.items.find(({ name }) => name.toLowerCase() === cell('item').toLowerCase());
  if (!item) return `${offer.pool} does not publish "${cell('item')}"`;
  const to = GRANTED_TO.find((one) => one === cell('to').toLowerCase());
  if (!to) return `"${cell('to')}" is none of ${GRANTED_TO.join(', ')}`;
  const id = idOf(to, cell('name'), facts);
  if (id.fault !== undefined) return id.fault;
  const until = endOf(cell('until'), facts.zone);
  if (until === undefined) return `"${cell('until')}" is no day: write it as 2026-12-31`;
  return { pool: offer.pool, item: item.name, to, id: id.id, until };
}

type Named = { readonly id: string; readonly fault?: undefined } | { readonly fault: string };

function idOf(to: Grant['to'], name: string, { groups, people }: GrantFileFacts): Named {
  switch (to) {
    case 'everyone':
      return { id: '' };
    case 'group': {
      const [first, ...others] = [...groups].filter(([, one]) => identity(one.name) === identity(name));
      if (!first) return { fault: `there is no group "${name}"` };
      return others.length > 0
        ? { fault: `${1 + others.length} groups are called "${name}"` }
        : { id: first[0] };
    }
    case 'person': {
      // Somebody who left may have had the account before whoever has it now.
      const all = people.filter(({ account }) => identity(account) === identity(name));
      const found = all.find(({ leftAt }) => leftAt === null) ?? all[0];
      if (!found) return { fault: `${name} is not in the directory` };
      return found.leftAt === null ? { id: found.id } : { fault: `${name} has left the directory` };
    }
  }
}

const INSTANT = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}(\.\d{1,3})?Z$/;

/** A last day, or an instant as RFC 3339 writes it in UTC; null: there is no end; undefined: it is neither. */
function endOf(text: string, zone: string): Instant | null | undefined {
  if (text === '') return null;
  if (!INSTANT.test(text)) return dayNamed(text, zone)?.to;
  const at = Date.parse(text);
  return Number.isNaN(at) ? undefined : at;
}

/** What ends as a day begins, ends with the day before. */
function writeEnd(until: Instant | null, zone: string): string {
  if (until === null) return '';
  const last = dateAt(until - 1, zone);
  return dayNamed(last, zone)?.to === until ? last : new Date(until).toISOString();
}

/** Grants as rows of such a file, in the order of its columns. @param nameOf a group's name, or a person's account */
export const grantRows = (
  offers: readonly Pick<Offer, 'pool' | 'grants'>[],
  nameOf: (grant: Grant) => string | undefined,
  zone: string,
): (readonly string[])[] =>
  offers.flatMap(({ pool, grants }) =>
    grants.flatMap((grant) => {
      const name = grant.to === 'everyone' ? '' : nameOf(grant);
      return name === undefined ? [] : [[pool, grant.item, grant.to, name, writeEnd(grant.until, zone)]];
    }),
  );
