import { expect, test as base, type Page } from '@playwright/test';
import { DEMO_PASSWORD } from '../../src/demo/scenario';

export const address = (): string => process.env.LAAGER_E2E_ADDRESS ?? '';

/** Signs in as one of the demo's operators. */
export async function signIn(page: Page, who = 'ida'): Promise<void> {
  await page.goto(`${address()}/sign-in`);
  await page.getByLabel('Mail address').fill(`${who}@terntallow.example`);
  await page.getByLabel('Password').fill(DEMO_PASSWORD);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('navigation', { name: 'Main' })).toBeVisible();
}

/** Calls the API as ida. */
export async function api<Answer>(path: string, method = 'GET', body?: unknown): Promise<Answer> {
  const response = await fetch(`${address()}/api/v1${path}`, {
    method,
    headers: {
      authorization: `Bearer ${process.env.LAAGER_E2E_TOKEN ?? ''}`,
      ...(body === undefined ? {} : { 'content-type': 'application/json' }),
    },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  expect(response.ok, `${method} ${path}: ${response.status}`).toBe(true);
  return (await response.json()) as Answer;
}

/** Fails a test when the page logs an error or throws. */
export const test = base.extend<{ quiet: undefined }>({
  quiet: [
    async ({ page }, use) => {
      const errors: string[] = [];
      page.on('pageerror', (error) => errors.push(error.message));
      page.on('console', (message) => {
        // A refusal is an answer, though the browser logs it.
        if (message.type() === 'error' && !/status of (401|409|412|422)/.test(message.text()))
          errors.push(message.text());
      });
      await use(undefined);
      expect(errors).toEqual([]);
    },
    { auto: true },
  ],
});

export { expect } from '@playwright/test';
