import type { MachineSize } from '../../core/machines';

/** A change that someone is about to make. */
export interface Changing {
  readonly kind: string;
  readonly verb: string;
  readonly what: string;
  readonly input: Readonly<Record<string, unknown>>;
  /** The field of the input that can still be chosen. */
  readonly field?: ChangeField;
  /** Further ones. */
  readonly more?: readonly ChangeField[];
  readonly danger?: boolean;
  /** Told when it was begun. */
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
      /** Several accounts, each on a line or with commas between them. */
      readonly name: string;
      readonly label: string;
      readonly type: 'accounts';
      readonly help?: string;
    }
  | {
      readonly name: string;
      readonly label: string;
      readonly type: 'text';
      readonly help?: string;
    }
  | {
      readonly name: string;
      readonly label: string;
      readonly type: 'yes';
      readonly help?: string;
    }
  | {
      /** A moment by the clock of a zone; left empty: none. */
      readonly name: string;
      readonly label: string;
      readonly type: 'moment';
      readonly zone: string;
      readonly help?: string;
    }
  | {
      readonly name: string;
      readonly label: string;
      readonly type: 'one';
      readonly options: readonly string[];
    }
  | {
      readonly name: string;
      readonly label: string;
      readonly type: 'size';
      readonly sizes: readonly MachineSize[];
    };
