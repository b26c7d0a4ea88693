export type {
  FeedPage,
  MakeAsk,
  Operation,
  PresentResource,
  OpenedSession,
  SessionManner,
  PresentSession,
  Program,
  Provider,
  ProviderPrices,
  ProviderSite,
  SessionChange,
  TagFilter,
  Tags,
} from './port';
export { httpProvider } from './http';
export { noteOddity, noteSeen } from './oddity';
export { atEach } from './at-each';
export { tryConnection } from './tries';
export { pricesInForce, pricesView, ratesOfProviders, takePrices, type Standing } from './prices';
export { lockSites, moveFeedPlace, moveSessionPlace, noteAnswer, noteReadUntil, toldPrices } from './store';
export {
  connectProvider,
  getProvider,
  listProviders,
  openProviders,
  readSites,
  sealProvidersAnew,
  trySignIn,
  type Connected,
  type Providers,
} from './service';
