export { answer } from './router';
export { openApi } from './openapi';
export { health, type Health } from './health';
export { routesOf } from './table';
export type { Route } from './route';
export { cookieOf, isSecure, notePeer } from './request';
export { signInByForm } from './form';
export { firstPage, visit, visitCustomer, unlessMissing, marksOf } from './page';
