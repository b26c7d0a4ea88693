import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { address, api, expect, signIn, test } from './laager';

interface Listed<Entry> {
  readonly entries: readonly Entry[];
}

/** Every page, in both themes: axe finds no serious fault (WCAG 2.2 AA rules among them). */
for (const theme of ['light', 'night'] as const)
  test(`no page has a serious fault, ${theme}`, async ({ page }) => {
    test.setTimeout(180_000);
    await page.addInitScript((name) => localStorage.setItem('laager-theme', name), theme);
    await page.goto(`${address()}/sign-in`);
    await expectNoFault(page, '/sign-in');
    await signIn(page, 'bram');
    const environments = await api<Listed<{ id: string; state: string }>>('/customers/WAP/environments');
    const living = environments.entries.find((one) => one.state === 'serving')?.id ?? '';
    const retired = environments.entries.find((one) => one.state === 'retired')?.id ?? '';
    const runs = await api<Listed<{ id: string }>>('/customers/WAP/runs');
    const paths = [
      '/',
      '/customers',
      '/build',
      '/serve',
      '/runs',
      '/ground',
      '/money',
      '/trail',
      ...['', '/people', '/costs', '/runs', '/trail', '/provision'].map((part) => `/customers/WAP${part}`),
      `/customers/WAP/environments/${living}`,
      `/customers/WAP/environments/${living}/retire`,
      `/customers/WAP/environments/${retired}`,
      `/customers/WAP/runs/${runs.entries[0]?.id ?? ''}`,
    ];
    for (const path of paths) {
      await page.goto(address() + path);
      await expect(page.locator('main')).toBeVisible();
      await expectNoFault(page, path);
    }
    await page.goto(`${address()}/customers/SVG/provision`);
    await page.getByLabel('Name of the environment').fill('axe');
    await page.getByRole('button', { name: 'Provision…' }).click();
    await expect(page.getByRole('dialog').getByLabel('What this does')).toBeVisible();
    await expectNoFault(page, 'the dialog');
  });

async function expectNoFault(page: Page, where: string): Promise<void> {
  const { violations } = await new AxeBuilder({ page }).analyze();
  const serious = violations
    .filter((one) => one.impact === 'serious' || one.impact === 'critical')
    .map(
      (one) =>
        `${where}: ${one.id} ${one.nodes
          .map((node) => node.target.join(' '))
          .slice(0, 3)
          .join(', ')}`,
    );
  expect(serious).toEqual([]);
}
