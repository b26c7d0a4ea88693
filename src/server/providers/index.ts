export type {
  FeedPage,
  MakeAsk,
  Operation,
  PresentResource,
  PresentSession,
  Provider,
  ProviderPrices,
  ProviderSite,
  TagFilter,
  Tags,
} from './port';
export { httpProvider } from './http';
export { moveFeedPlace, noteAnswer, noteReadUntil, pricesOf } from './store';
export {
  connectProvider,
  getProvider,
  listProviders,
  openProviders,
  readSites,
  trySignIn,
  type Connected,
  type Providers,
} from './service';
