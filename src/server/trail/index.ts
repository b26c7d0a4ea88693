export { writeTrail, type TrailEntry } from './write';
export { noteTaken } from './taken';
export { listTrail, trailOfName, trailOfPerson } from './read';
