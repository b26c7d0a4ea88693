export type { DirectoryGroup, DirectoryPerson, DirectoryRead, PersonRow } from './row';
export { headerFault, PEOPLE_COLUMNS, readPeople, type FileRow, type PeopleRead } from './file-rows';
export { reached, wayTo, type Reached } from './closure';
export {
  asksFirst,
  comparePeople,
  MOST_LEAVING,
  type Change,
  type Comparison,
  type KnownPerson,
} from './compare';
export {
  countDirectory,
  groupsInScope,
  isEverything,
  peopleInScope,
  type Counted,
  type CountedGroup,
  type DirectoryScope,
} from './scope';
