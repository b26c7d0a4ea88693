export { proposeHere, provision, stampOf, type ProvisionRequest, type StampedProposal } from './provision';
export { proposeRetirement, retire, type RetireProposal } from './retire';
export { proofOf, type Proof, type ProofRow } from './proof';
export { changeHosts, type HostChange } from './power';
export {
  getEnvironment,
  listEnvironments,
  listHosts,
  type EnvironmentRow,
  type EnvironmentView,
  type HostRow,
} from './read';
