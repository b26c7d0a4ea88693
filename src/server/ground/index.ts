export { listSites, listTemplates, newestRevision, type SiteView, type TemplateView } from './read';
export { provisionGround, type FullGround } from './facts';
export { ratesOf } from './rates';
