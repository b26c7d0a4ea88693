export { type ProvisionGround, type SiteGround, type CustomerGround, type PlanLimits } from './ground';
export { checkTemplate, type TemplateSpec, type PublishedItem } from './template';
export { type ProvisionWish } from './wish';
