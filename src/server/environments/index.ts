export { proofOf, type Proof, type ProofRow } from './proof';
export { endEnvironment, namesOfEnvironment } from './end';
export { hostsOfCustomers, listHosts, type HostRow } from './hosts';
export {
  differencesOf,
  getEnvironment,
  listEnvironments,
  type DifferenceRow,
  type EnvironmentRow,
  type EnvironmentView,
  type PoolView,
} from './read';
