import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Facts } from '../../src/core/facts';
import {
  edited,
  effective,
  nextChange,
  overrideOf,
  wanting,
  type Override,
  type OverrideWish,
} from '../../src/core/overrides';
import { mayBegin } from '../../src/core/planning';
import { carriedOut, proposed } from './setup/facts';
import { idOf, standing } from './situations/standing';

/* Precedence as it was asked for: by hand, then the customer's being paused, then the rota, then the intent. */

const NOW = 1_000;
const made = { why: 'a reason', by: 'ida', since: 0 };
const BASE = { power: 'on', accepting: true };
const HOSTS = ['host:a:1', 'host:a:2'];

const override = (over: Partial<Override>): Override =>
  ({
    ...made,
    cause: 'by hand',
    host: 'host:a:1',
    attribute: 'power',
    value: 'off',
    until: null,
    ...over,
  }) as Override;

const wish: fc.Arbitrary<OverrideWish> = fc.oneof(
  fc.record({
    attribute: fc.constant('power' as const),
    value: fc.constantFrom('on' as const, 'off' as const),
  }),
  fc.record({ attribute: fc.constant('accepting' as const), value: fc.boolean() }),
);
const anyOverride: fc.Arbitrary<Override> = fc
  .record({
    cause: fc.constantFrom('by hand' as const, 'customer paused' as const, 'rota' as const),
    host: fc.constantFrom(null, ...HOSTS),
    until: fc.option(fc.integer({ min: 0, max: 2_000 })),
    wish,
  })
  .map(({ wish: { attribute, value }, ...rest }) => ({ ...made, ...rest, attribute, value }) as Override);

/** The same, told in the simplest way: the rows that hold, each rank in turn. */
function naive(overrides: readonly Override[], key: string, attribute: string, now: number): unknown {
  for (const cause of ['by hand', 'customer paused', 'rota'])
    for (const one of overrides)
      if (
        one.cause === cause &&
        one.attribute === attribute &&
        (one.host === null || one.host === key) &&
        !(one.until !== null && one.until <= now)
      )
        return one.value;
  return BASE[attribute as 'power' | 'accepting'];
}

const hosts = HOSTS.map((key) => ({ key, attributes: BASE }));

describe('what is wanted of a host now', () => {
  it('is what the first of those that hold wants, and else what the intent says', () => {
    fc.assert(
      fc.property(fc.array(anyOverride, { maxLength: 6 }), fc.nat(2_000), (overrides, now) => {
        for (const { key, attributes } of effective(hosts, overrides, now))
          for (const attribute of ['power', 'accepting'] as const)
            expect(attributes[attribute]).toBe(naive(overrides, key, attribute, now));
      }),
    );
  });

  it('is what is set by hand, whatever the pause and the rota want', () => {
    const all = [
      override({ cause: 'rota', value: 'on' }),
      override({ cause: 'customer paused', host: null }),
      override({ cause: 'by hand', value: 'on' }),
    ];
    const power = (overrides: readonly Override[]): unknown =>
      effective(hosts, overrides, NOW)[0]?.attributes.power;
    expect(power(all)).toBe('on');
    expect(power(all.slice(0, 2))).toBe('off');
    expect(power(all.slice(0, 1))).toBe('on');
    expect(power([])).toBe('on');
  });

  it('changes at the end of an override to the millisecond, and at no other time', () => {
    fc.assert(
      fc.property(fc.array(anyOverride, { maxLength: 6 }), fc.nat(2_000), (overrides, now) => {
        const next = nextChange(overrides, now) ?? 3_000;
        const at = (when: number): unknown => effective(hosts, overrides, when);
        expect(next).toBeGreaterThan(now);
        expect(at(next - 1)).toEqual(at(now));
      }),
    );
    expect(overrideOf([override({ until: NOW })], 'host:a:1', 'power', NOW)).toBeUndefined();
    expect(overrideOf([override({ until: NOW + 1 })], 'host:a:1', 'power', NOW)).toBeDefined();
    expect(nextChange([override({ until: NOW })], NOW)).toBeUndefined();
  });
});

describe('what is set by hand', () => {
  it('is so from then on, of that host and attribute alone', () => {
    fc.assert(
      fc.property(fc.array(anyOverride, { maxLength: 6 }), wish, (overrides, wanted) => {
        const edit = wanting(wanted, { key: 'host:a:1', base: BASE }, overrides, NOW);
        const after = edited(overrides, edit, { ...made, since: NOW });
        const now = (of: readonly Override[]): unknown[] =>
          effective(hosts, of, NOW).map(({ attributes }) => attributes);
        const [first, second] = now(after) as Record<string, unknown>[];
        const [was, other] = now(overrides) as Record<string, unknown>[];
        // What is set of every host by hand is set otherwise for one by an entry of its own, and holds beside it.
        const byHandForAll = overrides.some(
          ({ cause, host, attribute }) =>
            cause === 'by hand' && host === null && attribute === wanted.attribute,
        );
        if (!byHandForAll) expect(first).toEqual({ ...was, [wanted.attribute]: wanted.value });
        expect(second).toEqual(other);
      }),
    );
  });

  it('is removed where that is enough, and kept where it has an end', () => {
    const host = { key: 'host:a:1', base: BASE };
    const off = [override({})];
    const on = { attribute: 'power', value: 'on' } as const;
    expect(wanting(on, host, off, NOW)).toEqual({
      set: [],
      lift: [{ host: 'host:a:1', attribute: 'power' }],
    });
    expect(edited(off, wanting(on, host, off, NOW), made)).toEqual([]);
    expect(wanting(on, host, off, NOW, 5_000).set).toEqual([{ ...on, host: 'host:a:1', until: 5_000 }]);
    const paused = [...off, override({ cause: 'customer paused', host: null })];
    expect(wanting(on, host, paused, NOW).set).toEqual([{ ...on, host: 'host:a:1', until: null }]);
  });
});

const desk = [idOf('host:desks:1')];
const powerOf = (from: Facts): unknown =>
  from.known.find(({ key }) => key === 'host:desks:1')?.attributes.power;
const done = (kind: string, input: object, from: Facts): Facts =>
  carriedOut(proposed(kind, input, from), from);
const paused = (from: Facts): Facts => ({
  ...from,
  overrides: [...(from.overrides ?? []), override({ cause: 'customer paused', host: null })],
});
const started = (from: Facts): Facts => ({
  ...from,
  overrides: (from.overrides ?? []).filter(({ cause }) => cause !== 'customer paused'),
});

describe('a change of hosts', () => {
  it.each(['power-off', 'drain', 'maintain-hosts', 'restart-hosts'])(
    '%s leaves the intent alone, and every other host',
    (kind) => {
      const proposal = proposed(kind, { hosts: desk }, standing);
      expect(proposal.intent).toBe(standing.environment?.intent);
      expect(proposal.tasks.map(({ key }) => key)).toEqual(['host:desks:1']);
      expect(mayBegin(proposal.checks)).toBe(true);
      expect(proposal.overrides.set.every(({ host }) => host === 'host:desks:1')).toBe(true);
    },
  );

  it('ends by itself where it says when: then the hosts follow', () => {
    const { now } = standing;
    const off = done('power-off', { hosts: desk, until: now + 60_000 }, standing);
    expect(powerOf(off)).toBe('off');
    expect(proposed('follow-overrides', {}, off).tasks).toEqual([]);
    const after = proposed('follow-overrides', {}, { ...off, now: now + 60_000 });
    expect(after.steps.map(({ action }) => action)).toEqual(['power']);
    expect(powerOf(carriedOut(after, off))).toBe('on');
  });

  it.each([
    ['that is over', -1],
    ['that is now', 0],
    ['that is more than a year ahead', 367 * 24 * 3_600_000],
  ])('refuses an end %s, beside its field', (_what, ahead) => {
    const { refused } = proposed('power-off', { hosts: desk, until: standing.now + ahead }, standing);
    expect(Object.keys(refused ?? {})).toEqual(['until']);
  });

  it('of a paused customer leaves off what was off by hand before, once they are started again', () => {
    const byHand = done('power-off', { hosts: desk }, standing);
    const pausing = proposed('follow-overrides', {}, paused(byHand));
    expect(pausing.tasks.map(({ key }) => key)).not.toContain('host:desks:1');
    const asleep = carriedOut(pausing, paused(byHand));
    expect(
      asleep.known.filter(({ kind }) => kind === 'host').map(({ attributes }) => attributes.power),
    ).toEqual(asleep.known.filter(({ kind }) => kind === 'host').map(() => 'off'));
    const awake = carriedOut(proposed('follow-overrides', {}, started(asleep)), started(asleep));
    expect(powerOf(awake)).toBe('off');
    expect(
      awake.known.filter(({ kind, attributes }) => kind === 'host' && attributes.power === 'off').length,
    ).toBe(1);
  });

  it('is noted of a host that is not there, too: it is made as it is wanted by then', () => {
    const gone = {
      ...paused(standing),
      present: standing.present.filter(({ key }) => key !== 'host:desks:1'),
    };
    const proposal = proposed('follow-overrides', {}, gone);
    expect(proposal.wanted.find(({ key }) => key === 'host:desks:1')?.attributes.power).toBe('off');
    expect(proposal.tasks.map(({ key }) => key)).not.toContain('host:desks:1');
    const alone = { ...gone, known: gone.known.filter(({ key }) => key === 'host:desks:1') };
    const nothing = proposed('follow-overrides', {}, alone);
    expect([nothing.tasks, mayBegin(nothing.checks)]).toEqual([[], true]);
  });

  it('on a paused customer’s host says that it is on although they are paused', () => {
    const asleep = carriedOut(proposed('follow-overrides', {}, paused(standing)), paused(standing));
    const on = proposed('power-on', { hosts: desk }, asleep);
    expect(on.checks.map(({ key }) => key)).toContain('override');
    expect(powerOf(carriedOut(on, asleep))).toBe('on');
    expect(proposed('power-on', { hosts: desk }, standing).checks.map(({ key }) => key)).toContain('nothing');
  });

  it('takes back from maintenance all that was set by hand, and no picture is kept', () => {
    const care = done('maintain-hosts', { hosts: desk, picture: true }, standing);
    expect(care.known.find(({ key }) => key === 'host:desks:1')?.attributes).toMatchObject({
      power: 'off',
      accepting: false,
      picture: true,
    });
    const back = done('end-maintenance', { hosts: desk }, care);
    expect(back.overrides).toEqual([]);
    const attributes = back.known.find(({ key }) => key === 'host:desks:1')?.attributes;
    expect(attributes).toEqual(standing.known.find(({ key }) => key === 'host:desks:1')?.attributes);
  });
});
