export { listPlans, newestAt, planNow, planVersionsOf } from './read';
export { keepPlan } from './write';
export { moveEach, proposeMoves } from './moves';
export { beyondPlan, customerPlan, peopleOf, planFactsOf, promisedTo } from './held';
export { moveToPlan, putOnPlan } from './move';
export { planFeeNow, planFees, type PlanFees } from './fees';
export { endAllowances } from './allowances';
