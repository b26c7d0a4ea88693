export { writeTrail, type TrailEntry } from './write';
export { listTrail, type TrailRow } from './read';
