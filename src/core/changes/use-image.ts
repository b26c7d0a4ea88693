import Joi from 'joi';
import type { Facts, ImageFacts } from '../facts';
import { IMAGE_TRACKS, patchHosts, withPool, type ImageTrack, type PoolIntent } from '../intent';
import { defineChange, passes, warns, type Check } from '../planning';
import { ok, refuse } from '../result';
import { nameOf, poolField, poolIn } from './common';
import { isHostOf } from '../resources';

interface UseImage {
  readonly pool: string;
  /** An image of the provider's, or a version of ours: `office@3`. */
  readonly image: string;
  /** Of a version of ours: which of its line the pool follows from now on. */
  readonly track?: ImageTrack;
}

const DRAIN = {
  minutes: 15,
  message: 'This desktop is about to be made anew. Please save, sign out and sign in again.',
};

/** Makes a pool's hosts anew of another image or version, in waves, drained first. Going back is the same. */
export const useImage = defineChange<UseImage>({
  kind: 'use-image',
  subject: 'environment',
  of: 'customers',
  verb: 'Use another image',
  input: Joi.object<UseImage>({
    pool: poolField,
    image: Joi.string().max(80).required().description("An image of the provider's, or a version of ours"),
    track: Joi.string()
      .valid(...IMAGE_TRACKS)
      .description('Of a version of ours: which of its line the pool follows'),
  }),
  right: 'build',
  confirm: 'press',
  touches: ['ready'],
  // What is on a host alone goes when it is rebuilt.
  destroys: true,
  undo: 'by difference',
  title: ({ pool, image }, facts) => `Make ${pool} of ${nameOf(facts)} anew of ${image}`,
  edit: (intent, { pool: role, image, track }, { site }) => {
    const found = poolIn(intent, role);
    if (!found.ok) return found;
    if (found.value.pool.image === image) return refuse({ image: `${role} has it already` });
    const known = imageNamed(site, image);
    if (known?.of?.state === 'dropped') return refuse({ image: 'was dropped' });
    return ok(withPool(found.value.intent, role, (pool) => onImage(pool, image, known, track)));
  },
  policy: ({ pool }, facts) => {
    const hosts = facts.known.filter((one) => one.wanted && isHostOf(one, pool)).length;
    return { atATime: 5, failureLimit: 1, waves: Math.max(1, Math.ceil(hosts / 2)), drain: DRAIN };
  },
  checks: (_edited, { image }, { site }): Check[] => {
    const of = imageNamed(site, image)?.of;
    if (of === undefined) return [];
    return [
      of.state === 'trial'
        ? warns('trial', 'Version', `${image} is on trial`, 'Let a pilot pool have it first.')
        : passes('trial', 'Version', `${image} is ${of.state}`),
    ];
  },
});

const imageNamed = ({ images, imagesElsewhere = [] }: Facts['site'], name: string): ImageFacts | undefined =>
  [...images, ...imagesElsewhere].find((one) => one.name === name);

/** Hosts made anew are made of the image, whatever they came of. */
function onImage(
  { line: _line, track: before, ...pool }: PoolIntent,
  image: string,
  known: ImageFacts | undefined,
  track: ImageTrack | undefined,
): PoolIntent {
  const follows = known?.of ? { line: known.of.line, track: track ?? before ?? 'current' } : {};
  return { ...patchHosts(pool, { ready: undefined }), image, ...follows };
}
