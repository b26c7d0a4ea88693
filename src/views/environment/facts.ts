import type { Difference, EnvironmentWithPools, Host } from '../../contract';
import type { MachineSize } from '../../core/sizing';

export interface EnvironmentData {
  readonly environment: EnvironmentWithPools;
  readonly hosts: readonly Host[];
  readonly differences: readonly Difference[];
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
