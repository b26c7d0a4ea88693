export {
  HOURS_A_MONTH,
  METERED,
  RATE_UNITS,
  rateFor,
  cutsAt,
  secondsPerUnit,
  unitOf,
  type Meter,
  type Rate,
  type RateUnit,
} from './rates';
export { charge, weigh, type Usage, type ChargeLine, type Charges } from './charge';
export {
  beyond,
  edgesOfIncluded,
  paidNeeds,
  secondsWithin,
  takenOff,
  type Included,
  type IncludedWhile,
} from './included';
export { markedUp, marginOf } from './markup';
export {
  partsOfPool,
  personTotal,
  PERSON_KEYS,
  type PersonKey,
  type PersonPart,
  type PoolMonth,
} from './people';
export { monthlyCost, type CostLine, type MeterNeed } from './monthly';
