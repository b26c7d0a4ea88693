import type { Tags } from '../intent';
import type { PoolSpec, TermKey } from '../terms';

/** What of a plan a template may need. */
export const FEATURES = ['local administrator', 'ready hosts'] as const;
export type Feature = (typeof FEATURES)[number];

/** What a template's revision says of an environment, once its inputs are filled. */
export interface TemplateSpec {
  readonly naming: string;
  readonly pools: readonly PoolSpec[];
  readonly tags: Tags;
  readonly features: readonly Feature[];
  /** Steps at a time. */
  readonly atATime: number;
  /** A run stops after so many failed steps. */
  readonly failureLimit: number;
}

/** Instead of a value: that of an input, or so many times it. */
export type Reference = `=${string}`;

/** A pool as it is written: each term is a value, or an input that fills it. */
export type PoolDocument = {
  readonly role: string;
  /** It is made only where this input says so; left out: always. */
  readonly when?: Reference | undefined;
} & { readonly [Key in TermKey]: PoolSpec[Key] | Reference };

interface Asked {
  readonly key: string;
  readonly title: string;
  readonly help: string;
  /** Whether the short form asks it. */
  readonly short: boolean;
}
/** What is filled in for each customer. */
export type TemplateInput =
  | (Asked & {
      readonly type: 'count';
      readonly least: number;
      readonly most: number;
      readonly usual: number;
    })
  | (Asked & { readonly type: 'choice'; readonly choices: readonly string[]; readonly usual: string })
  | (Asked & { readonly type: 'yes'; readonly usual: boolean })
  /** One of the customer's groups, by our id of it; none: everyone. It says for whom an item is. */
  | (Asked & { readonly type: 'group'; readonly usual: '' })
  /** Free words: they fill tags. `most`: characters. */
  | (Asked & { readonly type: 'text'; readonly most: number; readonly usual: string });
export type InputType = TemplateInput['type'];
export const INPUT_TYPES = [
  'count',
  'choice',
  'yes',
  'group',
  'text',
] as const satisfies readonly InputType[];

/** A template's revision as it is written, with what is left out filled in. */
export interface TemplateDocument extends Omit<TemplateSpec, 'pools'> {
  readonly name: string;
  readonly says: string;
  /** What an environment is called where nobody says otherwise. */
  readonly called: string;
  readonly inputs: readonly TemplateInput[];
  readonly pools: readonly PoolDocument[];
}
