export { signInByForm } from './form';
export { ownPath } from './own-path';
export { health, type Health } from './health';
export { firstPage, unlessMissing, visit, visitCustomer } from './visit';
