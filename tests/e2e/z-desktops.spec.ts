import { expect, follow, signIn, test } from './laager';

/* Desktops of people's own: somebody leaves, is back, and another gets what was theirs. */

test('a desktop is kept for who left, given back, and ended only once the code is typed', async ({
  page,
}) => {
  await signIn(page, 'ida', '/customers/FPS');
  await follow(page, page.getByRole('link', { name: /studio/ }).first());
  const table = page.getByRole('region', { name: 'desktops of draw' });
  const row = (host: string) => table.getByRole('row').filter({ hasText: host });
  await expect(row('FPS-DRAW04')).toContainText('left, kept until');
  await row('FPS-DRAW04').getByRole('checkbox').check();
  // Only what can be done with it is offered.
  await expect(page.getByRole('button', { name: 'Has left…' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Is back…' }).click();
  await page.getByRole('button', { name: 'Is back for FPS' }).click();
  await expect(row('FPS-DRAW04')).toContainText('serving', { timeout: 40_000 });

  await row('FPS-DRAW03').getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Move…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('To whom, by account').fill('nobody.known');
  await expect(dialog.getByRole('alert')).toContainText('is not in the directory');
  await dialog.getByRole('button', { name: 'Back' }).click();

  await page.getByRole('button', { name: 'End…' }).click();
  const end = page.getByRole('dialog').getByRole('button', { name: 'End for FPS' });
  await expect(page.getByRole('dialog')).toContainText('personal disk');
  await expect(end).toBeDisabled();
  await page.getByLabel('Type FPS').fill('svg');
  await expect(end).toBeDisabled();
  await page.getByLabel('Type FPS').fill('fps');
  await end.click();
  await expect(row('FPS-DRAW03')).toContainText('nobody’s yet');
  await expect(page.getByRole('list', { name: 'Disks of draw that are kept' })).toContainText(
    'put aside until',
  );
});

test('people are given desktops, and who is not known is left out by name', async ({ page }) => {
  await signIn(page, 'ida', '/customers/FPS');
  await follow(page, page.getByRole('link', { name: /studio/ }).first());
  await page.getByRole('button', { name: 'Assign…' }).first().click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('To whom, by account').fill('nobody.known');
  await expect(dialog).toContainText('nobody.known: not in the directory');
  await expect(dialog.getByRole('button', { name: 'Assign for FPS' })).toBeDisabled();
});
