import type { Change } from '../../planning';
import { assignDesktops } from './assign';
import { dropDisks, endDesktops, giveBack, keepDesktops } from './leave';
import { moveDesktop } from './move';
import { rebuildDesktops } from './rebuild';

/** What may be done with desktops of people's own. */
export const DESKTOP_CHANGES: readonly Change[] = [
  assignDesktops,
  moveDesktop,
  rebuildDesktops,
  keepDesktops,
  giveBack,
  endDesktops,
  dropDisks,
];

export { DATA_CHOICES } from './move';
