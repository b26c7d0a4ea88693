import { identity } from '../text';

/** One step of a distinguished name: `ou=Clinics`. Of several values in one, the first. */
export interface Rdn {
  /** In small letters. */
  readonly type: string;
  readonly value: string;
}

/** Longer ones are no entry's name. */
const MOST_CHARACTERS = 8_000;

/**
 * Reads a distinguished name as text (RFC 4514), the deepest step first. What is escaped is read as what it stands for:
 * `\,` and `\2C` are a comma, `\C4\8D` is `č`.
 * @returns undefined for what is none
 * @example
 * parseDn('uid=ann,ou=Clinics,dc=svg,dc=example')?.length // 4
 */
export function parseDn(text: string): Rdn[] | undefined {
  if (text.length > MOST_CHARACTERS) return undefined;
  if (text.trim() === '') return [];
  const steps = splitOutside(text, ',').map((step) => splitOutside(step, '+')[0] ?? '');
  const read = steps.map(readRdn);
  return read.every((one) => one !== undefined) ? (read as Rdn[]) : undefined;
}

function readRdn(step: string): Rdn | undefined {
  const [, type = '', value = ''] =
    /^([A-Za-z][\w-]{0,250}|\d[\d.]{0,250})\s*=\s?(.*)$/s.exec(step.trimStart()) ?? [];
  return type === '' ? undefined : { type: type.toLowerCase(), value: unescaped(value) };
}

/** Splits at a sign that is neither escaped nor within quotes (RFC 2253 let values stand in quotes). */
function splitOutside(text: string, sign: string): string[] {
  const parts = [''];
  let quoted = false;
  for (let at = 0; at < text.length; at++) {
    const one = text[at] ?? '';
    if (one === '\\') {
      parts[parts.length - 1] += one + (text[at + 1] ?? '');
      at++;
    } else if (one === sign && !quoted) parts.push('');
    else {
      if (one === '"') quoted = !quoted;
      parts[parts.length - 1] += one;
    }
  }
  return parts;
}

/** Spaces around a value count only where they are escaped. */
function withoutSpaces(value: string): string {
  const ended = value.trimEnd();
  let backslashes = 0;
  while (ended.at(-1 - backslashes) === '\\') backslashes += 1;
  // An odd number of them: the last one escapes the space behind it.
  return (backslashes % 2 === 1 ? value.slice(0, ended.length + 1) : ended).trimStart();
}

function unescaped(value: string): string {
  const bytes: number[] = [];
  const trimmed = withoutSpaces(value);
  const text =
    trimmed.length > 1 && trimmed.startsWith('"') && trimmed.endsWith('"') ? trimmed.slice(1, -1) : trimmed;
  for (let at = 0; at < text.length; at++) {
    const hex = /^\\([0-9A-Fa-f]{2})/.exec(text.slice(at, at + 3));
    if (hex) {
      bytes.push(Number.parseInt(hex[1] ?? '', 16));
      at += 2;
    } else {
      const escaped = text[at] === '\\';
      const from = escaped ? at + 1 : at;
      const sign = String.fromCodePoint(text.codePointAt(from) ?? 0);
      bytes.push(...new TextEncoder().encode(sign));
      at = from + sign.length - 1;
    }
  }
  return new TextDecoder().decode(Uint8Array.from(bytes));
}

/** A distinguished name as it is compared: types and values in small letters, nothing escaped that needs none. */
export const comparedDn = (text: string): string =>
  (parseDn(text) ?? [{ type: '', value: text }])
    .map(({ type, value }) => `${type}=${identity(value).replace(/\s+/g, ' ').replaceAll(',', '\\,')}`)
    .join(',');

/**
 * Where an entry stands below a base, from the top: its units, without the entry itself.
 * @example
 * unitBelow('uid=ann,ou=Ardle,ou=Clinics,dc=svg,dc=example', 'dc=svg,dc=example') // 'Clinics/Ardle'
 */
export function unitBelow(dn: string, base: string): string {
  const steps = parseDn(dn) ?? [];
  const above = parseDn(base)?.length ?? 0;
  return steps
    .slice(1, Math.max(1, steps.length - above))
    .reverse()
    .map(({ value }) => value.replaceAll('/', '-'))
    .join('/');
}
