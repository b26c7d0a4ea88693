import type { Change } from '../../planning';
import { buildImage, endBuild, goOn } from './build';
import { newImage } from './new-image';
import { refreshByRule } from './refresh';
import { writeRecipe } from './recipe';
import { copyImage, dropVersion, makeCurrent } from './versions';

/** What is done with images that are made here. */
export const IMAGE_CHANGES: readonly Change[] = [
  newImage,
  writeRecipe,
  buildImage,
  goOn,
  endBuild,
  makeCurrent,
  dropVersion,
  copyImage,
  refreshByRule,
];
