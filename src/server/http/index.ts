export { answer } from './router';
export { openApi } from './openapi';
export { health, type Health } from './health';
export { ROUTES } from './table';
export { cookieOf, isSecure } from './request';
export { firstPage, visit, visitCustomer, unlessMissing, marksOf } from './page';
