import { openAuthority } from '../server/setup/authority';
import { address, expect, go, ready, signIn, takeAwayOutside, test } from './laager';

/* What stands before any host does: networks, gateways, the shelf, and who comes in. */

test('a peering that is gone on one side is seen where one looks, and mended from there', async ({
  page,
}) => {
  await signIn(page, 'ida', '/ground/networks');
  const row = page.getByRole('row', { name: /CAO/ });
  await expect(row).toContainText('both sides');
  await takeAwayOutside('CAO', 'peering', 'services to CAO');
  await expect(row).toContainText('no way back');
  await row.getByRole('button', { name: 'Try' }).click();
  await expect(row.getByRole('status')).toContainText('no way leads back');
  const told = page.waitForResponse((response) => response.url().endsWith('/proposal'));
  await row.getByRole('button', { name: 'Mend' }).click();
  await told;
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('Copperbeck Assay Office');
  await expect(dialog).toContainText('peering services to CAO');
  await dialog.getByRole('button', { name: 'Mend for CAO' }).click();
  await expect(dialog).toHaveCount(0);
  await expect(row).toContainText('both sides', { timeout: 40_000 });
  await row.getByRole('button', { name: 'Try' }).click();
  await expect(row.getByRole('status')).toContainText('its directory is reached');
});

test('a certificate is read as it is pasted, kept when it fits, and served with the next press', async ({
  page,
}) => {
  // The demo's clock is some days behind the wall's at most.
  const DAY = 86_400_000;
  const span = { from: Date.now() - 30 * DAY, until: Date.now() + 300 * DAY };
  const authority = openAuthority(span);
  const make = (name: string): string => {
    const { certificate, issuers, key } = authority.leaf([name], span);
    return [certificate, ...issuers, key].join('');
  };
  try {
    await signIn(page, 'ida', '/customers/MHP/gateway');
    await expect(page.getByText(/until .*, \d+ days/).first()).toBeVisible();
    const field = page.getByLabel(/As text/);
    await field.fill('nothing of the kind');
    await expect(page.getByText(/holds no certificate/)).toBeVisible();
    await field.fill(make('desks.fps.example'));
    await expect(page.getByText(/desks\.mhp\.example is not among its names/)).toBeVisible();
    await expect(page.getByRole('button', { name: 'Keep it for MHP' })).toHaveCount(0);
    await field.fill(make('desks.mhp.example'));
    await page.getByRole('button', { name: 'Keep it for MHP' }).click();
    await page.getByRole('button', { name: 'Serve the newest at Kelp Quay' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByRole('button', { name: /^Serve/ }).click();
    await expect(page.getByText('answers with the newest')).toBeVisible({ timeout: 40_000 });
  } finally {
    authority.close();
  }
});

test('somebody comes in by the identity service, as what their groups make them', async ({ page }) => {
  await page.goto(`${address()}/sign-in?next=/customers`);
  await ready(page);
  await page.getByRole('link', { name: /Tern & Tallow/ }).click();
  await page.getByRole('link', { name: /A visitor/ }).click();
  await expect(page.getByRole('alert')).toContainText('in no group that may come in here');
  await page.context().clearCookies();
  await page.getByRole('link', { name: /Tern & Tallow/ }).click();
  await page.getByRole('link', { name: /Oskar Lind/ }).click();
  await page.waitForURL(`${address()}/customers`);
  await go(page, '/you');
  await expect(page.getByText('bookkeeper').first()).toBeVisible();
});

test('a server that nobody owns is put on the shelf, and what it lacks is told', async ({ page }) => {
  await signIn(page, 'bram', '/ground/shelf');
  const stray = page.getByRole('listitem').filter({ hasText: 'OLD-PLOTTER' });
  await expect(stray).toContainText('lacks updates, office set');
  await stray.getByRole('button', { name: 'Put on the shelf' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: /^Put on the shelf for/ }).click();
  await expect(dialog).toHaveCount(0);
  await expect(page.getByText('made by hand')).toBeVisible();
  await expect(page.getByText('being built').first()).toBeVisible();
});

/** Of the puppet theatre, whose directory no other test links: two tests of one customer may meet in one demo. */
test('a directory is read with its own token, and nobody comes before one says so', async ({ page }) => {
  await signIn(page, 'ida', '/customers/APT/directory');
  await page.getByLabel('Token to read with').fill('a wrong one');
  await expect(page.getByText(/token is wrong/)).toBeVisible();
  await page.getByLabel('Token to read with').fill('a-candle-for-the-reader');
  await page
    .getByLabel(/^Office · /)
    .first()
    .check();
  await page.getByRole('button', { name: 'Keep the link of APT' }).click();
  const take = page.getByRole('button', { name: /^Take \d+ people in for APT/ });
  await take.click();
  await expect(page.getByText('Followed: read again every minute.')).toBeVisible();
});

test('the customers’ list is chosen from, and the choice is kept under a name', async ({ page }) => {
  await signIn(page, 'ida', '/customers');
  await page.getByLabel('Tag', { exact: true }).selectOption('sector:veterinary');
  await expect(page.getByRole('heading', { name: /^1 of \d+ customers/ })).toBeVisible();
  await page.getByLabel('Keep this view as').fill('Vets');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Vets', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await go(page, '/customers');
  await page.getByRole('button', { name: 'Vets', exact: true }).click();
  await expect(page).toHaveURL(/tag=sector%3Aveterinary/);
  await expect(page.getByRole('row', { name: /Saltmirren/ })).toBeVisible();
  await page.getByRole('button', { name: 'Keep Vets no longer' }).click();
  await expect(page.getByRole('button', { name: 'Vets', exact: true })).toHaveCount(0);
});
