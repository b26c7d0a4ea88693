import type { PoolDocument, TemplateDocument, TemplateInput } from './spec';
import { writeTags } from './drift';
import { TERM_KEYS, TERMS, writeTerm } from '../terms';

/** One thing that two revisions say otherwise. */
export interface TemplateChange {
  /** `pool desks`, `input drawers`; empty: the whole. */
  readonly where: string;
  readonly what: string;
  /** Empty: it is new. */
  readonly before: string;
  /** Empty: it is gone. */
  readonly after: string;
}

/** What two revisions say otherwise, in what it means: what only moved, or is written otherwise, is no change. */
export function compareTemplates(before: TemplateDocument, after: TemplateDocument): TemplateChange[] {
  return [
    ...WHOLE.flatMap(([what, of]) => differing('', what, of(before), of(after))),
    ...matched(before.inputs, after.inputs, (one) => one.key).flatMap(({ key, was, is }) =>
      differing(`input ${key}`, 'asked', was && inputSays(was), is && inputSays(is)),
    ),
    ...matched(before.pools, after.pools, (one) => one.role).flatMap(({ key, was, is }) =>
      was && is
        ? poolChanges(`pool ${key}`, was, is)
        : differing(`pool ${key}`, 'pool', was && poolSays(was), is && poolSays(is)),
    ),
  ];
}

const WHOLE: readonly (readonly [what: string, of: (document: TemplateDocument) => string])[] = [
  ['Name', ({ name }) => name],
  ['What it is for', ({ says }) => says || 'nothing said'],
  ['Called', ({ called }) => called],
  ['Names', ({ naming }) => naming],
  ['Steps at a time', ({ atATime }) => String(atATime)],
  ['Failures that stop it', ({ failureLimit }) => String(failureLimit)],
  ['Tags', ({ tags }) => writeTags(tags)],
  ['The plan has', ({ features }) => features.join(', ') || 'nothing of note'],
];

function differing(
  where: string,
  what: string,
  before: string | undefined,
  after: string | undefined,
): TemplateChange[] {
  return before === after ? [] : [{ where, what, before: before ?? '', after: after ?? '' }];
}

interface Matched<One> {
  readonly key: string;
  readonly was: One | undefined;
  readonly is: One | undefined;
}

/** Those of both sides by their key, in the order of the later one; what is gone last. */
function matched<One>(
  before: readonly One[],
  after: readonly One[],
  keyOf: (one: One) => string,
): Matched<One>[] {
  const keys = [...new Set([...after.map(keyOf), ...before.map(keyOf)])];
  const find = (all: readonly One[], key: string): One | undefined => all.find((one) => keyOf(one) === key);
  return keys.map((key) => ({ key, was: find(before, key), is: find(after, key) }));
}

function inputSays(input: TemplateInput): string {
  const limits =
    input.type === 'count'
      ? `${input.least} to ${input.most}`
      : input.type === 'choice'
        ? input.choices.join(', ')
        : input.type === 'text'
          ? `at most ${input.most} characters`
          : 'yes or no';
  const usual = typeof input.usual === 'boolean' ? (input.usual ? 'yes' : 'no') : String(input.usual);
  return [
    `${input.title}: ${limits}, usually ${usual === '' ? 'nothing' : usual}`,
    ...(input.short ? ['in the short form'] : []),
    ...(input.help === '' ? [] : [input.help]),
  ].join('; ');
}

const poolSays = (pool: PoolDocument): string =>
  `${pool.kind}, ${writeTerm('image', pool.image)}, for ${writeTerm('people', pool.people)}`;

function poolChanges(where: string, was: PoolDocument, is: PoolDocument): TemplateChange[] {
  return [
    ...differing(where, 'Made', was.when?.slice(1) ?? 'always', is.when?.slice(1) ?? 'always'),
    ...TERM_KEYS.flatMap((term) =>
      differing(where, TERMS[term].title, writeTerm(term, was[term]), writeTerm(term, is[term])),
    ),
  ];
}
