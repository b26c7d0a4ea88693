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
export { addRevision, forgetTemplates, publish, publishingOf, type Publishing } from './write';
