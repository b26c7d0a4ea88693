export { imageFacts, imagesAt, imagesForTemplates, imagesOf, standingVersions, usesOf } from './facts';
export { dueImages, idleMachines, waitingPilots } from './keep';
export { listImages } from './read';
