import type { PoolChoice } from '../../core/changes';
import type { Facts } from '../../core/facts';
import type { TemplateSpec } from '../../core/templates';
import type { MarkLook } from '../../ui/Mark';

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
    readonly name: string;
    readonly revision: number;
    readonly spec: TemplateSpec;
  }[];
  /** Of the customer's own site and the first template. */
  readonly facts: Facts;
}

export interface Choice {
  readonly template: string;
  readonly site: string;
  readonly environment: string;
  /** As typed; empty while it is being changed. */
  readonly people: string;
  /** What is otherwise than the template has it. */
  readonly pools: readonly PoolChoice[];
}
