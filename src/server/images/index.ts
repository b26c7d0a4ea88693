export { imageFacts, imagesAt, imagesOf, standingVersions, usesOf } from './facts';
export { dueImages, idleMachines, waitingPilots } from './keep';
export { listImages } from './read';
