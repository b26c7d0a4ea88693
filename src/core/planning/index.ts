export { schedule, type Schedule, type Task } from './schedule';
export { impactLine, UNDO, type Impact } from './impact';
export {
  awaits,
  CHECK_STATES,
  blocks,
  mayBegin,
  mendedAt,
  passes,
  warns,
  type Check,
  type Fix,
} from './check';
export {
  defineChange,
  defineHostChange,
  policyWish,
  type Asked,
  type Base,
  type BoundChange,
  type Change,
  type ChangeSpec,
  type HostChange,
  type HostChangeSpec,
  type IntentChange,
  type Chosen,
  type FrameStep,
  type PolicyWish,
  type Refusal,
} from './change';
export { compare, differenceSays, extraKey, kindsByKey, presentByKey, type Compared } from './compare';
export { type ProposedStep } from './graph';
export { editedOf, type PlannedTask } from './tasks';
export { factsFor } from './facts-for';
export {
  claimedAt,
  isTakenFromSite,
  quotaWith,
  takenOf,
  takesOf,
  withKept,
  type Kept,
  type Takes,
} from './takes';
export { allocate, propose } from './propose';
export { proposeForHosts } from './host-proposal';
export { type Proposal } from './proposal';
export { timelineOf, type Bar, type Lane } from './timeline';
