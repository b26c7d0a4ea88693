export { proofOf } from './proof';
export { endEnvironment, namesOfEnvironment } from './end';
export { hostOf, hostsOfCustomers, listHosts } from './hosts';
export { differencesOf, getEnvironment, listEnvironments, wholeEnvironment } from './read';
export { tagsOfEnvironment } from './origin';
