import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { CustomerSummary } from '../../src/contract';
import { choiceOf, choicesOf, isChosen, queryOf, type Choice } from '../../src/views/customers/choice';

const one = (code: string, over: Partial<CustomerSummary>): CustomerSummary => ({
  code,
  name: code,
  state: 'active',
  zone: 'UTC',
  plan: 'Jetty',
  site: 'Kelp Quay',
  mark: { code, hue: 0, shape: 0, pattern: 0 },
  tags: {},
  arcs: [],
  hosts: 0,
  people: 0,
  peopleIn: 0,
  seats: 0,
  seatsFree: 0,
  soFar: { minor: 0, currency: 'EUR' },
  forecast: { minor: 0, currency: 'EUR' },
  attention: [],
  ...over,
});
const ALL = [
  one('A', { tags: { sector: 'vets' }, attention: [{ kind: 'drift', says: 'x' }] }),
  one('B', { plan: 'Skiff', tags: { sector: 'vets', size: 'small' } }),
  one('C', { site: 'Tor Field', state: 'trial' }),
];
const shown = (choice: Choice): string =>
  ALL.filter((each) => isChosen(each, choice))
    .map((each) => each.code)
    .join('');

describe('what is chosen of the customers', () => {
  it.each<[Choice, string]>([
    [{}, 'ABC'],
    [{ plan: 'Jetty' }, 'AC'],
    [{ site: 'Tor Field' }, 'C'],
    [{ state: 'trial', plan: 'Jetty' }, 'C'],
    [{ tag: 'sector:vets' }, 'AB'],
    [{ tag: 'sector:vets', need: true }, 'A'],
    [{ tag: 'sector' }, ''],
    [{ plan: 'Gone' }, ''],
  ])('%j shows %s', (choice, expected) => expect(shown(choice)).toBe(expected));

  it('is offered with how many there are of each', () =>
    expect(choicesOf(ALL)).toMatchObject({
      plan: [
        { value: 'Jetty', count: 2 },
        { value: 'Skiff', count: 1 },
      ],
      tag: [
        { value: 'sector:vets', count: 2 },
        { value: 'size:small', count: 1 },
      ],
    }));

  it('is read from an address as it was written there, and nothing else is', () => {
    fc.assert(
      fc.property(
        fc.record(
          {
            plan: fc.string({ minLength: 1 }),
            tag: fc.string({ minLength: 1 }),
            need: fc.constant(true as const),
          },
          { requiredKeys: [] },
        ),
        (choice) => {
          expect(choiceOf(queryOf(choice))).toEqual({ ...choice });
        },
      ),
    );
    expect(choiceOf('?plan=&need=perhaps&other=1')).toEqual({});
  });
});
