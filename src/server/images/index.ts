export {
  everyImage,
  imageCodes,
  imageFacts,
  imagesAt,
  imagesForTemplates,
  imagesInReach,
  type StoredImage,
} from './facts';
export { dueImages, idleMachines, waitingPilots } from './keep';
export { listImages } from './read';
