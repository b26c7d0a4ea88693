export { writeTrail, type TrailEntry } from './write';
export { noteDownload } from './download';
export { listTrail, trailOfName, trailOfPerson } from './read';
