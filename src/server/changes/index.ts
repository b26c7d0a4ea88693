export {
  beginChange,
  fingerprintOf,
  proposeChange,
  type Agreed,
  type Asked,
  type Begun,
  type FingerprintedProposal,
} from './begin';
export { askDirectory, knownResources, readFacts, type Subject } from './facts';
export { proposalView, type ProposalView, type TaskView } from './view';
