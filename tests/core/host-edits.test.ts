import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CHANGES } from '../../src/core/changes';
import type { Facts, KnownResource } from '../../src/core/facts';
import {
  BONDS,
  editLines,
  hostEdits,
  lastDiskOf,
  patchHost,
  rememberingDisks,
  type HostIntent,
  type Intent,
} from '../../src/core/intent';
import { mayBegin, propose } from '../../src/core/planning';
import { RESOURCE_KINDS } from '../../src/core/resources';
import { carriedOut, proposed } from './setup/facts';
import { given } from './situations/desktops';
import { OF_DESKTOPS } from './situations/desktops';
import { OF_DIFFERENCES } from './situations/differences';
import { FOLLOWING } from './situations/follow';
import { OF_GRANTS } from './situations/grants';
import { OF_HOSTS } from './situations/hosts';
import { captured, first, OF_IMAGES } from './situations/images';
import { OF_WHOLES } from './situations/wholes';
import type { Case } from './situations/standing';

/*
 * An edit changes what it names, and nothing else: each change, in each situation, on hosts that are shared, somebody's,
 * left, with a second disk, with an archived one. Of what is overridden nothing stands in the intent.
 */

const SITUATIONS: readonly Case[] = [
  ...OF_HOSTS,
  ...OF_DESKTOPS,
  ...OF_DIFFERENCES,
  ...OF_GRANTS,
  ...OF_IMAGES,
  ...OF_WHOLES,
  ...FOLLOWING,
];

/** What a host may have lived through. */
const lived: fc.Arbitrary<Partial<HostIntent>> = fc
  .record(
    {
      person: fc.constantFrom('kim', 'ola', 'ren'),
      leftAt: fc.constant(1),
      disk: fc.integer({ min: 2, max: 4 }),
      from: fc.constant('a server'),
      ready: fc.constant(true as const),
      size: fc.constant('s2x8'),
      diskGiB: fc.constant(128),
    },
    { requiredKeys: [] },
  )
  // Only somebody leaves.
  .map(({ leftAt, ...life }) =>
    life.person === undefined || leftAt === undefined ? life : { ...life, leftAt },
  );

/** The same facts, whose hosts have lived through something. */
function aged(facts: Facts, lives: readonly Partial<HostIntent>[]): Facts {
  if (!facts.environment) return facts;
  let at = 0;
  const intent: Intent = {
    ...facts.environment.intent,
    pools: facts.environment.intent.pools.map((pool) => ({
      ...pool,
      hosts: pool.hosts.map((host) => ({
        ...host,
        ...lives[at++ % Math.max(1, lives.length)],
        slot: host.slot,
      })),
    })),
  };
  return { ...facts, environment: { ...facts.environment, intent } };
}

describe('an edit', () => {
  it.each(SITUATIONS.map((one) => [`${one[1]} of ${one[0]}`, one] as const))(
    '%s changes only what it names',
    (_what, [, kind, input, facts]) => {
      const change = CHANGES.find((one) => one.kind === kind);
      if (!change) throw new Error(kind);
      fc.assert(
        fc.property(fc.array(lived, { maxLength: 4 }), (lives) => {
          const before = aged(facts, lives);
          if (change.takes === 'facts of hosts') return;
          const bound = change.bind(input);
          if (!bound.ok || !before.environment) return;
          const edited = bound.value.edit(before.environment.intent, before, RESOURCE_KINDS);
          if (!edited.ok || edited.value === null) return;
          const unsaid = hostEdits(before.environment.intent, edited.value).filter(
            ({ touch }) => !change.touches.includes(touch),
          );
          expect(unsaid).toEqual([]);
        }),
        { numRuns: 25 },
      );
    },
  );

  it('that would take a desktop along is stopped by the plan itself', () => {
    const thief = CHANGES.find(({ kind }) => kind === 'grow-disk');
    if (thief?.takes !== 'all facts' || !given.environment) throw new Error('there is no such change');
    const bound = thief.bind({ pool: 'draw', diskGiB: 999 });
    if (!bound.ok) throw new Error('it was not bound');
    const stealing = {
      ...thief,
      bind: () => ({
        ok: true as const,
        value: {
          ...bound.value,
          edit: (intent: Intent | null) => ({
            ok: true as const,
            value: intent && {
              ...intent,
              pools: intent.pools.map((pool) => ({
                ...pool,
                hosts: pool.hosts.map(({ slot }) => ({ slot })),
              })),
            },
          }),
        },
      }),
    };
    const { checks } = propose(RESOURCE_KINDS, stealing, {}, given);
    expect(mayBegin(checks)).toBe(false);
    expect(checks.find(({ key }) => key === 'unsaid')?.says).toContain('draw 1: take it from its person');
  });
});

describe('a pool of personal desktops', () => {
  const people = (facts: Facts): (string | undefined)[] =>
    facts.environment?.intent.pools.flatMap(({ hosts }) => hosts.map(({ person }) => person)) ?? [];

  // E.g. resized, its disk grown, hosts restarted, in maintenance, undone, in every order: nobody loses a desktop.
  const id = (slot: number): string => `id of host:draw:${slot}`;
  const DOINGS: readonly (readonly [kind: string, input: object])[] = [
    ['resize', { pool: 'draw', size: 's4x16' }],
    ['resize', { pool: 'draw', size: 's2x8' }],
    ['grow-disk', { pool: 'draw', diskGiB: 512 }],
    ['restart-hosts', { hosts: [id(1), id(2)] }],
    ['maintain-hosts', { hosts: [id(1)], picture: true }],
    ['end-maintenance', { hosts: [id(1)] }],
    ['drain', { hosts: [id(2)] }],
    ['put-back', { hosts: [id(2)] }],
    ['power-off', { hosts: [id(1), id(2)] }],
    ['rebuild-desktops', { hosts: [id(1)] }],
    ['power-on', { hosts: [id(1), id(2)] }],
    ['add-hosts', { pool: 'draw', hosts: 1 }],
    ['undo', { version: 1 }],
  ];

  it('stays its people’s and keeps their disks, whatever is done to it in whichever order', () => {
    fc.assert(
      fc.property(fc.shuffledSubarray([...DOINGS], { minLength: 3 }), (doings) => {
        const first = given.environment?.intent;
        let facts = given;
        for (const [kind, input] of doings) {
          const from =
            kind === 'undo' && facts.environment && first
              ? { ...facts, environment: { ...facts.environment, earlier: first } }
              : facts;
          const proposal = proposed(kind, input, from);
          if (proposal.refused || !mayBegin(proposal.checks)) continue;
          expect([kind, proposal.destroyed]).toEqual([kind, []]);
          facts = carriedOut(proposal, from);
        }
        expect(people(facts).slice(0, 2)).toEqual(['kim', 'ola']);
        const disks = facts.known.filter(
          ({ kind, wanted, attributes }: KnownResource) =>
            kind === 'personal-disk' && wanted && attributes.person !== '',
        );
        expect(disks.map(({ key }) => key).sort()).toEqual([
          'personal-disk:draw:1:1',
          'personal-disk:draw:2:1',
        ]);
      }),
      { numRuns: 60 },
    );
  });

  it('never gives a disk the key of another, also of one that was archived or is gone', () => {
    const seen = new Set<string>();
    let facts: Facts = given;
    const now = (): string[] =>
      facts.known.filter(({ kind, wanted }) => kind === 'personal-disk' && wanted).map(({ key }) => key);
    for (const key of now()) seen.add(key);
    for (const data of ['archived', 'wiped', 'archived'] as const) {
      const host = facts.known.find(({ key, wanted }) => wanted && key === 'host:draw:1')?.id ?? '';
      facts = carriedOut(proposed('end-desktops', { hosts: [host], data, host: 'goes' }, facts), facts);
      facts = carriedOut(proposed('add-hosts', { pool: 'draw', hosts: 1 }, facts), facts);
      const slot = facts.environment?.intent.pools[0]?.hosts.find((one) => one.slot === 1);
      const key = `personal-disk:draw:1:${slot?.disk ?? 1}`;
      expect(seen.has(key)).toBe(false);
      seen.add(key);
      facts = carriedOut(
        proposed(
          'assign-desktops',
          { pool: 'draw', people: ['kim'] },
          { ...facts, accounts: [{ account: 'kim', person: 'id of kim' }] },
        ),
        facts,
      );
    }
  });
});

describe('a patched host', () => {
  const host: HostIntent = { slot: 3, size: 's2x8', person: 'kim', disk: 2 };
  it('is otherwise in what was named, and in nothing else', () => {
    expect(patchHost(host, { diskGiB: 64 })).toEqual({ ...host, diskGiB: 64 });
    expect(patchHost(host, { person: undefined })).toEqual({
      slot: 3,
      size: 's2x8',
      disk: 2,
    });
    expect(BONDS).toEqual(['person', 'personId', 'disk', 'leftAt']);
  });

  it('that goes takes its person along, and that is told', () => {
    if (!given.environment) throw new Error('it is not there');
    const { intent } = given.environment;
    const without = {
      ...intent,
      pools: intent.pools.map((pool) => ({ ...pool, hosts: pool.hosts.slice(1) })),
    };
    expect(hostEdits(intent, without).map(({ touch }) => touch)).toEqual(['host gone', 'person', 'personId']);
    expect(hostEdits(intent, intent)).toEqual([]);
    expect(lastDiskOf(intent, 'draw')).toBe(1);
    expect(rememberingDisks(intent, intent)).toEqual(intent);
  });
});

describe('what an edit says', () => {
  const before = given.environment?.intent ?? null;
  const edit = (of: (intent: Intent) => Intent): Intent | null => before && of(before);
  const ceiling = (intent: Intent, most: number): Intent => ({
    ...intent,
    pools: intent.pools.map((pool, n) => (n === 0 ? { ...pool, ceiling: most } : pool)),
  });

  it('is nothing of what stays, and both of what changes', () => {
    expect(editLines(before, before)).toEqual([]);
    const [pool] = before?.pools ?? [];
    expect(
      editLines(
        before,
        edit((intent) => ceiling(intent, 77)),
      ),
    ).toEqual([`+ /pools/"${pool?.role}"/ceiling 77`, `- /pools/"${pool?.role}"/ceiling ${pool?.ceiling}`]);
  });

  it('is the same whatever else was changed before, and another where the same was', () => {
    const renamed = edit((intent) => ({ ...intent, naming: '{customer}-{counter:3}' }));
    const both = renamed && ceiling(renamed, 77);
    expect(editLines(renamed, both)).toEqual(
      editLines(
        before,
        edit((intent) => ceiling(intent, 77)),
      ),
    );
    const other = edit((intent) => ceiling(intent, 76));
    expect(
      editLines(
        other,
        edit((intent) => ceiling(intent, 77)),
      ),
    ).not.toEqual(
      editLines(
        before,
        edit((intent) => ceiling(intent, 77)),
      ),
    );
  });

  it('is the same a moment later', () => {
    const unlike = [...OF_DESKTOPS, ...OF_IMAGES].filter(([, kind, raw, from]) => {
      const at = (facts: Facts): string[] =>
        editLines(facts.environment?.intent ?? null, proposed(kind, raw, facts).intent);
      return at(from).join() !== at({ ...from, now: from.now + 1_234 }).join();
    });
    expect(unlike.map(([what]) => what)).toEqual([]);
  });

  it('of a version is the same whether its machine stands still or is gone', () => {
    const edits = (facts: Facts): string[] =>
      editLines(facts.environment?.intent ?? null, proposed('make-current', { version: 1 }, facts).intent);
    expect(edits(captured)).toEqual([
      '+ /more/image versions/1/state "current"',
      '- /more/image versions/1/state "trial"',
    ]);
    expect(edits(first)).toEqual(edits(captured));
  });

  it('is everything of what begins or ends', () => {
    expect(editLines(null, null)).toEqual([]);
    expect(editLines(null, before).every((line) => line.startsWith('+ '))).toBe(true);
    expect(editLines(before, null).length).toBe(editLines(null, before).length);
  });
});
