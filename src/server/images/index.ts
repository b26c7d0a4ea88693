export { imageFacts, imagesAt, imagesOf, standingVersions, usesOf } from './facts';
export { idleMachines } from './keep';
export { listImages } from './read';
