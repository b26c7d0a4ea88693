import { expect, follow, go, ready, signIn, test } from './laager';

/* A proposal is held by one, sent to another by its link, and begun by them. */

test('a proposal is held, found by its link, and begun by somebody else', async ({ page, browser }) => {
  await signIn(page, 'ida', '/customers/SVG/provision');
  await page.getByLabel('Name of the environment').fill('held');
  await expect(page.getByRole('button', { name: 'Provision…' })).toBeEnabled({ timeout: 20_000 });
  await page.getByRole('button', { name: 'Provision…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Why').fill('they think it over');
  await expect(dialog.getByRole('button', { name: 'Hold', exact: true })).toBeEnabled({ timeout: 20_000 });
  await dialog.getByRole('button', { name: 'Hold', exact: true }).click();
  await page.waitForURL(/\/holds\//);
  await ready(page);
  await expect(page.getByText('held by Ida Quist, kept until')).toBeVisible();
  const link = new URL(page.url()).pathname;

  const other = await browser.newContext();
  try {
    const second = await other.newPage();
    await signIn(second, 'bram', '/customers/SVG/runs');
    await follow(second, second.getByRole('link', { name: 'Provision held' }).first());
    expect(new URL(second.url()).pathname).toBe(link);
    await second.getByRole('button', { name: 'Provision for SVG' }).click();
    await second.waitForURL(/\/runs\//);
    await expect(second.getByRole('heading', { name: 'Provision held' })).toBeVisible();
  } finally {
    await other.close();
  }
  // Begun once, it is no more.
  expect((await page.request.get(page.url())).status()).toBe(404);
});

test('what is held is given back from its page', async ({ page }) => {
  await signIn(page, 'ida', '/customers/SVG/runs');
  await go(page, '/customers/SVG/provision');
  await page.getByLabel('Name of the environment').fill('brief');
  await expect(page.getByRole('button', { name: 'Provision…' })).toBeEnabled({ timeout: 20_000 });
  await page.getByRole('button', { name: 'Provision…' }).click();
  const hold = page.getByRole('dialog').getByRole('button', { name: 'Hold', exact: true });
  await expect(hold).toBeEnabled({ timeout: 20_000 });
  await hold.click();
  await page.waitForURL(/\/holds\//);
  await ready(page);
  await page.getByRole('button', { name: 'Give back' }).click();
  await page.waitForURL(/\/runs$/);
  await expect(page.getByRole('link', { name: 'Provision brief' })).toHaveCount(0);
});

test('what needs approval is asked for, seen by leads, and begun by one', async ({ page, browser }) => {
  const other = await browser.newContext();
  const lead = await other.newPage();
  const always = lead.getByRole('checkbox', { name: 'Provision', exact: true });
  const keep = lead.getByRole('button', { name: 'Save the rule' });
  await signIn(lead, 'bram', '/operators');
  await always.check();
  await keep.click();
  await expect(lead.getByText('in force')).toBeVisible();
  try {
    await signIn(page, 'ida', '/customers/SVG/provision');
    await page.getByLabel('Name of the environment').fill('asked');
    await expect(page.getByText('provision needs approval by another lead')).toBeVisible({ timeout: 20_000 });
    await page.getByRole('button', { name: 'Provision…' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('keep it for').selectOption('three days');
    await dialog.getByLabel('Why').fill('they grow');
    const ask = dialog.getByRole('button', { name: 'Ask for approval' });
    await expect(ask).toBeEnabled({ timeout: 20_000 });
    await expect(dialog.getByRole('button', { name: 'Provision for SVG' })).toHaveCount(0);
    await ask.click();
    await page.waitForURL(/\/holds\//);
    await expect(page.getByText('waits for a lead')).toBeVisible();
    await expect(page.getByRole('button', { name: /for SVG/ })).toHaveCount(0);

    await go(lead, '/runs');
    await follow(lead, lead.getByRole('link', { name: 'Provision asked' }));
    await expect(lead.getByText('waits for your approval')).toBeVisible();
    await lead.getByRole('button', { name: 'Approve: provision for SVG' }).click();
    await lead.waitForURL(/\/runs\//);
    await expect(lead.getByText('asked for by Ida Quist: they grow')).toBeVisible();
  } finally {
    await go(lead, '/operators');
    await always.uncheck();
    await keep.click();
    await expect(lead.getByText('nothing needs it')).toBeVisible();
    await other.close();
  }
});
