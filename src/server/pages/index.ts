export { signInByForm } from './form';
export { health, type Health } from './health';
export { firstPage, marksOf, unlessMissing, visit, visitCustomer } from './visit';
