import { builder } from './builder';
import { gateway } from './gateway';
import { host } from './host';
import { image } from './image';
import type { ResourceKind } from './kind';
import { network } from './network';
import { peering } from './peering';
import { personalDisk } from './personal-disk';
import { pool } from './pool';
import { publication } from './publication';
import { services } from './services';
import { share } from './share';
import { subnet } from './subnet';

/** Every kind of resource, each after what it allocates from. A new kind is one file and its line here. */
export const RESOURCE_KINDS: readonly ResourceKind[] = [
  network,
  subnet,
  services,
  peering,
  gateway,
  share,
  pool,
  personalDisk,
  host,
  publication,
  builder,
  image,
];

export { builderKey } from './builder';
export {
  claimsOf,
  onlyOne,
  quotasIn,
  roomIn,
  SPACES,
  valuesIn,
  vcpuOf,
  type Claim,
  type ClaimedAt,
  type QuotaClaim,
  type Room,
  type RoomClaim,
  type ValueClaim,
} from './claim';
export { gatewayKey } from './gateway';
export { isImage, recipeStep } from './image';
export { hostKey, isHost, isHostOf, moreHosts } from './host';
export { diskKey } from './personal-disk';
export { SERVICES } from './services';
export {
  ASKS,
  differing,
  PURPOSES,
  RETAIN,
  same,
  saysOf,
  type Ask,
  type Desk,
  type Difference,
  type Policy,
  type Purpose,
  type ResourceKind,
  type Retaining,
  type StepSpec,
  type Surroundings,
  type Task,
  type Wanted,
} from './kind';
