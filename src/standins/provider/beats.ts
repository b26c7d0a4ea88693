import type { Answer, Call, Routes } from '../kit/server';
import { record } from '../kit/read';
import { ail, ailmentsOf, type Ailment } from './ailment';
import { chance } from './crowd';
import type { Resource } from './resource';
import type { World } from './world';

/** A host says how it is so often. */
const BEAT_MS = 30_000;
const PAGE = 2_000;
const AGENT = '4.2';

export function beatRoutes(
  world: World,
  guarded: (handler: (call: Call) => Promise<Answer>) => (call: Call) => Promise<Answer>,
): Routes {
  return {
    'GET /v1/beats': guarded(async (call) => {
      const host = call.query.get('host') ?? '';
      const found = await world.list(
        `kind = 'host' AND state IN ('on', 'unwell') AND id > ? AND (? = '' OR id = ?)`,
        [call.query.get('after') ?? '', host, host],
        PAGE + 1,
      );
      const hosts = found.slice(0, PAGE);
      const last = hosts.at(-1);
      return {
        status: 200,
        body: {
          entries: await beatsOf(world, hosts),
          next: found.length > PAGE && last ? last.id : null,
          as_of: world.clock.now(),
        },
      };
    }),
    // Something goes wrong with a host, or is as usual again.
    'PUT /control/ailments/:id': async (call) => {
      const host = await world.present(call.params.id ?? '');
      const { silent, ...given } = record(call, 'given');
      await ail(world.store, host.id, {
        ...(given as Ailment),
        ...(silent === true ? { silent_at: world.clock.now() } : {}),
      });
      return { status: 200, body: { host: host.name } };
    },
  };
}

async function beatsOf(world: World, hosts: readonly Resource[]): Promise<Record<string, unknown>[]> {
  const ids = hosts.map(({ id }) => id);
  const ailments = await ailmentsOf(world.store, ids);
  const people = new Map(
    ids.length === 0
      ? []
      : (
          await world.store.rows<{ host: string; people: number; active: number }>(
            `SELECT host, COUNT(*) AS people, SUM(state = 'active') AS active FROM session
             WHERE host IN (${ids.map(() => '?').join(', ')}) GROUP BY host`,
            ids,
          )
        ).map((one) => [one.host, { people: Number(one.people), active: Number(one.active) }] as const),
  );
  const now = world.clock.now();
  const mentioned = hosts.filter(({ id }) => ailments.get(id)?.unmentioned !== true);
  return mentioned.map((host) => {
    const { silent_at: silentAt, ...ailment } = ailments.get(host.id) ?? {};
    const { people: inside, active } = people.get(host.id) ?? { people: 0, active: 0 };
    // Each at a moment of its own; and what it says drifts from beat to beat, the same whoever asks.
    const beat = Math.floor((now - BEAT_MS * chance(host.id)) / BEAT_MS);
    const drift = (what: string, most: number): number =>
      Math.round(most * chance(`${host.id} ${what} ${Math.floor(beat / 20)}`));
    const tried = Math.min(inside, drift('tried', 3));
    return {
      host: host.id,
      at: Math.max(host.created_at, silentAt ?? Math.round(beat * BEAT_MS + BEAT_MS * chance(host.id))),
      unwell: host.state === 'unwell',
      node: typeof host.attrs.node === 'string' ? host.attrs.node : null,
      load: Math.min(88, 3 + active * 5 + drift('load', 9)),
      memory: Math.min(86, 18 + inside * 5 + drift('memory', 6)),
      disk: 34 + Math.round(30 * chance(`${host.id} disk`)),
      clock_off_ms: drift('clock', 240) - 120,
      agent: host.attrs.agent === 'missing' ? '' : AGENT,
      tried,
      refused: 0,
      sign_in_seconds: tried === 0 ? 0 : 11 + drift('sign-in', 14),
      ...ailment,
    };
  });
}
