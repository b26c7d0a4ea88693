import type { HostStanding } from '../../core/standing';
import type { EnvironmentShort } from '../customer/Customer';

export interface HostFacts {
  readonly id: string;
  readonly name: string;
  readonly address: string;
  readonly node: string | null;
  readonly standing: HostStanding;
  readonly drift: readonly string[];
  readonly wantedPower: 'on' | 'off';
  readonly wantedAccepting: boolean;
  readonly present: string | null;
  readonly sessions: number;
  readonly seats: number;
  readonly version: number;
}

export interface EnvironmentFacts extends EnvironmentShort {
  readonly peopleIn: number;
  readonly seatsOpen: number;
  readonly drift: number;
  readonly network: string;
  readonly pool: {
    readonly name: string;
    readonly image: string;
    readonly size: string;
    readonly seats: number;
    readonly arrival: string;
    readonly diskGiB: number;
    readonly shareGiB: number;
    readonly subnet: string;
    readonly items: readonly { readonly name: string; readonly kind: string }[];
  };
}

export interface EnvironmentData {
  readonly environment: EnvironmentFacts;
  readonly hosts: readonly HostFacts[];
}
