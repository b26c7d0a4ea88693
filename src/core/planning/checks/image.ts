import { copySeconds } from '../../images';
import type { Fix } from '../check';
import { bad, good, making, type Found, type Plan, type PlanCheck } from './shape';

/** Whether what hosts are made of is at the site, and fits on their disks. */
export const image: PlanCheck = {
  key: 'image',
  title: 'Image',
  fix: { of: 'everyone', page: 'build/images', says: 'Images' },
  finds: (plan) => {
    const wanted = new Map(
      making(plan).flatMap(({ task }) => {
        if (!('wanted' in task) || typeof task.wanted.attributes.image !== 'string') return [];
        return [[task.wanted.attributes.image, Number(task.wanted.attributes.diskGiB)] as const];
      }),
    );
    for (const [name, diskGiB] of wanted) {
      const fault = faultOf(plan, name, diskGiB);
      if (fault) return fault;
    }
    return wanted.size === 0
      ? undefined
      : good(`${[...wanted.keys()].join(', ')} at ${plan.facts.site.name}`);
  },
};

function faultOf({ facts: { site } }: Plan, name: string, diskGiB: number): Found | undefined {
  const there = site.images.find((one) => one.name === name);
  if (there)
    return diskGiB < there.diskGiB
      ? bad(`${name} needs ${there.diskGiB} GiB, the disk has ${diskGiB} GiB`, 'Take a larger disk.')
      : undefined;
  const isLine = [...site.images, ...(site.imagesElsewhere ?? [])].some(({ of }) => of?.line === name);
  if (isLine)
    return bad(
      `${name} has no current version`,
      'Make one of its versions current, or choose another image.',
    );
  const own = site.imagesElsewhere?.find((one) => one.name === name);
  const says = `${name} is not at ${site.name}`;
  if (!own) return bad(says, 'Choose another image, or another site.');
  return { ...bad(says, copySays(own.diskGiB)), ...copyIt(name, site.code) };
}

/** That a copy is what is missing, and how long that takes. */
const copySays = (gib: number): string =>
  `Copy it there first: about ${Math.max(1, Math.round(copySeconds(gib) / 60))} min.`;

/** @param name `office@3` */
function copyIt(name: string, site: string): { readonly fix?: Fix } {
  const [line = '', number] = name.split('@');
  return number === undefined
    ? {}
    : { fix: { of: 'everyone', page: `build/images/${line}?copy=${number}&to=${site}`, says: 'Copy it…' } };
}
