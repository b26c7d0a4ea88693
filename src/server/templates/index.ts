export {
  countUses,
  documentOf,
  listTemplates,
  newestRevision,
  readRevision,
  readTemplate,
  templatesFor,
  usesOfTemplate,
  type NewestRevision,
} from './read';
export { addRevision, forgetTemplates } from './write';
