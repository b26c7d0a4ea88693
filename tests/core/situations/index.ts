import { OF_DESKTOPS } from './desktops';
import { OF_DIFFERENCES } from './differences';
import { FOLLOWING } from './follow';
import { OF_GRANTS } from './grants';
import { OF_HOSTS } from './hosts';
import { OF_IMAGES } from './images';
import { NEW_ENVIRONMENTS } from './new-environments';
import { OF_RETAINED } from './retained';
import type { Case } from './standing';
import { OF_WHOLES } from './wholes';

/** Every change in many situations. */
export const CASES: readonly Case[] = [
  ...NEW_ENVIRONMENTS,
  ...OF_HOSTS,
  ...OF_DIFFERENCES,
  ...OF_WHOLES,
  ...OF_IMAGES,
  ...FOLLOWING,
  ...OF_DESKTOPS,
  ...OF_GRANTS,
  ...OF_RETAINED,
];
