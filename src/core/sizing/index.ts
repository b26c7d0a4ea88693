export {
  benchOf,
  carriedBy,
  judgePool,
  measuredConcurrency,
  mixOf,
  packedHosts,
  POOL_VERDICTS,
  type BenchPoint,
  type BenchQuestion,
  type OfferedSize,
  type PoolVerdict,
  type WorkGroup,
} from './bench';
export { blocking, spareSeats } from './erlang';
export { needsWith, type ProfileNeed } from './needs';
export {
  compareSizes,
  DISK_OPERATIONS_A_HOST,
  hostsFor,
  isPersonal,
  peakOf,
  PROFILE_KEYS,
  seatsOn,
  SYSTEM_MEMORY_GIB,
  WORK_PROFILES,
  type Alternative,
  type ProfileKey,
  type Resource,
  type SeatCount,
  type SizingAnswer,
  type SizingQuestion,
  type WorkProfile,
} from './sizes';
