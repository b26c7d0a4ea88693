import type { ProvisionGround, TemplateSpec } from '../../core/ground';
import type { ProfileKey } from '../../core/sizing';
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
  readonly ground: ProvisionGround;
}

export interface Choice {
  readonly template: string;
  readonly site: string;
  readonly environment: string;
  /** As typed; empty while it is being changed. */
  readonly people: string;
  readonly profile: ProfileKey;
  readonly size: string | undefined;
}
