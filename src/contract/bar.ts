import type { ClockView } from './clock';
import type { Role } from './roles';

/** What the bar of every page shows. */
export interface BarState {
  readonly who: string;
  readonly role: Role | 'system';
  readonly underWay: number;
  readonly clock: ClockView;
}
