import { createElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  count,
  writeClock,
  writeDay,
  writeExactly,
  writeMoney,
  writeMonth,
  writeQuantity,
  writeRoundMoney,
  writeSpan,
  writeWhen,
} from '../../src/client/format';
import { ManyField } from '../../src/ui/Field';
import { Mark } from '../../src/ui/Mark';
import { markSvg } from '../../src/ui/mark-shapes';
import { Progress } from '../../src/ui/Progress';
import { HOST_STATUSES } from '../../src/core/status';
import { Ring, type RingArc, type RingLook } from '../../src/ui/Ring';
import { ringSays, STATUS } from '../../src/views/shared/words';
import { placesOf, tiesOf } from '../../src/views/run/graph-places';
import type { Step } from '../../src/contract';

const LOOKS: readonly RingLook[] = ['full', 'notched', 'dashed', 'hollow', 'thin', 'crossed', 'gap'];

describe('the ring', () => {
  const draw = (arcs: readonly RingArc[], size = 64, label = 'a ring'): string =>
    renderToStaticMarkup(createElement(Ring, { arcs, size, label, children: 7, unit: 'people' }));

  it('is drawn for none, for one and for many, with numbers that are numbers', () => {
    const arc = fc.record({
      look: fc.constantFrom(...LOOKS),
      parts: fc.integer({ min: 1, max: 40 }),
      fill: fc.double({ min: 0, max: 1, noNaN: true }),
    });
    fc.assert(
      fc.property(fc.array(arc, { maxLength: 40 }), fc.constantFrom(24, 64, 240), (arcs, size) => {
        const svg = draw(arcs, size);
        expect(svg).toContain('<svg');
        expect(svg).not.toMatch(/NaN|Infinity|undefined/);
        for (const [, angle] of svg.matchAll(/ [ML]?(-?\d+\.?\d*) /g))
          expect(Number(angle)).toBeLessThan(200);
      }),
    );
  });

  it('tells each status by a shape of its own, not by colour alone', () => {
    const shapes = LOOKS.map((look) =>
      draw([
        { look, parts: 1, fill: 0.5 },
        { look: 'full', parts: 3, fill: 0 },
      ])
        .replace(/class="[^"]*"/g, '')
        .slice(0, 1_200),
    );
    expect(new Set(shapes).size).toBe(LOOKS.length);
  });

  it('says in words what it shows, or nothing where the words stand beside it', () => {
    expect(draw([], 64, 'no hosts')).toContain('aria-label="no hosts"');
    expect(draw([], 64, '')).toContain('aria-hidden="true"');
    expect(draw([], 64, '')).not.toContain('role="img"');
    const arcs = [
      { status: 'serving' as const, hosts: 3, fill: 1 },
      { status: 'serving' as const, hosts: 2, fill: 0 },
      { status: 'missing' as const, hosts: 1, fill: 0 },
    ];
    expect(ringSays(arcs)).toBe('5 serving, 1 missing');
    expect(ringSays([])).toBe('no hosts');
    // Each status has a look, and no two the same.
    expect(Object.keys(STATUS).sort()).toEqual([...HOST_STATUSES].sort());
    expect(new Set(Object.values(STATUS).map((one) => one.look)).size).toBe(HOST_STATUSES.length);
  });

  it('shows its number from 48 pixels on', () => {
    expect(draw([], 24)).not.toContain('>7<');
    expect(draw([], 64)).toContain('>7<');
    expect(draw([], 64)).not.toContain('people');
    expect(draw([], 240)).toContain('people');
  });
});

describe('marks', () => {
  const mark = (n: number) => ({ code: 'SVG', hue: (n * 137) % 360, shape: n % 6, pattern: n % 5 });

  it('differ for the first thirty customers even without their hue', () => {
    const drawn = Array.from({ length: 30 }, (_, n) =>
      renderToStaticMarkup(createElement(Mark, { mark: mark(n) }))
        .replace(/hsl\([^)]*\)/g, '')
        .replace(/id="[^"]*"|url\([^)]*\)/g, ''),
    );
    expect(new Set(drawn).size).toBe(30);
  });

  it('hold no more than three letters, and nothing that could be markup', () => {
    expect(markSvg({ ...mark(1), code: 'AB"><script>' })).not.toContain('<script');
    expect(markSvg({ ...mark(1), code: 'ABCDE' })).toContain('>ABC<');
  });
});

describe('any of some', () => {
  const draw = (count: number, chosen: readonly string[]): string =>
    renderToStaticMarkup(
      createElement(ManyField, {
        label: 'Units',
        options: Array.from({ length: count }, (_, n) => ({ value: `u${n}`, name: `House ${n}` })),
        chosen,
        onChange: () => undefined,
      }),
    );
  const boxes = (html: string): number => html.split('type="checkbox"').length - 1;

  it('draws a few all, and in their order', () => {
    const html = draw(12, ['u3']);
    expect(boxes(html)).toBe(12);
    expect(html).not.toContain('type="search"');
    expect(html.indexOf('House 2')).toBeLessThan(html.indexOf('House 3'));
  });

  it('draws of thousands those that are chosen first, however far down, and lets the others be found', () => {
    const html = draw(4_000, ['u3999', 'u7']);
    expect(boxes(html)).toBe(10);
    expect(html).toContain('Find one of 4000');
    expect(html.indexOf('House 3999')).toBeLessThan(html.indexOf('House 0'));
    expect(html).toContain('and 3990 more: find them by name');
  });
});

describe('progress', () => {
  it('is told to those who do not see it, also of nothing', () => {
    const html = renderToStaticMarkup(createElement(Progress, { done: 0, total: 0, label: 'none' }));
    expect(html).toContain('aria-valuenow="0"');
    expect(html).not.toContain('NaN');
  });
});

describe('what is written', () => {
  const at = Date.UTC(2026, 10, 24, 9, 40, 12);

  // ISO 4217: minor units of two, none and three decimals.
  it.each([
    [123_450, 'EUR', '€1,234.50'],
    [-5, 'GBP', '-£0.05'],
    [1_234, 'JPY', 'JP¥1,234'],
    [0, 'EUR', '€0.00'],
  ])('%i %s is %s', (minor, currency, text) => expect(writeMoney({ minor, currency })).toBe(text));

  it('rounds only where cents do not matter', () =>
    expect(writeRoundMoney({ minor: 123_450, currency: 'EUR' })).toBe('€1,235'));

  it('tells times where the customer is', () => {
    expect(writeWhen(at, 'UTC')).toBe('24 Nov 09:40');
    expect(writeWhen(at, 'Europe/Oslo')).toBe('24 Nov 10:40');
    expect(writeClock(at, 'UTC')).toBe('Tue 24 Nov 09:40');
    expect(writeDay(at, 'UTC')).toBe('24 Nov 2026');
    expect(writeExactly(at, 'UTC')).toContain('09:40:12');
    expect(writeMonth('2026-11')).toBe('November 2026');
  });

  it.each([
    [0, '0 s'],
    [-3, '0 s'],
    [59, '59 s'],
    [90, '2 min'],
    [3_600, '1 h'],
    [7_500, '2 h 5 min'],
  ])('%i seconds are %s', (seconds, text) => expect(writeSpan(seconds)).toBe(text));

  it('counts one and many', () =>
    expect([count(1, 'host', 'hosts'), count(2, 'host', 'hosts')]).toEqual(['1 host', '2 hosts']));
});

describe('the graph of a run', () => {
  const step = (id: string, subject: string, needs: string[] = []): Step => ({
    id,
    kind: 'host',
    action: 'make',
    subject,
    state: 'waiting',
    needs,
    expectedSeconds: 1,
    attempt: 0,
    says: '',
    output: '',
    beganAt: null,
    endedAt: null,
  });

  const steps = fc
    .array(
      fc.record({ subject: fc.integer({ min: 0, max: 5 }), needs: fc.array(fc.nat(30), { maxLength: 3 }) }),
      { maxLength: 30 },
    )
    .map((list) =>
      list.map(({ subject, needs }, i) =>
        step(
          `s${i}`,
          `row ${subject}`,
          needs.filter((need) => need < i).map((need) => `s${need}`),
        ),
      ),
    );

  it('puts each step right of what it needs, and no two in one place', () => {
    fc.assert(
      fc.property(steps, (list) => {
        const { placed, subjects } = placesOf(list);
        const places = placed.map((one) => `${one.row} ${one.column}`);
        expect(new Set(places).size).toBe(list.length);
        expect(subjects.length).toBe(new Set(list.map((one) => one.subject)).size);
        for (const one of placed)
          expect(one.column).toBeGreaterThanOrEqual(one.step.needs.length === 0 ? 0 : 1);
      }),
    );
  });

  it('draws every need as a way along its ties, and no tie that another way already is', () => {
    const follows = (ties: (id: string) => readonly string[], from: string): Set<string> => {
      const found = new Set<string>();
      const walk = (id: string): void =>
        ties(id).forEach((next) => {
          if (!found.has(next)) walk((found.add(next), next));
        });
      walk(from);
      return found;
    };
    fc.assert(
      fc.property(steps, (list) => {
        const needs = new Map(list.map((one) => [one.id, one.needs]));
        const ties = tiesOf(list);
        for (const { id } of list) {
          const mine = ties.get(id) ?? [];
          expect(follows((one) => ties.get(one) ?? [], id)).toEqual(
            follows((one) => needs.get(one) ?? [], id),
          );
          for (const tie of mine) {
            const without = (one: string): readonly string[] =>
              (ties.get(one) ?? []).filter((other) => !(one === id && other === tie));
            expect(follows(without, id).has(tie)).toBe(false);
          }
        }
      }),
    );
  });

  it('draws nothing of nothing', () =>
    expect(placesOf([])).toMatchObject({ placed: [], subjects: [], columns: 1 }));
});

describe('a quantity', () => {
  it.each([
    [0.00144, '0.00144'],
    [-0.00144, '-0.00144'],
    [0, '0.00'],
    [0.5, '0.50'],
    [16512.345, '16,512.35'],
  ])('%d is written as %s: what makes a charge is never nothing', (n, written) =>
    expect(writeQuantity(n)).toBe(written),
  );
});
