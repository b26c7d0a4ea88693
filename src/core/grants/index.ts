export {
  GRANT_COLUMNS,
  grantHeaderFault,
  grantRows,
  readGrants,
  type GrantsRead,
  type PoolGrant,
} from './file-rows';
export { grantLine, grantsFor, holdsAt, isSameGrant, toEveryone, withGrants } from './grant';
export {
  entitled,
  grantedTo,
  groupsOf,
  seated,
  type Granted,
  type GranteeFacts,
  type GroupFacts,
  type Groups,
  type Offer,
} from './effective';
export {
  missingLink,
  ownHost,
  whyOf,
  WHY_LINKS,
  WHY_MENDS,
  type HostFacts,
  type Link,
  type WhyFacts,
  type WhyLink,
} from './why';
