export { listTemplates, newestRevision, usesOfTemplate } from './read';
export { addRevision } from './write';
