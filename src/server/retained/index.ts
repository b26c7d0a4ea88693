export { IS_RETAINED, listRetained, RETAINED_IN_RECORD, retainedOf, retainedRefs } from './read';
