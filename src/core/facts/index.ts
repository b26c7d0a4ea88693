import type { Block } from '../addressing';
import type { ApprovalRule } from '../approval';
import type { Instant } from '../calendar';
import type { Attributes, Intent } from '../intent';
import type { VersionState } from '../images';
import type { Durations } from '../durations';
import type { Override } from '../overrides';
import type { Node, Placed } from '../placement';
import type { Amounts, PlanFacts } from '../plans';
import type { Rate } from '../rating';
import type { SavedSteps } from '../recipes';
import type { MachineSize } from '../machines';
import type { ProfileNeed } from '../sizing';
import type { TemplateDocument } from '../templates';

export interface CustomerFacts {
  readonly code: string;
  readonly currency: string;
  readonly zone: string;
  readonly state: string;
  /** The name of its directory. */
  readonly realm: string;
  /** The rule that makes its computer names; empty: the template's. */
  readonly naming: string;
  readonly plan: PlanFacts;
  /** What all its environments take together now, which counts against the plan. */
  readonly takes: Amounts;
  /** What of each metered thing all its environments have now; left out: of none there is any. */
  readonly stands?: Readonly<Record<string, number>> | undefined;
  /** What its kinds of work take, where that is otherwise than usual. */
  readonly needs?: readonly ProfileNeed[] | undefined;
  /** Those in its directory. */
  readonly people: number;
  /** Its address block at the site; undefined: none is free. */
  readonly block: Block | undefined;
  /** The values that it has of each space, like `name` and `subnet`. Of addresses only those that are kept for proposals. */
  readonly taken: Readonly<Record<string, readonly string[]>>;
  readonly environments: readonly string[];
  /** Name servers of its own; none: those of the shared services. */
  readonly nameServers: readonly string[];
  /** Undefined: people come in at no name of its own, or there is no certificate for it. */
  readonly gateway?: GatewayFacts | undefined;
}

/** Where people come in, and the certificate that is kept for it. */
export interface GatewayFacts {
  readonly name: string;
  /** Its fingerprint. */
  readonly certificate: string;
  readonly until: Instant;
}

/** What the MSP has at a site for all who are hosted there: their networks are joined with its network, and no others. */
export interface ServicesFacts {
  /** The id of its network there, as a resource of the MSP. */
  readonly network: string;
  readonly cidr: string;
  readonly nameServers: readonly string[];
  /** Where directories are reached. */
  readonly directory: string;
}

/** A host that was built in advance, or a server that was made by hand, as it stands. */
export interface ReadyHost {
  /** The provider's name for it. */
  readonly ref: string;
  readonly name: string;
  readonly size: string;
  readonly image: string;
  readonly diskGiB: number;
  readonly node: string | null;
}

export const SITE_KINDS = ['own nodes', 'hosted region'] as const;

/** Of vCPU at a hosted region: of the whole, and of families of sizes within it. */
export interface Quota {
  readonly vcpu: number;
  readonly vcpuUsed: number;
  readonly families?:
    readonly { readonly family: string; readonly vcpu: number; readonly vcpuUsed: number }[] | undefined;
  /** What else it gives so much of in all, by the provider's name for it. */
  readonly others?:
    readonly { readonly of: string; readonly most: number; readonly used: number }[] | undefined;
}

/** What a site is and has now. A hosted region shows a quota and no nodes; own nodes show nodes and no quota. */
export interface SiteFacts {
  readonly code: string;
  readonly name: string;
  readonly kind: (typeof SITE_KINDS)[number];
  readonly reservedAddresses: number;
  readonly sizes: readonly MachineSize[];
  /** Images that are there, each with the least disk it fits on, in GiB. */
  readonly images: readonly ImageFacts[];
  /** Versions that are made here and are at other sites alone. */
  readonly imagesElsewhere?: readonly ImageFacts[] | undefined;
  readonly nodes: readonly Node[];
  readonly present: readonly Placed[];
  readonly quota: Quota | undefined;
  /** How long steps have taken here. */
  readonly durations?: Durations | undefined;
  /** Whether the provider let us in when last tried, and what it said if not. */
  readonly signIn: { readonly worked: boolean; readonly says: string };
  readonly directory: { readonly worked: boolean; readonly says: string };
  /** When all of this was asked outside; left out: now. */
  readonly askedAt?: Instant | undefined;
  /** Names of computers in the customer's directory, and of the customer's servers at the provider. */
  readonly namesThere?: readonly string[] | undefined;
  /** Names of servers at the provider that are no customer's, or not yet known to be: never told outside. */
  readonly namesOfNobody?: readonly string[] | undefined;
  /** Undefined: there are none, or it is the MSP's own environment. */
  readonly services?: ServicesFacts | undefined;
  /** What came of trying the way from the customer's network to them; undefined: it has none yet. */
  readonly route?: { readonly worked: boolean; readonly says: string } | undefined;
  /**
   * What came of asking the customer's name servers from the shared services, where its network has yet to be told of them;
   * undefined: they are not among the shared services, or could not be asked.
   */
  readonly nameServers?: { readonly worked: boolean; readonly says: string } | undefined;
  /** Hosts of the ready shelf that nobody has taken, the oldest first. */
  readonly shelf?: readonly ReadyHost[] | undefined;
  /** Servers that nobody owns: told to the MSP's own alone. */
  readonly strays?: readonly ReadyHost[] | undefined;
  /** Customers whose networks are joined with the one that is asked about. */
  readonly joinedBy?: number | undefined;
}

/** A group or person as grants name them. */
export interface Grantee {
  /** Ours. */
  readonly id: string;
  readonly to: 'group' | 'person';
  readonly name: string;
  /** Where it stands in the directory. */
  readonly unit: string;
  /** Of a group: whether it is known here who is in it. */
  readonly inScope: boolean;
  /** Of a group: how many are in it, through others too; of a person 1. */
  readonly people: number;
}

export interface ImageFacts {
  readonly name: string;
  /** The least disk that it fits on. */
  readonly diskGiB: number;
  /** Of those that are made here: which line it is a version of. */
  readonly of?: VersionFacts | undefined;
}

export interface VersionFacts {
  readonly line: string;
  readonly number: number;
  readonly state: VersionState;
  /** When its build was begun. */
  readonly at: Instant;
  /** Programs on it that need a licence for each person. */
  readonly licences: readonly string[];
  /** What is on it, as it was captured: each with its version last. */
  readonly programs: readonly string[];
}

/** What an image's changes are proposed from beyond what every change is. */
export interface ImageUse {
  /** `office@3`. */
  readonly version: string;
  readonly customer: string;
  readonly environment: string;
  readonly environmentId: string;
  readonly pool: string;
  readonly hosts: number;
}

/** A resource that we know, wanted or on its way out, with what was allocated to it. */
export interface KnownResource {
  readonly id: string;
  readonly key: string;
  readonly kind: string;
  readonly name: string;
  readonly attributes: Attributes;
  /** Keys of what must stand before it. */
  readonly needs: readonly string[];
  /** Grows each time something else is wanted of it. */
  readonly version: number;
  readonly wanted: boolean;
  /** Whether a run has steps on it that have not ended: what is there may still change. */
  readonly unsettled: boolean;
  /** Whether something is done to it once a run's window comes; left out: no. */
  readonly awaited?: boolean | undefined;
  /** People signed in on it now. */
  readonly people: number;
}

/** What was taken out of use and is kept for its data, until a day. */
export interface RetainedResource {
  readonly id: string;
  readonly kind: string;
  readonly name: string;
  readonly attributes: Attributes;
  readonly version: number;
  readonly until: Instant;
}

/** What the provider says is there. */
export interface PresentFacts {
  readonly ref: string;
  readonly kind: string;
  readonly name: string;
  /** The resource it is, by reference or by our tags; null: none that we know. */
  readonly key: string | null;
  readonly condition: Condition;
  readonly attributes: Attributes;
}

export const CONDITIONS = ['building', 'well', 'unwell'] as const;
export type Condition = (typeof CONDITIONS)[number];

export interface EnvironmentFacts {
  readonly id: string;
  readonly version: number;
  readonly wanted: 'serving' | 'retired';
  readonly intent: Intent;
  /** Whether another environment of the customer at this site still wants what they share. */
  readonly shares: boolean;
  /** The intent of an earlier version, where the change looks back to one. */
  readonly earlier?: Intent;
}

/** Somebody of the customer's directory whom a change names. */
export interface NamedAccount {
  readonly account: string;
  /** Our id of the person who has it now. */
  readonly person: string;
}

/** The facts that a change is proposed from; the same in the browser and on the server. */
export interface Facts {
  readonly now: Instant;
  /** What needs another's word of whoever asks now; undefined: nothing does. */
  readonly approval?: (ApprovalRule & { readonly begun?: number | undefined }) | undefined;
  readonly customer: CustomerFacts;
  readonly site: SiteFacts;
  readonly rates: readonly Rate[];
  /** The template that an environment is made from or came from, at its newest published revision. */
  readonly template?: {
    readonly code: string;
    readonly revision: number;
    readonly document: TemplateDocument;
  };
  /** Accounts that the change names and the directory knows. */
  readonly accounts?: readonly NamedAccount[] | undefined;
  /** Of the groups and people that a change names, those that are the customer's. */
  readonly grantees?: readonly Grantee[] | undefined;
  /** The environment's resources, and those that it has together with others at its site. */
  readonly known: readonly KnownResource[];
  readonly present: readonly PresentFacts[];
  /** What is set otherwise of its hosts; left out: nothing. */
  readonly overrides?: readonly Override[] | undefined;
  /** Undefined: there is none yet. */
  readonly environment?: EnvironmentFacts;
  /** Whether the environment was ever there for people; left out: it was not, or nobody asked. */
  readonly served?: boolean | undefined;
  /** What is retained of the environment. */
  readonly retained?: readonly RetainedResource[] | undefined;
  /** Codes of all images that are made here, whosesoever: each is used once. Never told outside. */
  readonly imagesTaken?: readonly string[] | undefined;
  /** Where an image is changed: who stands on its versions, and which sites there are. */
  readonly image?: {
    readonly uses: readonly ImageUse[];
    /** Names of the secrets that recipes may refer to. */
    readonly secrets?: readonly string[] | undefined;
    /** Steps that recipes may use, as YAML by name. */
    readonly saved?: SavedSteps | undefined;
    readonly sites: readonly {
      readonly code: string;
      readonly name: string;
      readonly signIn: { readonly worked: boolean; readonly says: string };
    }[];
  };
}

/** What a change of an environment's hosts alone is proposed from: nothing outside is asked for it. */
export interface HostFacts extends Pick<
  Facts,
  'now' | 'approval' | 'rates' | 'known' | 'present' | 'overrides'
> {
  readonly customer: Pick<CustomerFacts, 'code' | 'currency' | 'zone' | 'state'>;
  readonly site: Pick<SiteFacts, 'code' | 'sizes' | 'durations'>;
  readonly environment?: Pick<EnvironmentFacts, 'id' | 'version' | 'wanted' | 'intent'>;
}
