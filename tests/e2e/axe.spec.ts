import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { address, api, expect, go, ready, signIn, test } from './laager';

interface Listed<Entry> {
  readonly entries: readonly Entry[];
}

/* Every page: axe finds no serious fault (WCAG 2.2 AA rules among them); in the night theme, none that colours make. */

test.beforeEach(async ({ page }) => {
  test.setTimeout(180_000);
  // Nothing is half-way between two colours when it is looked at.
  await page.emulateMedia({ reducedMotion: 'reduce' });
  await page.addInitScript(() => localStorage.setItem('laager-theme', 'light'));
});

test('the page to sign in has no serious fault, in either theme', async ({ page }) => {
  await go(page, '/sign-in');
  await expectNoFault(page, '/sign-in');
});

for (const path of [
  '/',
  '/customers',
  '/customers/new',
  '/customers/file',
  '/build',
  '/build/templates/studio',
  '/build/images',
  '/build/images/office',
  '/build/images/new',
  '/serve',
  '/runs',
  '/ground',
  '/ground/connect',
  '/ground/addresses',
  '/ground/networks',
  '/ground/shelf',
  '/ground/changes',
  '/money',
  '/money/plans',
  '/money/plans/edit',
  '/money/plans/move?plan=jetty&version=2',
  '/money/prices',
  '/trail',
  '/you',
  '/operators',
])
  test(`${path} has no serious fault, in either theme`, async ({ page }) => {
    await signIn(page, 'bram', path);
    await expectNoFault(page, path);
  });

test('no page inside a customer has a serious fault, in either theme', async ({ page }) => {
  await signIn(page, 'bram');
  await expectNone(
    page,
    [
      '',
      '/about',
      '/people',
      '/items',
      '/items/published',
      '/directory',
      '/gateway',
      '/plan',
      '/sizing',
      '/costs',
      '/runs',
      '/trail',
      '/life',
      '/provision',
    ].map((part) => `/customers/WAP${part}`),
  );
});

test('no page of a person, their desk or their groups has a serious fault, in either theme', async ({
  page,
}) => {
  await signIn(page, 'bram');
  const { entries } = await api<Listed<{ id: string }>>('/customers/SVG/people?limit=1');
  const person = `/customers/SVG/people/${entries[0]?.id ?? ''}`;
  await expectNone(page, [
    '/customers/SVG/people',
    '/customers/SVG/items',
    '/customers/SVG/items/published',
    '/customers/FPS/directory',
    person,
    `${person}/desk`,
  ]);
});

test('the page where people come in to their desk has no serious fault, in either theme', async ({
  page,
}) => {
  for (const path of ['/desk', '/desk?at=svg&why=unknown']) {
    await go(page, path);
    await expectNoFault(page, path);
  }
});

test('no page of an environment or a run has a serious fault, in either theme', async ({ page }) => {
  await signIn(page, 'bram');
  const environments = await api<Listed<{ id: string; state: string }>>('/customers/WAP/environments');
  const living = environments.entries.find((one) => one.state === 'serving')?.id ?? '';
  const retired = environments.entries.find((one) => one.state === 'retired')?.id ?? '';
  const runs = await api<Listed<{ id: string }>>('/customers/WAP/runs');
  const hosts = await api<Listed<{ id: string }>>(`/customers/WAP/environments/${living}/hosts`);
  await expectNone(page, [
    `/customers/WAP/environments/${living}`,
    `/customers/WAP/environments/${living}/retire`,
    `/customers/WAP/environments/${retired}`,
    `/customers/WAP/hosts/${hosts.entries[0]?.id ?? ''}`,
    `/customers/WAP/runs/${runs.entries[0]?.id ?? ''}`,
  ]);
});

test('nothing that opens over a page has a serious fault, nor a page that is not there', async ({ page }) => {
  await signIn(page, 'bram', '/customers/SVG/provision');
  await page.getByLabel('Name of the environment').fill('axe');
  await page.getByRole('button', { name: 'Provision…' }).click();
  await expect(page.getByRole('dialog').getByLabel('What this does')).toBeVisible();
  await expectNoFault(page, 'the dialog');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+k');
  await expect(page.getByLabel('Find', { exact: true })).toBeFocused();
  await expectNoFault(page, 'the finder');
  await page.goto(`${address()}/nowhere`);
  await ready(page);
  await expectNoFault(page, 'a page that is not there');
});

async function expectNone(page: Page, paths: readonly string[]): Promise<void> {
  for (const path of paths) {
    await go(page, path);
    await expect(page.locator('main')).toBeVisible();
    await expectNoFault(page, path);
  }
}

/** The markup is the same in both themes; only the colours differ. */
async function expectNoFault(page: Page, where: string): Promise<void> {
  const theme = (name: string) =>
    page.evaluate((one) => (document.documentElement.dataset.theme = one), name);
  await theme('light');
  expect(await faults(new AxeBuilder({ page }), `${where}, light`)).toEqual([]);
  await theme('night');
  expect(
    await faults(
      new AxeBuilder({ page }).withRules(['color-contrast', 'link-in-text-block']),
      `${where}, night`,
    ),
  ).toEqual([]);
}

async function faults(axe: AxeBuilder, where: string): Promise<string[]> {
  const { violations } = await axe.analyze();
  return violations
    .filter((one) => one.impact === 'serious' || one.impact === 'critical')
    .map(
      (one) =>
        `${where}: ${one.id} ${one.nodes
          .map((node) => node.target.join(' '))
          .slice(0, 3)
          .join(', ')}`,
    );
}
