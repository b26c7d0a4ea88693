import { describe, expect, it } from 'vitest';
import { standingBy, type GroupRule } from '../../src/core/access';

const RULES: readonly GroupRule[] = [
  { group: 'heads', role: 'lead', customers: null },
  { group: 'desk', role: 'engineer', customers: ['SVG'] },
  { group: 'desk-coast', role: 'engineer', customers: ['MHP', 'SVG'] },
  { group: 'books', role: 'bookkeeper', customers: null },
];

describe('what someone is by their groups', () => {
  it.each([
    [['desk'], { role: 'engineer', customers: ['SVG'] }],
    [['desk-coast', 'desk'], { role: 'engineer', customers: ['MHP', 'SVG'] }],
    [['books', 'desk'], { role: 'engineer', customers: ['SVG'] }],
    [['books', 'heads', 'desk'], { role: 'lead', customers: null }],
    [['books'], { role: 'bookkeeper', customers: null }],
    [['Desk'], undefined],
    [['desk '], undefined],
    [[], undefined],
  ])('in %j: %j', (groups, expected) => expect(standingBy(groups, RULES)).toEqual(expected));

  it('is nothing where no rule says anything', () => expect(standingBy(['heads'], [])).toBeUndefined());

  it('reaches every customer where one of the groups does', () =>
    expect(
      standingBy(
        ['a', 'b'],
        [
          { group: 'a', role: 'engineer', customers: ['SVG'] },
          { group: 'b', role: 'engineer', customers: null },
        ],
      ),
    ).toEqual({ role: 'engineer', customers: null }));
});
