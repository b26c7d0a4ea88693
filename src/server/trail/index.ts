export { writeTrail, type TrailEntry } from './write';
export { listTrail, trailOfName, trailOfPerson } from './read';
