import { setTimeout as pause } from 'node:timers/promises';
import { NO_LIMITS } from '../../src/core/plans';
import { reasonFor } from './audit';
import { oneOf } from './monkey';

/** The API as someone reaches it over the network, who does not give up. */
export interface Api {
  readonly url: () => string;
  readonly token: string;
  /** By the clock that all goes by, in milliseconds. */
  readonly now: () => number;
}

interface Answered {
  readonly status: number;
  readonly body: Record<string, unknown>;
}

const PATIENCE_MS = 8_000;
const MINUTE = 60_000;

/** Asks until there is an answer that means something: what was sent twice was sent with the same key. */
async function ask(
  api: Api,
  method: string,
  path: string,
  body: unknown,
  stop: AbortSignal,
  key?: string,
): Promise<Answered | undefined> {
  while (!stop.aborted) {
    try {
      const response = await fetch(`${api.url()}/api/v1${path}`, {
        method,
        headers: {
          authorization: `Bearer ${api.token}`,
          ...(body === undefined ? {} : { 'content-type': 'application/json' }),
          ...(key === undefined ? {} : { 'idempotency-key': key }),
        },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
        signal: AbortSignal.timeout(PATIENCE_MS),
      });
      const text = await response.text();
      if (response.status < 500)
        return { status: response.status, body: text === '' ? {} : JSON.parse(text) };
    } catch {
      // No answer, or half of one: asked again.
    }
    await pause(300, undefined, { signal: stop }).catch(() => undefined);
  }
  return undefined;
}

/** What was begun, and with which key. */
export interface Deed {
  readonly key: string;
  readonly kind: string;
  readonly run: string;
  readonly environment: string;
}

interface Host {
  readonly id: string;
  /** Null: of a shared pool; empty: nobody's yet. */
  readonly person: string | null;
}

interface Known {
  readonly id: string;
  readonly name: string;
  readonly state: string;
}

const MOST_ENVIRONMENTS = 3;

/** Someone at work for a customer: wants this and that of its environments, and takes up again what has stopped. */
export async function workFor(
  code: string,
  api: Api,
  random: () => number,
  stop: AbortSignal,
): Promise<{ deeds: Deed[]; refused: number; faults: string[] }> {
  const deeds: Deed[] = [];
  const faults: string[] = [];
  let refused = 0;
  for (let n = 0; !stop.aborted; n++) {
    await pause(300 + random() * 2_500, undefined, { signal: stop }).catch(() => undefined);
    await takeUp(code, api, stop);
    if (random() < PAUSES) {
      const fault = await pauseOrStart(code, api, random, stop);
      if (fault !== undefined) faults.push(fault);
      continue;
    }
    const listed = await ask(api, 'GET', `/customers/${code}/environments?limit=200`, undefined, stop);
    if (!listed) break;
    const all = (listed.body.entries ?? []) as Known[];
    const living = all.filter((one) => one.state !== 'retired' && one.state !== 'leaving');
    const wish =
      living.length < MOST_ENVIRONMENTS && random() < 0.4
        ? provisioning(code, all.length, random)
        : await wishFor(code, api, oneOf(random, living), random, stop);
    if (!wish) continue;
    const proposed = await ask(api, 'POST', `${wish.path}/proposal`, { input: wish.input }, stop);
    const fingerprint = proposed?.body.fingerprint;
    if (typeof fingerprint !== 'string') {
      refused++;
      continue;
    }
    const key = `${code}-${n}-${Math.floor(random() * 1e9)}`;
    const begun = await ask(
      api,
      'POST',
      wish.path,
      { input: wish.input, fingerprint, reason: reasonFor(key), code },
      stop,
      key,
    );
    if (begun?.status === 201)
      deeds.push({
        key,
        kind: wish.kind,
        run: String(begun.body.run),
        environment: String(begun.body.environment),
      });
    else if (begun && [404, 409, 422].includes(begun.status)) refused++;
    else if (begun) faults.push(`${wish.kind}: ${begun.status} ${JSON.stringify(begun.body).slice(0, 200)}`);
  }
  return { deeds, refused, faults };
}

/** So often somebody pauses the customer instead, or starts them again. */
const PAUSES = 0.05;

/** Pauses who is active, and starts who is paused. @returns what was answered, where that should not be */
async function pauseOrStart(
  code: string,
  api: Api,
  random: () => number,
  stop: AbortSignal,
): Promise<string | undefined> {
  const life = await ask(api, 'GET', `/customers/${code}/life`, undefined, stop);
  if (!life) return undefined;
  const isPaused = life.body.state === 'paused';
  const done = isPaused
    ? await startAgain(code, api, stop, `start ${code} ${random()}`)
    : await ask(
        api,
        'POST',
        `/customers/${code}/pause`,
        { code, reason: 'chaos', minutes: 0 },
        stop,
        `pause ${code} ${random()}`,
      );
  return !done || [201, 409].includes(done.status)
    ? undefined
    : `${isPaused ? 'start' : 'pause'}: ${done.status} ${JSON.stringify(done.body).slice(0, 200)}`;
}

/** Starts a paused customer; one who is not paused answers 409. */
export const startAgain = (
  code: string,
  api: Api,
  stop: AbortSignal,
  key: string,
): Promise<Answered | undefined> =>
  ask(api, 'POST', `/customers/${code}/start`, { reason: 'chaos' }, stop, key);

/** Resumes what has stopped. */
export async function takeUp(code: string, api: Api, stop: AbortSignal): Promise<void> {
  const listed = await ask(api, 'GET', `/customers/${code}/runs?find=stopped&limit=200`, undefined, stop);
  for (const run of (listed?.body.entries ?? []) as { id: string; state: string }[])
    if (run.state === 'stopped')
      await ask(api, 'POST', `/customers/${code}/runs/${run.id}/resume`, undefined, stop);
}

/** Resumes runs over several that have stopped. */
export async function takeUpSeveral(api: Api, stop: AbortSignal): Promise<void> {
  const listed = await ask(api, 'GET', '/parent-runs?limit=200', undefined, stop);
  for (const run of (listed?.body.entries ?? []) as { id: string; state: string }[])
    if (run.state === 'stopped') await ask(api, 'POST', `/parent-runs/${run.id}/resume`, undefined, stop);
}

/** What was asked of several customers: which versions they were moved to, and by which run. */
export interface Moving {
  readonly run: string;
  readonly version: number;
}

const MOVES_MS = 8_000;
/** The plan that they are moved along. */
export const CHAOS_PLAN = 'chaos';

/** Someone who makes a further version of a plan now and then, and moves several customers to it. */
export async function moveSeveral(
  codes: readonly string[],
  api: Api,
  random: () => number,
  stop: AbortSignal,
): Promise<Moving[]> {
  const moves: Moving[] = [];
  for (let version = 1; !stop.aborted; version++) {
    const plan = { name: 'Chaos', most: NO_LIMITS };
    const kept = await ask(api, 'PUT', `/plans/${CHAOS_PLAN}`, plan, stop, `plan ${version}`);
    if (kept?.status !== 200) break;
    const body = {
      version,
      customers: codes,
      count: codes.length,
      reason: 'chaos',
      atATime: 1 + Math.floor(random() * 3),
      pilots: Math.floor(random() * 2),
    };
    const key = `move ${version} ${random()}`;
    const begun = await ask(api, 'POST', `/plans/${CHAOS_PLAN}/moves`, body, stop, key);
    if (begun?.status === 201) moves.push({ run: String(begun.body.run), version });
    await pause(MOVES_MS * (0.5 + random()), undefined, { signal: stop }).catch(() => undefined);
    await takeUpSeveral(api, stop);
  }
  return moves;
}

/** Lets a customer go, asked twice with one key. @returns the run over their environments */
export async function letGo(code: string, api: Api, stop: AbortSignal): Promise<string> {
  const leave = () =>
    ask(api, 'POST', `/customers/${code}/leave`, { code, reason: 'chaos' }, stop, `leave ${code}`);
  const [one, two] = await Promise.all([leave(), leave()]);
  if (one?.status !== 201 || JSON.stringify(one.body) !== JSON.stringify(two?.body))
    throw new Error(`leave ${code}: ${JSON.stringify([one, two])}`);
  return String(one.body.run);
}

interface Wish {
  readonly kind: string;
  readonly path: string;
  readonly input: object;
}

const provisioning = (code: string, n: number, random: () => number): Wish => ({
  kind: 'provision',
  path: `/customers/${code}/changes/provision`,
  input: {
    environment: `e${n}x${Math.floor(random() * 1000)}`,
    people: 4 + Math.floor(random() * 8),
    site: 'KQ',
    // A third has desktops of people's own too.
    ...(random() < 0.33 ? { template: 'studio', drawers: 3, pilot: false } : { template: 'shared-office' }),
  },
});

async function wishFor(
  code: string,
  api: Api,
  environment: Known | undefined,
  random: () => number,
  stop: AbortSignal,
): Promise<Wish | undefined> {
  if (!environment) return undefined;
  const place = `/customers/${code}/environments/${environment.id}`;
  if (random() < 0.1) {
    const kept = await dropping(code, api, random, stop);
    if (kept) return kept;
  }
  const hosts = ((await ask(api, 'GET', `${place}/hosts`, undefined, stop))?.body.entries ?? []) as Host[];
  const own = hosts.filter(({ person }) => person !== null);
  if (own.length > 0 && random() < 0.4) return withDesktops(code, place, api, own, random, stop);
  const some = hosts.filter(() => random() < 0.5).map((one) => one.id);
  const chosen = some.length > 0 ? some : hosts.slice(0, 1).map((one) => one.id);
  const inputs: readonly (readonly [string, object])[] = [
    ['add-hosts', { pool: 'desks', hosts: 1 }],
    ['take-hosts', { pool: 'desks', hosts: 1 }],
    ['resize', { pool: 'desks', size: random() < 0.5 ? 's4x16' : 's2x8' }],
    ['grow-disk', { pool: 'desks', diskGiB: 128 + 32 * Math.floor(random() * 8) }],
    ...(['power-off', 'power-on', 'drain', 'put-back'] as const).flatMap((kind) => [
      [kind, { hosts: chosen }] as const,
      // Half of what may end by itself does.
      [
        kind,
        {
          hosts: chosen,
          ...(random() < 0.5 ? { until: Math.floor(api.now() + 600 * MINUTE * random()) + 1 } : {}),
        },
      ] as const,
    ]),
    ['maintain-hosts', { hosts: chosen, picture: random() < 0.5 }],
    ['end-maintenance', { hosts: chosen }],
    ['restart-hosts', { hosts: chosen }],
    ['retire', random() < 0.3 ? { data: 'destroyed' } : {}],
  ];
  const [kind, input] = oneOf(random, inputs) ?? ['drain', { hosts: chosen }];
  return { kind, path: `${place}/changes/${kind}`, input };
}

/** What is done with desktops of people's own: one of those of the environment gets, loses or keeps its person. */
async function withDesktops(
  code: string,
  place: string,
  api: Api,
  own: readonly Host[],
  random: () => number,
  stop: AbortSignal,
): Promise<Wish | undefined> {
  const listed = await ask(api, 'GET', `/customers/${code}/people?limit=40`, undefined, stop);
  const people = (listed?.body.entries ?? []) as { account: string }[];
  const [host, person] = [oneOf(random, own), oneOf(random, people)];
  if (!host || !person) return undefined;
  const hosts = [host.id];
  const data = random() < 0.5 ? 'archived' : 'wiped';
  const inputs: readonly (readonly [string, object])[] = [
    ['assign-desktops', { pool: 'draw', people: [person.account] }],
    ['assign-desktops', { pool: 'draw', people: [person.account] }],
    ['end-desktops', { hosts, data, host: random() < 0.5 ? 'stays' : 'goes' }],
    ['move-desktop', { host: host.id, person: person.account, data: random() < 0.5 ? 'kept' : data }],
    ['rebuild-desktops', { hosts }],
    ['keep-desktops', { hosts }],
    ['give-back', { hosts }],
    ['grow-disk', { pool: 'draw', diskGiB: 256 + 32 * Math.floor(random() * 8) }],
    ['add-hosts', { pool: 'draw', hosts: 1 }],
    ['retire-pool', { pool: 'draw' }],
  ];
  const [kind, input] = oneOf(random, inputs) ?? ['rebuild-desktops', { hosts }];
  return { kind, path: `${place}/changes/${kind}`, input };
}

/** Deletes something before its day that was kept for its data. */
async function dropping(
  code: string,
  api: Api,
  random: () => number,
  stop: AbortSignal,
): Promise<Wish | undefined> {
  const listed = await ask(api, 'GET', `/customers/${code}/retained`, undefined, stop);
  const one = oneOf(random, (listed?.body.entries ?? []) as { id: string; environmentId: string }[]);
  return (
    one && {
      kind: 'drop-retained',
      path: `/customers/${code}/environments/${one.environmentId}/changes/drop-retained`,
      input: { retained: [one.id] },
    }
  );
}
