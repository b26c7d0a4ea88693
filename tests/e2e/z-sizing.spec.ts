import { expect, follow, signIn, test } from './laager';

/* How large a pool should be: by what was measured, by what work takes, and as points to choose from. */

test('ways to carry people are chosen and compared, with the keyboard too', async ({ page }) => {
  await signIn(page, 'ida', '/customers/SVG/sizing');
  await expect(page.getByRole('heading', { name: 'The cheapest with a host to spare' })).toBeVisible();
  const points = page.getByRole('button', { name: /a month, \d+ (person|people) hit/ });
  await points.first().focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'The chosen one' })).toBeVisible();
  await points.last().focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Two side by side' })).toBeVisible();
  await expect(page.getByText(/The second costs/)).toBeVisible();
  // What is no number is told beside its field, and the picture says why it is empty.
  await page.getByLabel('People', { exact: true }).fill('many');
  await expect(page.getByText('Something that was typed is no number.')).toBeVisible();
  await page.getByLabel('People', { exact: true }).fill('0');
  await expect(page.getByText('There is nobody to carry.')).toBeVisible();
  await page.getByLabel('People', { exact: true }).fill('96');
  await page.getByLabel('Arrivals an hour, at the busiest').fill('60');
  await expect(page.getByText(/10 seats are kept ready/)).toBeVisible();
});

test('what work takes at a customer is said with where it comes from', async ({ page }) => {
  await signIn(page, 'ida', '/customers/SVG/sizing');
  await page.getByRole('button', { name: 'Change light' }).click();
  await page.getByLabel('Memory, GiB, light').fill('1.5');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('say where the figures come from');
  await page.getByLabel('Where the figures come from').fill('a week in November');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByRole('cell', { name: 'a week in November' })).toBeVisible();
  await page.getByRole('button', { name: 'Change light' }).click();
  await page.getByRole('button', { name: 'As usual again' }).click();
  await expect(page.getByRole('cell', { name: 'a week in November' })).toHaveCount(0);
});

test('a measured week leads to the pool, and its hosts are made anew of another image from there', async ({
  page,
}) => {
  await signIn(page, 'ida', '/customers/SVG/sizing');
  await expect(page.getByRole('img', { name: /At most \d+ at once/ }).first()).toBeVisible();
  await follow(page, page.getByRole('link', { name: 'front, desks' }));
  await page.getByRole('button', { name: 'Another image' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Of', { exact: true }).selectOption('office@3');
  await expect(dialog).toContainText('office@3 is on trial');
  await expect(dialog.getByRole('button', { name: 'Make anew for SVG' })).toBeEnabled({ timeout: 20_000 });
});
