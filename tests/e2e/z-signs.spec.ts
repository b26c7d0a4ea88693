import { api, expect, follow, signIn, test, workingHour } from './laager';

interface Shown {
  readonly looks: readonly { readonly says: string; readonly href: string }[];
}

test('a host that is unwell is on Watch, taken on, restarted from its page, and off Watch by itself', async ({
  page,
  context,
}) => {
  await workingHour();
  await signIn(page);
  const line = page.getByRole('listitem').filter({ hasText: 'SVG-CLINIC02: signing in takes' });
  await expect(line).toContainText(/\d+ people slowed/);
  await line.getByRole('button', { name: /^I am on it/ }).click();
  await expect(line).toContainText('Ida Quist is on it');

  // Somebody else sees that; what can wait is put off for a reason.
  const other = await context.newPage();
  await signIn(other, 'bram');
  await expect(other.getByText('Ida Quist is on it')).toBeVisible();
  await other.getByRole('button', { name: 'Put off: CAO-DESKS01: disk 94 % full' }).click();
  const dialog = other.getByRole('dialog', { name: 'Put off' });
  await dialog.getByRole('button', { name: 'Put off' }).click();
  await expect(dialog.getByRole('alert')).toHaveText('say why it can wait');
  await dialog.getByLabel('Why can it wait?').fill('the pool is made anew tonight');
  await dialog.getByRole('button', { name: 'Put off' }).click();
  await expect(other.getByText('1 is put off')).toBeVisible();
  await other.close();

  await follow(page, page.getByRole('link', { name: /SVG-CLINIC02: signing in takes/ }));
  await expect(page.getByRole('heading', { name: 'SVG-CLINIC02' })).toBeVisible();
  await expect(page.getByRole('meter', { name: 'Load' })).toBeVisible();
  await page.getByRole('button', { name: 'Restart' }).first().click();
  const restart = page.getByRole('dialog');
  await expect(restart).toContainText('cannot be undone');
  await restart.getByText(/15 min to sign out/).click();
  await restart.getByLabel(/Minutes/).fill('0');
  await expect(restart).toContainText('their sessions end at once');
  await restart.getByRole('button', { name: 'Restart for SVG' }).click();
  await expect(restart).toBeHidden();
  await page.getByLabel('Speed of the clock').selectOption('600');
  await expect(page.getByRole('heading', { name: 'It is well' })).toBeVisible({ timeout: 60_000 });
  await page.getByLabel('Speed of the clock').selectOption('60');
  await expect(page.getByText(/sign(s are| is) over/)).toBeVisible();
  const { looks } = await api<Shown>('/watch');
  expect(looks.filter(({ says }) => says.includes('SVG-CLINIC02: signing in'))).toEqual([]);
});
