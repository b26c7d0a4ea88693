export { carryOnParents, type ParentWork } from './carry-on';
export { createParent, type NewPart } from './create';
export type { About, ParentKind, PartMade } from './kind';
export { getParent, listParents, newestParent, parentsAtWork, stoppedParents } from './read';
