import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import {
  commonAgent,
  compareReleases,
  gatherSigns,
  LIMITS,
  signsOf,
  urgency,
  type Heard,
  type HostSign,
  type NodeFacts,
  type SignKey,
} from '../../src/core/signs';

const heard = (over: Partial<Heard> = {}): Heard => ({
  heardAt: 1_000_000,
  askedAt: 1_010_000,
  isUnwell: false,
  isMentioned: true,
  load: 30,
  memory: 40,
  disk: 50,
  clockOffMs: 80,
  agent: '4.2',
  signIns: { tried: 2, refused: 0 },
  signInSeconds: 14,
  ...over,
});
const AMONG = { agent: '4.2' };
const shown = (over: Partial<Heard>, before: readonly SignKey[] = []): string[] =>
  signsOf(heard(over), new Set(before), AMONG).map(({ kind }) => kind);

describe('signs of a host', () => {
  it('are none of one that is well', () => expect(shown({})).toEqual([]));

  it.each<[string, Partial<Heard>, SignKey[]]>([
    ['two missed beats are not yet silence', { askedAt: 1_000_000 + 89_999 }, []],
    ['three are', { askedAt: 1_000_000 + 90_000 }, ['silent']],
    ['its provider knows better', { isUnwell: true }, ['silent']],
    ['it was never heard, and nothing else is known of it', { isMentioned: false, load: 99 }, ['silent']],
    [
      'one that is silent shows nothing else: what it said last is old',
      { isUnwell: true, load: 99, disk: 99 },
      ['silent'],
    ],
    ['two refused sign-ins are two mistyped passwords', { signIns: { tried: 2, refused: 2 } }, []],
    ['three of four are not', { signIns: { tried: 4, refused: 3 } }, ['refusing']],
    ['three of six are just half', { signIns: { tried: 6, refused: 3 } }, ['refusing']],
    ['three of seven are fewer', { signIns: { tried: 7, refused: 3 } }, []],
    ['three of twenty are people', { signIns: { tried: 20, refused: 3 } }, []],
    ['a clock a minute behind', { clockOffMs: -60_000 }, ['clock']],
    ['memory and load at the brim', { memory: 95, load: 97 }, ['memory', 'load']],
    ['signing in takes a minute', { signInSeconds: 60 }, ['sign-in']],
    ['a disk nearly full', { disk: 92 }, ['disk']],
    ['an agent that is older than most', { agent: '4.1' }, ['agent']],
    ['one that is newer is no sign', { agent: '4.10' }, []],
    ['one whose agent is not there yet', { agent: '' }, []],
  ])('%s', (_what, over, kinds) => expect(shown(over)).toEqual(kinds));

  it('last until they are clearly over, and do not come and go around a limit', () => {
    expect(shown({ load: 90 })).toEqual([]);
    expect(shown({ load: 90 }, ['load'])).toEqual(['load']);
    expect(shown({ load: 84 }, ['load'])).toEqual([]);
    expect(shown({ signIns: { tried: 8, refused: 2 } }, ['refusing'])).toEqual(['refusing']);
    expect(shown({ signIns: { tried: 9, refused: 2 } }, ['refusing'])).toEqual([]);
  });

  // Common practice, no source: where a sign begins, and where it ends once it was there.
  it.each<[SignKey, (value: number) => Partial<Heard>, number, number]>([
    ['memory', (memory) => ({ memory }), LIMITS.memory, 90],
    ['load', (load) => ({ load }), LIMITS.load, 85],
    ['disk', (disk) => ({ disk }), LIMITS.disk, 88],
    ['sign-in', (signInSeconds) => ({ signInSeconds }), 60, 45],
    ['clock', (clockOffMs) => ({ clockOffMs }), 60_000, 30_000],
  ])('%s begins just at its limit and is over just below the lower one', (key, of, begins, ends) => {
    const less = (value: number): number => value - 0.5;
    expect([shown(of(less(begins))), shown(of(begins))]).toEqual([[], [key]]);
    expect([shown(of(less(ends)), [key]), shown(of(ends), [key])]).toEqual([[], [key]]);
  });

  it('close a host whose clock the directory refuses: from five minutes on (RFC 4120, 1.6)', () => {
    const [off] = signsOf(heard({ clockOffMs: 299_999 }), new Set(), AMONG);
    expect(off).toMatchObject({ kind: 'clock', harm: 'soon', closes: false });
    const [refused] = signsOf(heard({ clockOffMs: -300_000 }), new Set(), AMONG);
    expect(refused).toMatchObject({
      harm: 'out',
      closes: true,
      says: 'its clock is 5 min behind, the directory refuses it',
    });
  });

  it('compare releases by number', () => {
    expect(compareReleases('4.10', '4.9')).toBe(1);
    expect(compareReleases('4.2', '4.2.0')).toBe(0);
    expect(compareReleases('', 'x')).toBe(0);
    expect(commonAgent(['4.2', '4.1', '4.2', ''].map((agent) => ({ agent })))).toBe('4.2');
    expect(commonAgent(['4.1', '4.2'].map((agent) => ({ agent })))).toBe('4.2');
    expect(commonAgent([])).toBe('');
  });
});

const sign = (n: number, over: Partial<HostSign> = {}): HostSign => ({
  id: `s${n}`,
  kind: 'silent',
  harm: 'out',
  says: 'does not answer',
  since: 1_000 + n,
  people: n,
  customer: n % 2 === 0 ? 'FPS' : 'MHP',
  environment: `e${n % 2}`,
  pool: 'desks',
  host: { id: `h${n}`, name: `HOST${n}` },
  site: 'KQ',
  node: 'kq-a1',
  ...over,
});
const node = (over: Partial<NodeFacts> = {}): NodeFacts => ({
  site: 'KQ',
  node: 'kq-a1',
  hosts: 40,
  silent: 40,
  isLost: false,
  ...over,
});
const forty = Array.from({ length: 40 }, (_one, n) => sign(n));

describe('signs by their cause', () => {
  it('are one line of a node that is gone, and not forty', () => {
    const lines = gatherSigns(forty, [node()]);
    expect(lines).toHaveLength(1);
    expect(lines[0]).toMatchObject({ of: 'node', people: 780, since: 1_000, harm: 'out' });
    expect(lines[0]?.says).toBe('Node kq-a1: none of its 40 hosts answers');
  });

  it('are lines of their own where others on that node answer, but for those of one pool', () => {
    const some = [sign(0), sign(1)];
    expect(gatherSigns(some, [node({ silent: 2 })]).map((one) => one.of)).toEqual(['host', 'host']);
    expect(gatherSigns(some, [node({ silent: 2, isLost: true })]).map((one) => one.says)).toEqual([
      'Node kq-a1 is lost: 2 of its 40 hosts do not answer',
    ]);
    expect(gatherSigns(some, [node({ hosts: 2, silent: 2 })]).map((one) => one.says)).toEqual([
      'Node kq-a1: none of its 2 hosts answers',
    ]);
    expect(gatherSigns([sign(0)], [node({ hosts: 1, silent: 1 })]).map((one) => one.of)).toEqual(['host']);
    const slow = [1, 3, 5].map((n) => sign(n, { kind: 'sign-in', harm: 'slow' }));
    expect(gatherSigns(slow, []).map((one) => [one.of, one.says, one.people])).toEqual([
      ['pool', '3 hosts of desks take long to sign in', 9],
    ]);
  });

  it('never join what is of two customers, but under a node that both are on', () => {
    const lines = gatherSigns(
      forty.map((one) => ({ ...one, kind: 'disk' as const, environment: 'same' })),
      [node()],
    );
    expect(lines).toHaveLength(2);
    for (const { signs } of lines) expect(new Set(signs.map((one) => one.customer)).size).toBe(1);
  });

  it('stand in order of who is hit: out before slow, and what will come last', () => {
    const lines = gatherSigns(
      [
        sign(9, { harm: 'soon', kind: 'agent', people: 96, node: undefined }),
        sign(8, { harm: 'slow', kind: 'load', people: 12, node: undefined }),
        sign(7, { harm: 'out', people: 5, node: undefined }),
      ],
      [],
    );
    expect(lines.map((one) => one.harm)).toEqual(['out', 'slow', 'soon']);
    expect(urgency({ harm: 'soon', people: 1_000 })).toBe(0);
  });

  it('lose no sign and no person, whatever they are', () => {
    const any = fc.array(
      fc.record({
        kind: fc.constantFrom<SignKey[]>('silent', 'disk', 'load'),
        people: fc.nat(50),
        customer: fc.constantFrom('FPS', 'MHP', 'SVG'),
        pool: fc.constantFrom('a', 'b'),
        node: fc.option(fc.constantFrom('kq-a1', 'kq-a2'), { nil: undefined }),
      }),
      { maxLength: 60 },
    );
    fc.assert(
      fc.property(any, fc.boolean(), (some, isLost) => {
        const signs = some.map((one, n) => sign(n, { ...one, id: `s${n}` }));
        const lines = gatherSigns(signs, [node({ isLost })]);
        expect(lines.flatMap((one) => one.signs.map(({ id }) => id)).sort()).toEqual(
          signs.map(({ id }) => id).sort(),
        );
        const sum = (all: readonly { people: number }[]): number => all.reduce((n, one) => n + one.people, 0);
        expect(sum(lines)).toBe(sum(signs));
        expect(new Set(lines.map((one) => one.key)).size).toBe(lines.length);
      }),
    );
  });
});
