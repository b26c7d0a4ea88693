export {
  LIMITS,
  LIMIT_WORDS,
  NO_AMOUNTS,
  NO_LIMITS,
  writeAmount,
  type Allowance,
  type Amounts,
  type Limit,
  type Most,
  type PlanFacts,
  type PlanFee,
  type PlanTerms,
} from './terms';
export { addAmounts, limitsPassed, mostOf, takenBy, type Passed } from './use';
export { dearerBy, dearerFor, feeIn, type Standing } from './fee';
export { planReminders } from './remind';
export { compareTerms, type TermDifference } from './compare';
export { moveFindings, takenTogether, type MoveFinding, type PlannedEnvironment } from './move';
