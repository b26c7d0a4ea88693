export { listTemplates, newestRevision, usesOfTemplate, type TemplateUse, type TemplateView } from './read';
export { addRevision, type NewRevision } from './write';
