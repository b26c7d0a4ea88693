import { describe, expect, it } from 'vitest';
import type { Facts } from '../../src/core/facts';
import { carriedOut, facts, input, poolSpec, proposed, spec } from './setup/facts';
import { standing } from './situations/standing';

const version = (number: number, licences: readonly string[]) => ({
  name: `office@${number}`,
  diskGiB: 96,
  of: {
    line: 'office',
    number,
    state: number === 2 ? 'trial' : 'current',
    at: 0,
    licences,
    programs: [],
  } as const,
});
const images = [version(1, ['Tallybrook']), version(2, ['Tallybrook', 'Contourwick'])];
const on = (from: Facts): Facts => ({
  ...from,
  site: { ...from.site, images: [...from.site.images, ...images] },
});
const says = (kind: string, asked: object, from: Facts): string | undefined =>
  proposed(kind, asked, from).checks.find((one) => one.key === 'licences')?.says;

describe('programs that need a licence for each person', () => {
  const twoPools = on({
    ...facts,
    template: {
      code: 'shared-office',
      revision: 1,
      document: {
        ...spec,
        pools: [
          { ...poolSpec, image: 'office' },
          { ...poolSpec, role: 'pilot', image: 'office', track: 'trial', people: '=people * 0.25' },
        ],
      },
    },
  });

  it('are counted over all the pools whose images hold them', () =>
    expect(says('provision', { ...input, people: 12 }, twoPools)).toBe(
      'Tallybrook for 15 people, Contourwick for 3 people',
    ));

  it('are told when another image brings them, and only what is more than before', () => {
    const before = on(standing);
    const people = standing.environment?.intent.pools[0]?.people ?? 0;
    expect(says('use-image', { pool: 'desks', image: 'office@1' }, before)).toBe(
      `Tallybrook for ${people} people`,
    );
    expect(says('add-hosts', { pool: 'desks', hosts: 1 }, before)).toBeUndefined();
  });

  it('are told of the people that come to be more, and not of those before', () => {
    const made = carriedOut(proposed('provision', { ...input, people: 12 }, twoPools), twoPools);
    const [desks, pilot] = made.environment?.intent.pools ?? [];
    if (!made.environment || !desks || !pilot) throw new Error('two pools stand');
    const before: Facts = {
      ...made,
      environment: {
        ...made.environment,
        intent: { ...made.environment.intent, pools: [desks, { ...pilot, image: 'Ostrel 12 multi-user' }] },
      },
    };
    expect(says('use-image', { pool: 'pilot', image: 'office@1' }, before)).toBe('Tallybrook for 3 people');
  });

  it('are none on images that are not marked', () => expect(says('provision', input, facts)).toBeUndefined());
});
