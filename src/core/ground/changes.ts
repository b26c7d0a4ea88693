import Decimal from 'decimal.js';
import type { ImageFacts } from '../facts';
import { writeSize, type MachineSize } from '../machines';
import type { Rate } from '../rating';

/** What may change at a site, or of what a provider asks, between two readings. */
export const GROUND_CHANGES = [
  'node gone',
  'node lost',
  'node back',
  'node smaller',
  'node new',
  'quota lowered',
  'quota raised',
  'size withdrawn',
  'size new',
  'image gone',
  'image new',
  'price up',
  'price down',
  'price new',
  'price gone',
  'record restarted',
  'entries ignored',
] as const;
export type GroundChangeKind = (typeof GROUND_CHANGES)[number];

/** What takes something away, or makes it dearer: someone has to do something about it. */
const WORSE: readonly GroundChangeKind[] = [
  'node gone',
  'node lost',
  'node smaller',
  'quota lowered',
  'size withdrawn',
  'image gone',
  'price up',
  'price gone',
  'record restarted',
  'entries ignored',
];
export const isWorse = (kind: GroundChangeKind): boolean => WORSE.includes(kind);

export interface GroundChange {
  readonly kind: GroundChangeKind;
  /** The node, size, image or meter; empty for a quota. */
  readonly subject: string;
  readonly before: string;
  readonly after: string;
}

export interface ReadNode {
  readonly id: string;
  readonly vcpu: number;
  readonly memoryGiB: number;
  readonly diskGiB: number;
  readonly state: 'up' | 'lost' | 'gone';
}

/** What is known of a site from a reading. */
export interface SiteReading {
  readonly images: readonly ImageFacts[];
  readonly sizes: readonly MachineSize[];
  readonly nodes: readonly ReadNode[];
  readonly quota: { readonly vcpu: number } | null;
}

/** What is otherwise at a site than when it was read before, in the order of `GROUND_CHANGES`. */
export function siteChanges(before: SiteReading, after: SiteReading): GroundChange[] {
  const found = [
    ...nodeChanges(before.nodes, after.nodes),
    ...quotaChanges(before.quota?.vcpu, after.quota?.vcpu),
    ...listChanges(sizesOf(before), sizesOf(after), 'size withdrawn', 'size new'),
    ...listChanges(imagesOf(before), imagesOf(after), 'image gone', 'image new'),
  ];
  return found.sort((a, b) => GROUND_CHANGES.indexOf(a.kind) - GROUND_CHANGES.indexOf(b.kind));
}

const roomOf = ({ vcpu, memoryGiB, diskGiB }: ReadNode): string =>
  `${vcpu} vCPU, ${memoryGiB} GiB, ${diskGiB} GiB of disk`;

function nodeChanges(before: readonly ReadNode[], after: readonly ReadNode[]): GroundChange[] {
  const known = new Map(before.map((node) => [node.id, node]));
  const told = new Map(after.map((node) => [node.id, node]));
  const found: GroundChange[] = [];
  for (const was of before)
    if (!told.has(was.id) && was.state !== 'gone')
      found.push({ kind: 'node gone', subject: was.id, before: roomOf(was), after: '' });
  for (const node of after) {
    const was = known.get(node.id);
    const change = (kind: GroundChangeKind): void =>
      void found.push({
        kind,
        subject: node.id,
        before: was ? `${was.state}, ${roomOf(was)}` : '',
        after: `${node.state}, ${roomOf(node)}`,
      });
    if (!was) {
      change('node new');
      continue;
    }
    if (was.state === 'up' && node.state === 'lost') change('node lost');
    if (was.state !== 'up' && node.state === 'up') change('node back');
    if (node.vcpu < was.vcpu || node.memoryGiB < was.memoryGiB || node.diskGiB < was.diskGiB)
      change('node smaller');
  }
  return found;
}

function quotaChanges(before: number | undefined, after: number | undefined): GroundChange[] {
  if (before === undefined || after === undefined || before === after) return [];
  return [
    {
      kind: after < before ? 'quota lowered' : 'quota raised',
      subject: '',
      before: `${before} vCPU`,
      after: `${after} vCPU`,
    },
  ];
}

interface Offered {
  readonly name: string;
  readonly holds: string;
}

const sizesOf = ({ sizes }: SiteReading): Offered[] =>
  sizes.map((size) => ({ name: size.key, holds: writeSize(size) }));
const imagesOf = ({ images }: SiteReading): Offered[] =>
  images.map(({ name, diskGiB }) => ({ name, holds: `${diskGiB} GiB` }));

function listChanges(
  before: readonly Offered[],
  after: readonly Offered[],
  gone: GroundChangeKind,
  fresh: GroundChangeKind,
): GroundChange[] {
  const without = (all: readonly Offered[], others: readonly Offered[]): Offered[] =>
    all.filter(({ name }) => !others.some((other) => other.name === name));
  return [
    ...without(before, after).map(({ name, holds }) => ({
      kind: gone,
      subject: name,
      before: holds,
      after: '',
    })),
    ...without(after, before).map(({ name, holds }) => ({
      kind: fresh,
      subject: name,
      before: '',
      after: holds,
    })),
  ];
}

/** A price that a provider asks now, beside the one that is in force with us. */
export interface PriceChange {
  readonly kind: 'price up' | 'price down' | 'price new' | 'price gone' | 'price same';
  readonly meter: string;
  readonly size: string | null;
  readonly unit: Rate['unit'];
  /** Decimal text in major units; null: none. */
  readonly inForce: string | null;
  readonly told: string | null;
  /** What it is dearer by, of the one in force: 0.04 is 4 %. Null where there is only one. */
  readonly dearer: number | null;
}

type Asked = Pick<Rate, 'meter' | 'size' | 'unit' | 'price'>;
const keyOf = ({ meter, size, unit }: Asked): string => `${meter} ${size ?? ''} ${unit}`;

/** What a provider asks, beside what is in force: one entry for each thing that has a price in either. */
export function priceChanges(inForce: readonly Asked[], told: readonly Asked[]): PriceChange[] {
  const before = new Map(inForce.map((rate) => [keyOf(rate), rate]));
  const now = new Map(told.map((rate) => [keyOf(rate), rate]));
  return [...new Map([...now, ...before])].map(([key, { meter, size, unit }]) => {
    const [was, is] = [before.get(key)?.price ?? null, now.get(key)?.price ?? null];
    return { kind: priceKind(was, is), meter, size, unit, inForce: was, told: is, dearer: dearer(was, is) };
  });
}

function priceKind(was: string | null, is: string | null): PriceChange['kind'] {
  if (was === null) return 'price new';
  if (is === null) return 'price gone';
  const order = new Decimal(is).cmp(was);
  return order > 0 ? 'price up' : order < 0 ? 'price down' : 'price same';
}

function dearer(was: string | null, is: string | null): number | null {
  if (was === null || is === null || new Decimal(was).isZero()) return null;
  return new Decimal(is).minus(was).div(was).toDecimalPlaces(4).toNumber();
}
