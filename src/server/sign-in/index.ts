export { signIn, signOut, makeToken, SESSION_COOKIE, SESSION_MS } from './sign-in';
export { whoAsks } from './who';
export { scopeOfSession, scopeOfToken, scopeOfMail } from './scopes';
export { endToken, endWaysIn, listWaysIn, type WayIn } from './manage';
