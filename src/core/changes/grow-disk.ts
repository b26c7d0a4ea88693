import Joi from 'joi';
import { patchHosts, withPool } from '../intent';
import { defineChange } from '../planning';
import { ok, refuse } from '../result';
import { nameOf, poolField, poolIn } from './common';

interface GrowDisk {
  readonly pool: string;
  readonly diskGiB: number;
}

/** Makes the disks of a pool's hosts larger, grows the file systems on them, and measures both. Nobody is disturbed. */
export const growDisk = defineChange<GrowDisk>({
  kind: 'grow-disk',
  subject: 'environment',
  verb: 'Grow the disk',
  input: Joi.object<GrowDisk>({
    pool: poolField,
    diskGiB: Joi.number().integer().min(1).max(16_384).required().description('GiB on each host'),
  }),
  right: 'build',
  confirm: 'press',
  touches: ['diskGiB'],
  undo: 'none',
  title: ({ pool, diskGiB }, facts) => `Grow the disk of ${pool} of ${nameOf(facts)} to ${diskGiB} GiB`,
  edit: (intent, { pool: role, diskGiB }, facts) => {
    const found = poolIn(intent, role);
    if (!found.ok) return found;
    const { pool } = found.value;
    const image = facts.site.images.find((one) => one.name === pool.image);
    if (image && diskGiB < image.diskGiB)
      return refuse({ diskGiB: `${pool.image} alone takes ${image.diskGiB} GiB` });
    const largest = Math.max(pool.diskGiB, ...pool.hosts.map((host) => host.diskGiB ?? 0));
    if (diskGiB < largest)
      return refuse({ diskGiB: `it has ${largest} GiB, and a disk in use cannot be made smaller` });
    return ok(
      withPool(found.value.intent, role, (one) => ({ ...patchHosts(one, { diskGiB: undefined }), diskGiB })),
    );
  },
  policy: () => ({ atATime: 8, failureLimit: 2, waves: 10 }),
});
