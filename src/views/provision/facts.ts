import type { PoolChoice, ProvisionInput, SizedPool } from '../../core/changes';
import type { FilledInput } from '../../core/intent';
import type { Facts } from '../../core/facts';
import type { Lane, Proposal } from '../../core/planning';
import type { TemplateDocument } from '../../core/templates';
import type { SavedView } from '../../contract';
import type { MarkLook } from '../../ui/Mark';

/** What is asked of the planner. */
export interface Question {
  /** Tells one question from the next; its answer bears the same. */
  readonly turn: number;
  readonly input: ProvisionInput;
  readonly facts: Facts;
}

/** What of a proposal is shown here: data alone, which goes from the server to the page and from its worker to it. */
export type Outlook = Pick<
  Proposal,
  'checks' | 'impact' | 'wanted' | 'room' | 'seconds' | 'cost' | 'monthly'
> & {
  readonly steps: number;
  /** When what is worked on. */
  readonly lanes: readonly Lane[];
};

/** What will come of the choices. */
export interface Plan {
  readonly turn: number;
  /** What it is for, which may be what was asked a moment ago. */
  readonly input: ProvisionInput;
  readonly outlook: Outlook;
  readonly pools: readonly SizedPool[];
}

export interface ProvisionProps {
  readonly customer: {
    readonly code: string;
    readonly name: string;
    readonly mark: MarkLook;
    readonly site: string;
    readonly people: number;
  };
  readonly sites: readonly { readonly code: string; readonly name: string; readonly kind: string }[];
  readonly templates: readonly {
    readonly code: string;
    readonly revision: number;
    readonly document: TemplateDocument;
  }[];
  /** Choices that the visitor has kept, by name. */
  readonly views: readonly SavedView[];
  /** Of the customer's own site and the first template. */
  readonly facts: Facts;
  /** For what is chosen at first. */
  readonly plan: Plan;
}

export interface Choice {
  readonly template: string;
  readonly site: string;
  /** Empty: as the template calls it. */
  readonly environment: string;
  /** As typed; empty while it is being changed. */
  readonly people: string;
  /** As typed; empty: as many. */
  readonly ready: string;
  /** What was filled in otherwise than usual. */
  readonly inputs: readonly FilledInput[];
  /** What is otherwise than the template has it. */
  readonly pools: readonly PoolChoice[];
}

/** What is chosen before anybody chose: some people of the customer's, at its own site. */
export const firstChoice = ({ people }: ProvisionProps['customer'], facts: Facts): Choice => ({
  template: facts.template?.code ?? '',
  site: facts.site.code,
  environment: '',
  people: String(Math.min(people, 20) || 10),
  ready: '',
  inputs: [],
  pools: [],
});

/** What the template calls an environment, with a number where the customer has one of that name. */
export function freeName({ customer, template }: Pick<Facts, 'customer' | 'template'>): string {
  const called = template?.document.called ?? 'office';
  const names = [called, ...Array.from({ length: 50 }, (_, n) => `${called.slice(0, 20)}-${n + 2}`)];
  return names.find((name) => !customer.environments.includes(name)) ?? '';
}

/** What is asked: without a name of its own it has the one that the template gives. */
export const inputOf = (choice: Choice, facts: Facts): ProvisionInput => ({
  environment: choice.environment.trim() || freeName(facts),
  template: choice.template,
  site: choice.site,
  people: Number(choice.people) || 0,
  ...(choice.ready === '' ? {} : { ready: Number(choice.ready) || 0 }),
  ...(choice.inputs.length > 0 ? { inputs: choice.inputs } : {}),
  ...(choice.pools.length > 0 ? { pools: choice.pools } : {}),
});
