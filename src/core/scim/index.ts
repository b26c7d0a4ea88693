export { filterOf, type ScimFilter } from './filter';
export { patched } from './patch';
export {
  ENTERPRISE_USER,
  ERROR,
  GROUP,
  LIST,
  MOST_ON_A_PAGE,
  PATCH,
  BULK,
  PLACE,
  ScimRefusal,
  USER,
  type ScimGroup,
  type ScimMember,
  type ScimMeta,
  type ScimPage,
  type ScimUser,
} from './resource';
export {
  answerScim,
  refusedScim,
  type ScimAnswer,
  type ScimEntries,
  type ScimKind,
  type ScimRequest,
  type ScimResource,
  type ScimSlice,
} from './service';
