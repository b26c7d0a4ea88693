export { makeApi, type Api } from './router';
export { openApi } from './openapi';
export { problemResponse } from './problem-response';
export {
  bearerOf,
  cookieOf,
  fromOf,
  isSameOrigin,
  isSecure,
  noteClient,
  readText,
  refuseForeign,
  safetyHeaders,
} from './request';
export { created, nothing, ok, reads, publicRoute, versioned, writes, type Route } from './route';
export { csvResponse, paged } from './list';
export { cookie } from './cookie';
export { hereOf, sent } from './redirect';
