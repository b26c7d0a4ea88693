export * from './model';
export { editLines } from './edits';
export {
  BONDS,
  hostEdits,
  lastDiskOf,
  patchHost,
  patchHosts,
  rememberingDisks,
  type HostEdit,
  type HostPatch,
  type HostTouch,
} from './hosts';
