import type { Check, Impact } from '../../core/planning';
import type { Money } from '../../core/money';

/** What a proposal is shown by; the API's `ProposalView` has more. */
export interface ProposalFacts {
  readonly kind: string;
  readonly title: string;
  readonly refused: Readonly<Record<string, string>> | null;
  readonly tasks: readonly TaskFacts[];
  readonly steps: readonly { readonly action: string; readonly seconds: number }[];
  readonly policy: {
    readonly atATime: number;
    readonly failureLimit: number;
    readonly waves?: number;
    readonly drain?: { readonly minutes: number; readonly message: string };
  };
  readonly seconds: number;
  readonly monthly: Money;
  readonly checks: readonly Check[];
  readonly impact: Impact;
}

export interface TaskFacts {
  readonly key: string;
  readonly kind: string;
  readonly name: string;
  readonly do: 'make' | 'change' | 'replace' | 'remove';
  readonly says: readonly string[];
  readonly attributes: Readonly<Record<string, unknown>>;
  readonly people: number;
}

export interface Fingerprinted {
  readonly proposal: ProposalFacts;
  readonly fingerprint: string;
}
