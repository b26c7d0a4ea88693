import type { ClockView } from './clock';
import type { Right } from './roles';

/** What the bar of every page shows. */
export interface BarState {
  readonly who: string;
  /** What they are called here. */
  readonly role: string;
  readonly rights: readonly Right[];
  readonly underWay: number;
  readonly clock: ClockView;
}
