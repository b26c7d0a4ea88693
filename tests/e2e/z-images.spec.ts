import { expect, go, signIn, test } from './laager';

/* Images: a build that stopped is mended and goes on, becomes current, and is gone back from; each by hand. */

test('a build that stopped is mended in its recipe, goes on, and becomes current', async ({ page }) => {
  await signIn(page, 'ida', '/build/images');
  await expect(page.getByText('version 1 has stopped')).toBeVisible();
  await go(page, '/build/images/drawing');
  await expect(page.getByText('the store has Contourwick 11, 12, not 13').first()).toBeVisible();
  await expect(page.getByLabel('What install Contourwick 13 wrote')).toContainText('asking the store');
  await page.getByRole('button', { name: 'Mend the recipe' }).click();
  // As text what is wrong is told at its line; as a list it is filled in.
  await page.getByRole('button', { name: 'Text', exact: true }).click();
  const editor = page.getByLabel('The recipe as YAML');
  await editor.click();
  await page.keyboard.press('Control+End');
  await page.keyboard.type('\n  - instal: Murrelmail 7');
  await expect(page.getByText(/line \d+: is not known here/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Keep it…' })).toBeDisabled();
  for (let n = 0; n < '  - instal: Murrelmail 7'.length + 4; n++) await page.keyboard.press('Backspace');
  await page.getByRole('button', { name: 'List', exact: true }).click();
  await page.getByRole('button', { name: /^install Contourwick 13/ }).click();
  await page.getByLabel('Program and version').fill('Contourwick 12');
  await page.getByRole('button', { name: 'Keep it…' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Keep for MSP' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.getByRole('button', { name: 'Go on…' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('version 1');
  await dialog.getByRole('button', { name: 'Go on for MSP' }).click();
  await expect(page.getByText('Version 1 is being built')).toBeVisible();
  await expect(page.getByText('done before').first()).toBeVisible({ timeout: 30_000 });
  await expect(page.getByRole('button', { name: 'Make it current…' })).toBeVisible({ timeout: 90_000 });
  await page.getByRole('button', { name: 'Make it current…' }).click();
  await expect(dialog).toContainText('no host stands on it yet');
  await dialog.getByRole('button', { name: 'Make current for MSP' }).click();
  await expect(page.getByRole('button', { name: 'Version 1, current, 0 hosts on it' })).toBeVisible();
});

test('a version is chosen on the line with the keyboard, and who stands on it is told', async ({ page }) => {
  await signIn(page, 'ida', '/build/images/office');
  const second = page.getByRole('button', { name: /^Version 2, current/ });
  await second.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'office@2' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'MHP watch, desks' })).toBeVisible();
  await expect(page.getByRole('link', { name: /As a calendar/ })).toBeVisible();
});

test('the steps of a recipe are moved with the keyboard alone', async ({ page }) => {
  await signIn(page, 'ida', '/build/images/new');
  const first = page.getByRole('button', { name: 'Move step 1', exact: true });
  await first.focus();
  await page.keyboard.press('Space');
  await expect(page.getByText('Step 1 is over place 1')).toBeAttached();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByText('Step 1 is over place 2')).toBeAttached();
  await page.keyboard.press('Space');
  await expect(page.getByText('Step 1 is at place 2')).toBeAttached();
  await expect(page.getByRole('button', { name: /^check nothing waits/ })).toBeVisible();
  await expect(page.locator('ol li').first()).toContainText('check');
});
