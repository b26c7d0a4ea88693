export { httpProvider } from './http';
export {
  ProviderTrouble,
  type Ask,
  type FeedPage,
  type Operation,
  type Provider,
  type ProviderSite,
  type Seen,
  type SeenSession,
  type ResourceKind,
  type Tags,
} from './port';
export { openProvider, trySignIn, readGround, knownProvider } from './known';
