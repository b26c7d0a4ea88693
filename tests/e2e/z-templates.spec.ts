import { api, expect, follow, go, ready, signIn, test } from './laager';

/* A template in three sights, published, filled in for two customers, and followed. */

test('a template is edited as a picture, as text with what is wrong at its line, and published', async ({
  page,
}) => {
  await signIn(page, 'ida', '/build');
  await page.getByRole('button', { name: 'New template' }).click();
  await page.getByLabel('Code').fill('counter');
  await page.getByLabel('Begin with').selectOption({ label: 'as Studio is' });
  await page.getByRole('button', { name: 'Begin', exact: true }).click();
  await page.waitForURL(/\/build\/templates\/counter$/);
  await ready(page);
  await expect(page.getByText('not published yet')).toBeVisible();
  // The picture: a part is pressed, and filled in below.
  await page.getByRole('button', { name: 'Pool draw' }).click();
  await expect(page.getByLabel('Name of the pool')).toHaveValue('draw');
  await page.getByLabel('Disk, GiB', { exact: true }).fill('512');
  await page.getByRole('button', { name: 'The environment' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Counter');
  await expect(page.getByRole('heading', { name: 'Counter' })).toBeVisible();
  await expect(page.getByText('draft kept')).toBeVisible();
  // The same as text, its comments kept.
  await page.getByRole('button', { name: 'Text', exact: true }).click();
  const text = page.getByLabel('The template as YAML');
  await expect(text).toContainText('diskGiB: 512');
  await text.click();
  await page.keyboard.press('Control+End');
  await page.keyboard.type('nonsense: 1');
  const fault = page.getByRole('listitem').filter({ hasText: 'is not known here' });
  await expect(fault).toContainText('line');
  await page.getByLabel('What is new').fill('bigger disks');
  await expect(page.getByRole('button', { name: 'Publish revision 1' })).toBeDisabled();
  await text.click();
  await page.keyboard.press('Control+End');
  for (let n = 0; n < 'nonsense: 1'.length; n++) await page.keyboard.press('Backspace');
  await expect(fault).toHaveCount(0);
  // A page that is loaded again finds its draft.
  await expect(page.getByText('draft kept')).toBeVisible();
  await page.reload();
  await ready(page);
  await expect(page.getByRole('heading', { name: 'Counter' })).toBeVisible();
  await page.getByLabel('What is new').fill('bigger disks');
  await page.getByRole('button', { name: 'Publish revision 1' }).click();
  await expect(page.getByText('1: bigger disks')).toBeVisible();
});

test('one template is filled in for two customers, each otherwise, and a choice is kept', async ({
  page,
}) => {
  await signIn(page, 'ida', '/customers/MHP/provision?template=studio');
  await expect(page.getByLabel('Name of the environment')).toHaveAttribute('placeholder', 'studio');
  await page.getByLabel('People at most').fill('8');
  await page.getByLabel('People who draw').fill('61');
  await expect(page.getByText('is a whole number from 0 to 60').first()).toBeVisible();
  await expect(page.getByRole('button', { name: 'Provision…' })).toBeDisabled();
  await page.getByLabel('People who draw').fill('2');
  await expect(page.getByText(/draw: 2 ×/)).toBeVisible();
  await expect(page.getByText(/pilot: 1 ×/)).toBeVisible();
  await page.getByRole('button', { name: 'All choices' }).click();
  await page.getByLabel('With a pilot pool').uncheck();
  await expect(page.getByText(/pilot: 1 ×/)).toHaveCount(0);
  await page.getByRole('button', { name: 'Keep this choice' }).click();
  await page.getByLabel('Kept as').fill('Two who draw');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Two who draw', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Provision…' }).click();
  await page.getByRole('button', { name: 'Provision for MHP' }).click();
  await page.waitForURL(/\/customers\/MHP\/runs\//);

  // The same choice for another customer, with more who draw and a bigger disk for them.
  await go(page, '/customers/SVG/provision');
  await page.getByRole('button', { name: 'Two who draw', exact: true }).click();
  await expect(page.getByText(/draw: 2 ×/)).toBeVisible();
  await page.getByLabel('People who draw').fill('3');
  await page.getByRole('button', { name: 'All choices' }).click();
  await page.getByText('draw', { exact: true }).last().click();
  await page.getByLabel('Disk, GiB of draw', { exact: true }).fill('300');
  await expect(page.getByText('otherwise', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Provision…' }).click();
  await page.getByRole('button', { name: 'Provision for SVG' }).click();
  await page.waitForURL(/\/customers\/SVG\/runs\//);
  const { entries } = await api<{ entries: { id: string; name: string }[] }>('/customers/SVG/environments');
  const id = entries.find(({ name }) => name === 'studio')?.id ?? '';
  await go(page, `/customers/SVG/environments/${id}`);
  const from = page.getByRole('region', { name: 'Otherwise than the template gave it' });
  await expect(from).toContainText('300 GiB');
  await expect(from).toContainText('given 256 GiB');
});

test('an environment is told that its template goes on, and follows', async ({ page }) => {
  await signIn(page, 'ida', '/customers/HSB');
  await follow(page, page.getByRole('link', { name: /seed/ }).first());
  await expect(page.getByRole('heading', { name: 'From Shared office, revision 1' })).toBeVisible();
  await page.getByRole('button', { name: 'Follow revision 2…' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('may cross, wanted clipboard, printers, drives');
  await dialog.getByRole('button', { name: 'Follow revision 2 for HSB' }).click();
  await expect(page.getByRole('heading', { name: 'From Shared office, revision 2' })).toBeVisible();
  await expect(page.getByText('newest revision')).toBeVisible();
});

test('a template goes into a file and comes back from it', async ({ page }) => {
  await signIn(page, 'ida', '/build');
  const answer = await page.request.get(new URL('/api/v1/templates/studio/file', page.url()).href);
  const file = (await answer.text()).replace('code: studio', 'code: studio-again');
  await page.getByRole('button', { name: 'From a file' }).click();
  await page
    .getByLabel('Choose a file that was exported')
    .setInputFiles({ name: 'studio.yaml', mimeType: 'application/yaml', buffer: Buffer.from(file) });
  await expect(page.getByText('image office')).toContainText('here');
  await page.getByRole('button', { name: 'Take them in' }).click();
  await expect(page.getByText('Taken in.')).toBeVisible();
  await follow(page, page.getByRole('link', { name: 'studio-again' }));
  await expect(page.getByText('studio-again', { exact: true })).toBeVisible();
});
