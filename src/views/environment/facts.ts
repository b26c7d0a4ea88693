import type { HostStatus } from '../../core/status';
import type { MachineSize } from '../../core/sizing';
import type { EnvironmentShort } from '../customer/Customer';

export interface HostFacts {
  readonly id: string;
  readonly key: string;
  readonly pool: string;
  readonly name: string;
  readonly address: string;
  readonly node: string | null;
  readonly size: string;
  readonly diskGiB: number;
  readonly status: HostStatus;
  readonly drift: readonly string[];
  readonly sessions: number;
  readonly seats: number;
}

export interface PoolFacts {
  readonly role: string;
  readonly image: string;
  readonly size: string;
  readonly seats: number;
  readonly arrival: string;
  readonly diskGiB: number;
  readonly shareGiB: number;
  readonly people: number;
  readonly ceiling: number;
  readonly hosts: number;
  readonly subnet: string;
  readonly items: readonly { readonly name: string; readonly kind: string }[];
}

export interface EnvironmentFacts extends EnvironmentShort {
  readonly peopleIn: number;
  readonly seatsOpen: number;
  readonly drift: number;
  readonly network: string;
  readonly pools: readonly PoolFacts[];
}

export interface DifferenceFacts {
  readonly key: string;
  readonly kind: string;
  readonly name: string;
  readonly attribute: string | null;
  readonly what: 'missing' | 'extra' | 'otherwise';
  readonly says: string;
  readonly disturbs: boolean;
  readonly takeable: boolean;
}

export interface EnvironmentData {
  readonly environment: EnvironmentFacts;
  readonly hosts: readonly HostFacts[];
  readonly differences: readonly DifferenceFacts[];
}

/** A change that someone is about to make here. */
export interface Changing {
  readonly kind: string;
  readonly verb: string;
  readonly what: string;
  readonly input: Readonly<Record<string, unknown>>;
  /** The field that can still be chosen. */
  readonly field?: ChangeField;
  readonly danger?: boolean;
  readonly done?: () => void;
}

export type ChangeField =
  | {
      readonly name: string;
      readonly label: string;
      readonly type: 'number';
      readonly min: number;
      readonly max: number;
      readonly help?: string;
    }
  | {
      readonly name: string;
      readonly label: string;
      readonly type: 'size';
      readonly sizes: readonly MachineSize[];
    };
