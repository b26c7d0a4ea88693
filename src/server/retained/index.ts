export { IS_RETAINED, listRetained, RETAINED_IN_RECORD, retainedOf } from './read';
