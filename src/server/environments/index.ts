export { proofOf } from './proof';
export { endEnvironment, namesOfEnvironment } from './end';
export { hostOf, hostsOfCustomers, listHosts } from './hosts';
export { differencesOf, getEnvironment, listEnvironments } from './read';
export { originOf, tagsOfEnvironment } from './origin';
