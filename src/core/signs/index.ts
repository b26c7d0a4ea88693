export { gatherSigns, peopleHit, urgency, type Gathered, type HostSign, type NodeFacts } from './gather';
export {
  HARMS,
  LIMITS,
  SIGN_KEYS,
  SIGN_KINDS,
  signKind,
  signsOf,
  type Harm,
  type Sign,
  type SignKey,
  type SignKind,
} from './kinds';
export {
  BEAT_MS,
  MISSED_BEATS,
  commonAgent,
  compareReleases,
  type Among,
  type Heard,
  type Vitals,
} from './vitals';
