export { writeTrail, type TrailEntry } from './write';
export { listTrail } from './read';
