import { ok, refuse, type Result } from '../result';

/** What fills a rule's parts. All are used in upper case. */
export interface NamingContext {
  readonly customer: string;
  readonly environment: string;
  readonly site: string;
  readonly role: string;
}

export type NamingPart =
  | { readonly kind: 'text'; readonly text: string }
  | { readonly kind: 'field'; readonly field: keyof NamingContext }
  | { readonly kind: 'counter'; readonly width: number };

/** Parts in order, with exactly one counter. */
export interface NamingRule {
  readonly parts: readonly NamingPart[];
}

const FIELDS: readonly (keyof NamingContext)[] = ['customer', 'environment', 'site', 'role'];

/**
 * Reads a rule written like `{customer}-{role}{counter:3}`.
 * Refuses an unknown field, none or several counters, a counter wider than 6, and text that no name may hold.
 */
export function parseRule(text: string): Result<NamingRule> {
  const parts: NamingPart[] = [];
  for (const piece of text.split(/(\{[^{}]*\})/).filter((piece) => piece !== '')) {
    const part = piece.startsWith('{') ? readBraces(piece) : readText(piece);
    if (!part.ok) return part;
    parts.push(part.value);
  }
  const counters = parts.filter((part) => part.kind === 'counter').length;
  if (counters !== 1)
    return refuse(`a naming rule needs one counter, like {counter:2}; this one has ${counters}`);
  return ok({ parts });
}

function readBraces(piece: string): Result<NamingPart> {
  const inner = piece.slice(1, -1);
  const counter = /^counter:([1-6])$/.exec(inner);
  if (counter) return ok({ kind: 'counter', width: Number(counter[1]) });
  const field = FIELDS.find((field) => field === inner);
  if (field) return ok({ kind: 'field', field });
  return refuse(
    `{${inner}} is not a part: use ${FIELDS.map((f) => `{${f}}`).join(', ')} or {counter:1} to {counter:6}`,
  );
}

function readText(piece: string): Result<NamingPart> {
  if (!/^[A-Za-z0-9-]+$/.test(piece)) return refuse(`"${piece}" may hold only letters, digits and hyphens`);
  return ok({ kind: 'text', text: piece });
}

/** The rule as it is written; `parseRule(writeRule(rule))` is the same rule. */
export function writeRule(rule: NamingRule): string {
  return rule.parts
    .map((part) =>
      part.kind === 'text'
        ? part.text
        : part.kind === 'field'
          ? `{${part.field}}`
          : `{counter:${part.width}}`,
    )
    .join('');
}

/** How many names a rule can make for one context: 99 for a two-digit counter, which counts from 1. */
export function capacityOf(rule: NamingRule): number {
  const counter = rule.parts.find((part) => part.kind === 'counter');
  return counter ? 10 ** counter.width - 1 : 0;
}

/** The name for a counter value from 1 up to `capacityOf(rule)`. */
export function nameAt(rule: NamingRule, context: NamingContext, value: number): string {
  return rule.parts
    .map((part) => {
      if (part.kind === 'text') return part.text;
      if (part.kind === 'field') return context[part.field];
      return String(value).padStart(part.width, '0');
    })
    .join('')
    .toUpperCase();
}
