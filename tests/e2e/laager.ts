import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test as base, type Locator, type Page } from '@playwright/test';
import type { Stacks } from './setup';
import { DEMO_PASSWORD, DIRECTORY_SECRET } from '../../src/demo/scenario';

/** Where this worker's demo is. */
export const address = (): string => stacks().addresses[Number(process.env.TEST_PARALLEL_INDEX ?? 0)] ?? '';

export const token = (): string => stacks().token;

const stacks = (): Stacks =>
  JSON.parse(
    process.env.LAAGER_E2E ??
      '{"addresses":[],"logs":[],"token":"","providers":[],"secret":"","mails":[],"directories":[]}',
  ) as Stacks;

const mine = (of: readonly string[]): string => of[Number(process.env.TEST_PARALLEL_INDEX ?? 0)] ?? '';

/** The way in that was mailed to somebody last. */
export async function mailedLink(mail: string): Promise<string> {
  let link = '';
  const read = async (): Promise<string> => {
    const response = await fetch(`${mine(stacks().mails)}/messages`);
    const { messages } = (await response.json()) as { messages: { recipients: string; body: string }[] };
    const last = messages.filter((one) => one.recipients.includes(mail)).at(-1);
    return (link = /http\S+/.exec(last?.body ?? '')?.[0] ?? '');
  };
  await expect.poll(read, { timeout: 15_000 }).not.toBe('');
  return link;
}

/** Asks a customer's simulated directory over SCIM, as whoever keeps it. */
export async function directory<Answer>(
  code: string,
  method: string,
  path: string,
  body?: object,
): Promise<Answer> {
  const response = await fetch(
    `${mine(stacks().directories)}/realms/${code.toLowerCase()}.example/scim/v2${path}`,
    {
      method,
      headers: { authorization: `Bearer ${DIRECTORY_SECRET}`, 'content-type': 'application/scim+json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    },
  );
  expect(response.ok, `${method} ${path}: ${response.status}`).toBe(true);
  const text = await response.text();
  return (text === '' ? {} : JSON.parse(text)) as Answer;
}

/** Someone takes something away at the simulated provider itself, past Laager. @returns its name there */
export async function takeAwayOutside(customer: string, kind: string, name: string): Promise<string> {
  const provider = stacks().providers[Number(process.env.TEST_PARALLEL_INDEX ?? 0)] ?? '';
  const ask = async (method: string, path: string, body?: object, token?: string): Promise<unknown> => {
    const response = await fetch(provider + path, {
      method,
      headers: {
        'content-type': 'application/json',
        ...(token === undefined ? {} : { authorization: `Bearer ${token}` }),
      },
      ...(body ? { body: JSON.stringify(body) } : {}),
    });
    expect(response.ok, `${method} ${path}`).toBe(true);
    return response.json();
  };
  const { token: own } = (await ask('POST', '/v1/token', { account: 'tern', secret: stacks().secret })) as {
    token: string;
  };
  const { entries } = (await ask('GET', `/v1/resources?customer=${customer}`, undefined, own)) as {
    entries: { id: string; kind: string; name: string }[];
  };
  const found = entries.find((one) => one.kind === kind && one.name === name);
  expect(found, `${kind} ${name}`).toBeDefined();
  await ask('POST', `/control/resources/${found?.id ?? ''}`, { state: 'gone', attributes: {} });
  return found?.id ?? '';
}

/** Goes to a page and waits until it can be used, as a person does who sees it come. */
export async function go(page: Page, path: string): Promise<void> {
  await page.goto(address() + path);
  await ready(page);
}

/** Until every island of the page has come to life. */
export const ready = (page: Page): Promise<void> => expect(page.locator('astro-island[ssr]')).toHaveCount(0);

/** Follows a link and waits until the page that it leads to can be used. */
export async function follow(page: Page, link: Locator): Promise<void> {
  await Promise.all([page.waitForEvent('load'), link.click()]);
  await ready(page);
}

/** Signs in as one of the demo's operators and goes to a page. The form itself has tests of its own. */
export async function signIn(page: Page, who = 'ida', path = '/'): Promise<void> {
  await enter(page, who);
  await go(page, path);
}

/** Signs in without going anywhere. */
export async function enter(page: Page, who: string): Promise<void> {
  const response = await page.request.post(`${address()}/api/v1/session`, {
    headers: { origin: address() },
    data: { mail: `${who}@terntallow.example`, password: DEMO_PASSWORD },
  });
  expect(response.status()).toBe(204);
}

/** Calls the API as whoever is signed in on a page. */
export async function sendAs<Answer>(
  page: Page,
  method: string,
  path: string,
  body?: unknown,
): Promise<Answer> {
  const response = await page.request.fetch(`${address()}/api/v1${path}`, {
    method,
    headers: { origin: address() },
    ...(body === undefined ? {} : { data: body }),
  });
  expect(response.ok(), `${method} ${path}: ${response.status()} ${await response.text()}`).toBe(true);
  return (await response.json()) as Answer;
}

/** Calls the API as ida. */
export async function api<Answer>(path: string, method = 'GET', body?: unknown): Promise<Answer> {
  const response = await fetch(`${address()}/api/v1${path}`, {
    method,
    headers: {
      authorization: `Bearer ${token()}`,
      ...(body === undefined ? {} : { 'content-type': 'application/json' }),
    },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  expect(response.ok, `${method} ${path}: ${response.status}`).toBe(true);
  return (await response.json()) as Answer;
}

/** Proposes a change and begins it as proposed, as ida. */
/** Lets the demo's time go on to a weekday's forenoon, unless it is at work: people are in then. */
export async function workingHour(): Promise<void> {
  const { now } = await api<{ now: number }>('/clock');
  const at = new Date(now);
  const isWork = (date: Date): boolean =>
    date.getUTCDay() % 6 !== 0 && date.getUTCHours() >= 9 && date.getUTCHours() < 15;
  if (isWork(at)) return;
  do at.setTime(at.getTime() + 3_600_000);
  while (!isWork(at));
  await api('/clock', 'PUT', { stepMs: at.getTime() - now });
  await expect
    .poll(async () => (await api<{ entries: unknown[] }>('/customers/SVG/sessions')).entries.length)
    .toBeGreaterThan(0);
}

export async function begin(
  place: string,
  kind: string,
  input: unknown,
  code?: string,
): Promise<{ run: string; environment: string }> {
  const path = `${place}/changes/${kind}`;
  const { fingerprint } = await api<{ fingerprint: string }>(`${path}/proposal`, 'POST', { input });
  return api(path, 'POST', { input, fingerprint, reason: 'by test', ...(code ? { code } : {}) });
}

/** The last lines that each part of this worker's demo has logged. */
async function lastLines(): Promise<string> {
  const folder = stacks().logs[Number(process.env.TEST_PARALLEL_INDEX ?? 0)] ?? '';
  const files = await readdir(folder);
  const ends = files.map(async (file) => {
    const lines = (await readFile(join(folder, file), 'utf8')).trimEnd().split('\n');
    return `${file}\n${lines.slice(-8).join('\n')}`;
  });
  return (await Promise.all(ends)).join('\n');
}

/** The message of an error that a test throws within a page, to see what comes of it. */
export const ON_PURPOSE = 'thrown by a test';

/** Fails a test when the page logs an error or throws. A failure tells what the page showed and the parts logged. */
export const test = base.extend<{ quiet: undefined }>({
  quiet: [
    async ({ page }, use, info) => {
      const errors: string[] = [];
      page.on('response', (response) => {
        if (response.status() >= 500)
          errors.push(`${response.status()} for ${response.request().method()} ${response.url()}`);
      });
      page.on('pageerror', ({ message }) => message !== ON_PURPOSE && errors.push(message));
      page.on('console', (message) => {
        // A refusal is an answer, though the browser logs it; so is that a page is not there.
        const answered = /status of (401|409|412|422)/.test(message.text());
        const offline = message.text().includes('ERR_INTERNET_DISCONNECTED');
        const missing = message.location().url.endsWith('/nowhere');
        if (message.type() === 'error' && !answered && !missing && !offline) errors.push(message.text());
      });
      await use(undefined);
      if (info.status !== info.expectedStatus || errors.length > 0) {
        const shown = await page.locator('body').ariaSnapshot();
        process.stdout.write(`\n${page.url()} showed\n${shown}\n${await lastLines()}\n`);
      }
      expect(errors).toEqual([]);
    },
    { auto: true },
  ],
});

export { expect } from '@playwright/test';
