import type { Facts } from '../../facts';
import type { Intent } from '../../intent';
import { good, type PlanCheck } from './shape';

/** Programs on the images that need a licence for each person, and for how many people that is more than before. */
export const licences: PlanCheck = {
  key: 'licences',
  title: 'Licences to have',
  finds: ({ before, after, facts }) => {
    const [were, are] = [licencesOf(before, facts), licencesOf(after, facts)];
    const more = [...are].flatMap(([program, people]) => {
      const added = people - (were.get(program) ?? 0);
      return added > 0 ? [`${program} for ${added === 1 ? '1 person' : `${added} people`}`] : [];
    });
    return more.length === 0 ? undefined : good(more.join(', '));
  },
};

function licencesOf(intent: Intent | null, { site }: Facts): Map<string, number> {
  const counted = new Map<string, number>();
  for (const { image, people } of intent?.pools ?? [])
    for (const program of site.images.find(({ name }) => name === image)?.of?.licences ?? [])
      counted.set(program, (counted.get(program) ?? 0) + people);
  return counted;
}
