export { signIn, signOut, makeToken, SESSION_COOKIE, SESSION_MS } from './sign-in';
export { BROWSER_COOKIE } from './browser';
export { ownPath } from './own-path';
export type { OutsideRefusal } from './outside';
export { whoAsks } from './who';
export { countFrom } from './tries';
export { scopeOfOperator, scopeOfSession, scopeOfToken, scopeOfMail } from './scopes';
export { isFactorRequired, factorOf, dropFactorByMail, sealFactorsAnew } from './factor';
export { endToken, endWaysIn, listTokens, listWaysIn, type WayIn } from './manage';
