export { addressSpace, type RangeView } from './addresses';
export { listSites, type SiteView } from './read';
export {
  listTemplates,
  newestRevision,
  usesOfTemplate,
  type TemplateUse,
  type TemplateView,
} from './templates';
export { askDirectory, provisionGround, type FullGround } from './facts';
export { ratesOf } from './rates';
