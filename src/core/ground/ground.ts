import type { Block } from '../addressing';
import type { Instant } from '../calendar';
import type { Node, Placed } from '../placement';
import type { Rate } from '../rating';
import type { MachineSize } from '../sizing';

/** What a plan allows. */
export interface PlanLimits {
  readonly name: string;
  readonly mostHosts: number;
  readonly mostPeople: number;
  /** Size keys; empty: all. */
  readonly sizes: readonly string[];
}

export interface CustomerGround {
  readonly code: string;
  readonly currency: string;
  readonly zone: string;
  readonly state: string;
  readonly plan: PlanLimits;
  /** Hosts it has now, which count against the plan. */
  readonly hosts: number;
  readonly people: number;
  readonly block: Block | undefined;
  readonly subnets: readonly Block[];
  readonly namesTaken: readonly string[];
  readonly environments: readonly string[];
}

/** What a site is and has now. A hosted region shows a quota and no nodes; own nodes show nodes and no quota. */
export interface SiteGround {
  readonly code: string;
  readonly name: string;
  readonly kind: 'own nodes' | 'hosted region';
  readonly reservedAddresses: number;
  readonly sizes: readonly MachineSize[];
  readonly images: readonly string[];
  readonly nodes: readonly Node[];
  readonly present: readonly Placed[];
  readonly quota: { readonly vcpu: number; readonly vcpuUsed: number } | undefined;
  /** Whether the provider let us in when last tried, and what it said if not. */
  readonly signIn: { readonly worked: boolean; readonly says: string };
  readonly directory: { readonly worked: boolean; readonly says: string };
}

/** The facts that a proposal to provision is computed from. */
export interface ProvisionGround {
  readonly now: Instant;
  readonly customer: CustomerGround;
  readonly site: SiteGround;
  readonly rates: readonly Rate[];
}
