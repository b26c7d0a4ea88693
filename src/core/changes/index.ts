import type { Change } from '../planning';
import { addHosts } from './add-hosts';
import { CARE_CHANGES } from './care';
import { DESKTOP_CHANGES } from './desktops';
import { dropRetained } from './drop-retained';
import { followTemplate } from './follow-template';
import { grantItems } from './grant';
import { growDisk } from './grow-disk';
import { IMAGE_CHANGES } from './images';
import { mend } from './mend';
import { provision } from './provision';
import { publishItems } from './publish';
import { resize } from './resize';
import { retire } from './retire';
import { retirePool } from './retire-pool';
import { drain, followOverrides, powerOff, powerOn, putBack } from './switch-hosts';
import { joinServices, provideServices } from './services';
import { serveCertificate } from './serve-certificate';
import { changeStock, shelve, stockShelf } from './shelf';
import { takeHosts } from './take-hosts';
import { undo } from './undo';
import { useImage } from './use-image';

/** Everything that people ask for. A new change is one file and its line here. */
export const CHANGES: readonly Change[] = [
  provision,
  addHosts,
  takeHosts,
  resize,
  growDisk,
  useImage,
  grantItems,
  publishItems,
  followTemplate,
  powerOn,
  powerOff,
  drain,
  putBack,
  followOverrides,
  mend,
  undo,
  retire,
  retirePool,
  dropRetained,
  joinServices,
  provideServices,
  serveCertificate,
  stockShelf,
  changeStock,
  shelve,
  ...CARE_CHANGES,
  ...DESKTOP_CHANGES,
  ...IMAGE_CHANGES,
];

export { outAtOnce } from './care';
export { DATA_CHOICES, DESKTOP_CHANGES } from './desktops';
export { IMAGE_CHANGES } from './images';
export { READY, stockOf } from './shelf';
export {
  filledTemplate,
  provision,
  sizePools,
  type PoolChoice,
  type ProvisionInput,
  type SizedPool,
} from './provision';
export { retire } from './retire';
export { followOverrides } from './switch-hosts';

/** The change of the same hosts that undoes a change of hosts; undefined: none does. */
export function undoneByOf(kind: string): string | undefined {
  const change = CHANGES.find((one) => one.kind === kind);
  return change?.takes === 'facts of hosts' ? change.undoneBy : undefined;
}
