import { builderWork } from './builder';
import { gatewayWork } from './gateway';
import { hostWork } from './host';
import { imageWork } from './image';
import { networkWork } from './network';
import { personalDiskWork } from './personal-disk';
import { peeringWork } from './peering';
import { poolWork } from './pool';
import { publicationWork } from './publication';
import { servicesWork } from './services';
import { shareWork } from './share';
import { subnetWork } from './subnet';
import type { ResourceWork } from './work';

/** How each kind of resource is worked on. A new kind is one file and its line here. */
export const RESOURCE_WORK: Readonly<Record<string, ResourceWork>> = {
  network: networkWork,
  subnet: subnetWork,
  services: servicesWork,
  peering: peeringWork,
  gateway: gatewayWork,
  share: shareWork,
  pool: poolWork,
  'personal-disk': personalDiskWork,
  host: hostWork,
  publication: publicationWork,
  builder: builderWork,
  image: imageWork,
};

export { FRAME_WORK, type FrameNow, type FrameWork } from './environment';
export {
  act,
  done,
  failed,
  make,
  only,
  presentOf,
  readPlainly,
  remove,
  set,
  wait,
  type EnvironmentNow,
  type Now,
  type NowOf,
  type Outcome,
  type ResourceNow,
  type ResourceWork,
  type StepNow,
  type StepWork,
} from './work';
