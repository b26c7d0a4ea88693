import type { FileRow } from '../people';

/** An entry of a file: its name, and its attributes with their values, in small letters without options. */
export interface LdifEntry {
  readonly line: number;
  readonly dn: string;
  readonly attributes: ReadonlyMap<string, readonly string[]>;
}

export interface LdifFault {
  readonly line: number;
  readonly reason: string;
}

/** A line as it was before it was folded, with where it began. */
interface Line {
  readonly at: number;
  readonly text: string;
}

/** So many lines of comments or of nothing a file may begin with. */
const MOST_BEFORE = 1_000;

/** Whether a file is LDIF: it begins with its version, or with the name of an entry. */
export function isLdif(text: string): boolean {
  let at = text.startsWith('\uFEFF') ? 1 : 0;
  for (let line = 0; line < MOST_BEFORE && at < text.length; line++) {
    const end = text.indexOf('\n', at);
    const one = text.slice(at, end === -1 ? undefined : end).trim();
    if (one !== '' && !one.startsWith('#')) return /^(?:version:\s{0,9}1|dn:)/.test(one.slice(0, 40));
    if (end === -1) return false;
    at = end + 1;
  }
  return false;
}

/**
 * Reads entries of an LDIF file (RFC 2849): folded lines, comments, values in base64. Records of changes, and values that
 * stand elsewhere (`attribute:< file:…`), are refused: nothing is fetched for a file.
 */
export function parseLdif(text: string): { readonly entries: LdifEntry[]; readonly faults: LdifFault[] } {
  const entries: LdifEntry[] = [];
  const faults: LdifFault[] = [];
  for (const record of recordsOf(text)) {
    const [first] = record;
    if (!first) continue;
    const read = readRecord(record);
    if ('reason' in read) faults.push(read);
    else entries.push(read);
  }
  return { entries, faults };
}

function recordsOf(text: string): Line[][] {
  const records: { at: number; parts: string[] }[][] = [[]];
  text
    .replace(/^\uFEFF/, '')
    .split(/\r?\n/)
    .forEach((line, n) => {
      const record = records.at(-1) ?? [];
      const last = record.at(-1);
      if (line === '') records.push([]);
      else if (line.startsWith(' ') && last) last.parts.push(line.slice(1));
      else record.push({ at: n + 1, parts: [line] });
    });
  return records
    .map((record) => record.map(({ at, parts }): Line => ({ at, text: parts.join('') })))
    .map((record) => record.filter(({ text: one }) => !one.startsWith('#')))
    .map((record, n) =>
      n === 0 ? record.filter(({ text: one }) => !/^version:\s{0,9}\d{1,9}\s{0,9}$/.test(one)) : record,
    )
    .filter((record) => record.length > 0);
}

function readRecord(record: readonly Line[]): LdifEntry | LdifFault {
  const [first, ...others] = record;
  const at = first?.at ?? 0;
  const dn = first && readLine(first);
  if (!dn || 'reason' in dn) return dn ?? { line: at, reason: 'is empty' };
  if (dn.name !== 'dn') return { line: at, reason: 'an entry begins with its dn' };
  const attributes = new Map<string, string[]>();
  for (const line of others) {
    const read = readLine(line);
    if ('reason' in read) return read;
    if (read.name === 'changetype' || read.name === 'control')
      return { line: line.at, reason: 'is a change, and only entries are read' };
    const values = attributes.get(read.name);
    if (values) values.push(read.value);
    else attributes.set(read.name, [read.value]);
  }
  return { line: at, dn: dn.value, attributes };
}

function readLine({ at, text }: Line): { readonly name: string; readonly value: string } | LdifFault {
  const [, name = '', sign = '', filled = ''] =
    /^([A-Za-z0-9][\w.-]{0,250})(?:;[\w;-]{0,250})?:([:<]?)(.*)$/s.exec(text) ?? [];
  const rest = filled.slice(filled.search(/[^ ]|$/));
  if (name === '') return { line: at, reason: 'is no attribute and value' };
  if (sign === '<') return { line: at, reason: `${name} stands elsewhere, which is not fetched` };
  if (sign === '') return { name: name.toLowerCase(), value: rest };
  if (!/^[A-Za-z0-9+/]*={0,2}$/.test(rest) || rest.length % 4 !== 0)
    return { line: at, reason: `${name} is no base64` };
  const bytes = Uint8Array.from(atob(rest), (sign64) => sign64.charCodeAt(0));
  return { name: name.toLowerCase(), value: new TextDecoder().decode(bytes) };
}

/** Whether an entry is somebody (RFC 2798), and not a group, a unit or a thing. */
export const isPerson = ({ attributes }: LdifEntry): boolean =>
  (attributes.get('objectclass') ?? []).some((one) =>
    /^(inetOrgPerson|organizationalPerson|person)$/i.test(one),
  );

/** Somebody as a row of people, its cells as `PEOPLE_COLUMNS` names them: what an entry lacks is empty. */
export const rowOfEntry = ({ line, attributes }: LdifEntry): FileRow => {
  const first = (name: string): string => attributes.get(name)?.[0]?.trim() ?? '';
  return { line, cells: [first('uid'), first('givenname'), first('sn'), first('mail')] };
};
