import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  countDirectory,
  groupsInScope,
  peopleInScope,
  type DirectoryGroup,
  type DirectoryPerson,
} from '../../src/core/people';

const one = (account: string, unit: string, disabled = false): DirectoryPerson => ({
  id: account,
  account,
  given: account,
  family: '',
  mail: `${account}@svg.example`,
  unit,
  disabled,
});
const group = (id: string, people: string[], groups: string[] = [], unit = ''): DirectoryGroup => ({
  id,
  name: id,
  unit,
  people,
  groups,
});

const PEOPLE = [
  one('a', 'Clinics/North'),
  one('b', 'Clinics/South'),
  one('c', 'Clinics/South', true),
  one('d', 'Office'),
  one('e', 'Clinics-old'),
  one('f', ''),
];
const READ = {
  people: PEOPLE,
  groups: [group('vets', ['a', 'b', 'f']), group('night', ['b', 'd']), group('all', ['e'], ['vets', 'all'])],
};
const accounts = (units: string[], groups: string[]): string =>
  peopleInScope(READ, { units, groups })
    .inScope.map((person) => person.account)
    .join('');

describe('the scope of a directory', () => {
  it.each([
    [[], [], 'abdef'],
    [['Clinics'], [], 'ab'],
    [['Clinics/South'], [], 'b'],
    [['clinics'], [], ''],
    [[], ['night'], 'bd'],
    [['Clinics/North'], ['night'], 'abd'],
    [[], ['all'], 'abef'],
    [['Nowhere'], [], ''],
  ])('of units %j and groups %j brings %s', (units, groups, expected) =>
    expect(accounts(units, groups)).toBe(expected),
  );

  it('counts who is switched off, and who stays outside, apart', () =>
    expect(peopleInScope(READ, { units: ['Clinics'], groups: [] })).toMatchObject({
      disabled: 1,
      outside: 3,
    }));

  it('counts nobody in a unit where only groups stand, and names it all the same', () => {
    const groups = [{ id: 'g', name: 'Locums', unit: 'Partners/Locums', people: [], groups: [] }];
    expect(countDirectory({ people: [], groups }).units).toEqual([
      { name: 'Partners', people: 0 },
      { name: 'Partners/Locums', people: 0 },
    ]);
  });

  it('is told with how many each unit holds with all below it', () =>
    expect(countDirectory(READ)).toEqual({
      units: [
        { name: 'Clinics', people: 2 },
        { name: 'Clinics-old', people: 1 },
        { name: 'Clinics/North', people: 1 },
        { name: 'Clinics/South', people: 1 },
        { name: 'Office', people: 1 },
      ],
      groups: [
        { id: 'all', name: 'all', unit: '', people: 4 },
        { id: 'night', name: 'night', unit: '', people: 2 },
        { id: 'vets', name: 'vets', unit: '', people: 3 },
      ],
    }));

  it('counts of a group only those who are there', () => {
    const groups = [group('late', ['a', 'c', 'nobody'])];
    expect(countDirectory({ people: PEOPLE, groups }).groups).toMatchObject([{ people: 1 }]);
  });

  it('is listed as people count, by number', () => {
    const people = [one('a', 'Ward 10'), one('b', 'Ward 2')];
    expect(countDirectory({ people, groups: [] }).units.map(({ name }) => name)).toEqual([
      'Ward 2',
      'Ward 10',
    ]);
  });

  it('loses and doubles nobody', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            unit: fc.constantFrom('A', 'A/B', 'A/B/C', 'D', ''),
            group: fc.constantFrom('x', 'y'),
            off: fc.boolean(),
          }),
        ),
        fc.subarray(['A', 'A/B', 'D']),
        fc.subarray(['x', 'y']),
        (rows, units, groups) => {
          const people = rows.map(({ unit, off }, n) => one(`p${n}`, unit, off));
          const within = (name: string): DirectoryGroup =>
            group(
              name,
              people.filter((_one, n) => rows[n]?.group === name).map(({ id }) => id),
            );
          const read = { people, groups: [within('x'), within('y')] };
          const { inScope, disabled, outside } = peopleInScope(read, { units, groups });
          expect(inScope.length + disabled + outside).toBe(people.length);
          expect(new Set(inScope).size).toBe(inScope.length);
        },
      ),
    ));

  it.each([
    [[], [], 'all clinic night vets'],
    [['Clinics'], [], 'clinic'],
    [[], ['all'], 'all vets'],
    [[], ['night', 'no such'], 'night'],
    [['Elsewhere'], [], ''],
  ])('of units %j and groups %j reads the groups %s', (units, groups, expected) => {
    const all = [...READ.groups, group('clinic', ['a'], [], 'Clinics/North')];
    expect([...groupsInScope(all, { units, groups })].sort().join(' ')).toBe(expected);
  });

  it('brings nobody for a group that only stands in one of its units', () =>
    expect(
      peopleInScope(
        { people: PEOPLE, groups: [group('clinic', ['d'], [], 'Clinics')] },
        { units: ['Clinics'], groups: [] },
      ).inScope.map(({ account }) => account),
    ).toEqual(['a', 'b']));
});
