import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { countDirectory, peopleInScope, type DirectoryPerson } from '../../src/core/people';

const one = (account: string, unit: string, groups: string[] = [], disabled = false): DirectoryPerson => ({
  account,
  given: account,
  family: '',
  mail: `${account}@svg.example`,
  unit,
  groups,
  disabled,
});

const PEOPLE = [
  one('a', 'Clinics/North', ['vets']),
  one('b', 'Clinics/South', ['vets', 'night']),
  one('c', 'Clinics/South', [], true),
  one('d', 'Office', ['night']),
  one('e', 'Clinics-old', []),
  one('f', '', ['vets']),
];
const accounts = (units: string[], groups: string[]): string =>
  peopleInScope(PEOPLE, { units, groups })
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
    [['Nowhere'], [], ''],
  ])('of units %j and groups %j brings %s', (units, groups, expected) =>
    expect(accounts(units, groups)).toBe(expected),
  );

  it('counts who is switched off, and who stays outside, apart', () =>
    expect(peopleInScope(PEOPLE, { units: ['Clinics'], groups: [] })).toMatchObject({
      disabled: 1,
      outside: 3,
    }));

  it('is told with how many each unit holds with all below it', () =>
    expect(countDirectory(PEOPLE)).toEqual({
      units: [
        { name: 'Clinics', people: 2 },
        { name: 'Clinics-old', people: 1 },
        { name: 'Clinics/North', people: 1 },
        { name: 'Clinics/South', people: 1 },
        { name: 'Office', people: 1 },
      ],
      groups: [
        { name: 'night', people: 2 },
        { name: 'vets', people: 3 },
      ],
    }));

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
          const people = rows.map(({ unit, group, off }, n) => one(`p${n}`, unit, [group], off));
          const { inScope, disabled, outside } = peopleInScope(people, { units, groups });
          expect(inScope.length + disabled + outside).toBe(people.length);
          expect(new Set(inScope).size).toBe(inScope.length);
        },
      ),
    ));
});
