export { STEP_KINDS, PROVISION_STAGES, expectedSeconds, type StepKind, type ProposedStep } from './steps';
export { schedule, finishTime, type Schedule } from './schedule';
export { proposeProvision, type ProvisionProposal, type ProposedHost } from './provision';
export { proposePower, POWER_AT_A_TIME, type PowerChange } from './power';
export { impactLine, type Impact } from './impact';
