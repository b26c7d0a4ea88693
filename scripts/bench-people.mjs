// A directory of many people: taken in for the first time, and after a change of ten of them.
import { setTimeout as pause } from 'node:timers/promises';
import { Refusal } from './lib.mjs';

const PEOPLE = 50_000;
const GROUPS = 200;
const DEEP = 8;
const PART = 5_000;
const TOKEN = 'a-reader-of-fifty-thousand';
const LONGEST_MS = 300_000;

const account = (n) => `quill.saltash${n}`;
const person = (n, family = `Saltash ${n}`) => ({
  account: account(n),
  given: 'Quill',
  family,
  mail: `${account(n)}@big.example`,
  unit: `Houses/House ${n % 40}`,
  groups: [`Group ${n % GROUPS}`],
});
// Each stands in one of the level above it.
const groups = Array.from({ length: GROUPS }, (_, n) => ({
  name: `Group ${n}`,
  groups: n + GROUPS / DEEP < GROUPS ? [`Group ${n + GROUPS / DEEP}`] : [],
}));

/**
 * Links a customer's directory of fifty thousand, and changes ten of them.
 * @param {{ address: string, cookie: string, directory: string, customer: { code: string, realm: string } }} where
 * @returns {Promise<{ first: number, ten: number, gone: number }>} the seconds until they were here, until the ten were
 * seen, and until they were gone again
 */
export async function measureDirectory({ address, cookie, directory, customer: { code, realm } }) {
  const ask = async (method, path, body) => {
    const response = await fetch(`${address}/api/v1/customers/${code}${path}`, {
      method,
      headers: { cookie, origin: address, 'content-type': 'application/json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    if (!response.ok) throw new Refusal(`${method} ${path}: ${response.status} ${await response.text()}`);
    return response.status === 204 ? undefined : response.json();
  };
  await fill(directory, realm);
  await ask('PUT', '/directory', { secret: TOKEN, units: [], groups: [], reason: 'measured' });
  const since = await readAtOf(ask);
  const first = await secondsOf(async () => {
    await ask('POST', '/directory/reading', { agree: null });
    await until(async () => {
      const { state, says, readAt } = await ask('GET', '/directory');
      if (state === 'stopped') throw new Refusal(`reading stopped: ${says}`);
      return readAt !== since && state === 'linked';
    });
  });
  const { entries } = await ask('GET', `/people?limit=1&find=${account(PEOPLE - 1)}`);
  if (entries.length !== 1) throw new Refusal('the last of them is not here');
  const here = (find) => ask('GET', `/people?limit=20&find=${find}`).then(({ entries }) => entries.length);
  const seen = (isSo) =>
    secondsOf(async () => {
      await ask('POST', '/directory/reading', { agree: null });
      await until(isSo);
    });
  // It was filled just before: what was changed within its own second is told once more.
  const filled = await readAtOf(ask);
  await seen(async () => (await readAtOf(ask)) !== filled);
  await rename(directory, realm);
  const ten = await seen(async () => (await here('renamed')) === 10);
  await remove(directory, realm);
  const gone = await seen(async () => (await here('renamed')) === 0);
  return { first, ten, gone };
}

const readAtOf = async (ask) => (await ask('GET', '/directory')).readAt;

async function secondsOf(work) {
  const began = performance.now();
  await work();
  return Math.round((performance.now() - began) / 100) / 10;
}

async function until(isSo) {
  const began = Date.now();
  while (!(await isSo())) {
    if (Date.now() - began > LONGEST_MS) throw new Refusal('it did not come about in five minutes');
    await pause(50);
  }
}

/** Fills the simulated directory in parts, and its groups with the last of them. */
async function fill(directory, realm) {
  const members = new Map(groups.map(({ name }) => [name, []]));
  for (let at = 0; at < PEOPLE; at += PART) {
    const people = Array.from({ length: PART }, (_, n) => person(at + n));
    for (const one of people) members.get(one.groups[0]).push({ value: `u-${one.account}`, type: 'User' });
    const alone = people.map(({ groups: _in, ...one }) => one);
    await put(directory, realm, { token: TOKEN, people: alone, groups: at === 0 ? groups : [] }, at > 0);
  }
  for (const [name, some] of members)
    await scim(directory, realm, `/Groups/g-${name.toLowerCase().replace(' ', '-')}`, [
      { op: 'add', path: 'members', value: some },
    ]);
}

async function put(directory, realm, body, isMore) {
  const response = await fetch(`${directory}/control/realms/${realm}${isMore ? '?add=1' : ''}`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!response.ok) throw new Refusal(`filling the directory answered ${response.status}`);
}

/** RFC 7644, 3.5.2. */
async function scim(directory, realm, path, operations) {
  const response = await fetch(`${directory}/realms/${realm}/scim/v2${path}`, {
    method: 'PATCH',
    headers: { authorization: `Bearer ${TOKEN}`, 'content-type': 'application/scim+json' },
    body: JSON.stringify({
      schemas: ['urn:ietf:params:scim:api:messages:2.0:PatchOp'],
      Operations: operations,
    }),
  });
  if (!response.ok) throw new Refusal(`PATCH ${path} answered ${response.status}: ${await response.text()}`);
}

async function remove(directory, realm) {
  for (let n = 0; n < 10; n++) {
    const path = `/Users/u-${account(n * 4_000)}`;
    const response = await fetch(`${directory}/realms/${realm}/scim/v2${path}`, {
      method: 'DELETE',
      headers: { authorization: `Bearer ${TOKEN}` },
    });
    if (!response.ok) throw new Refusal(`DELETE ${path} answered ${response.status}`);
  }
}

async function rename(directory, realm) {
  for (let n = 0; n < 10; n++)
    await scim(directory, realm, `/Users/u-${account(n * 4_000)}`, [
      { op: 'replace', path: 'name.familyName', value: `Renamed ${n}` },
    ]);
}
