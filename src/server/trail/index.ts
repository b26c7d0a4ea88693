export { writeTrail, type TrailEntry } from './write';
export { listTrail, trailOfPerson } from './read';
