import { api, expect, go, signIn, test, workingHour } from './laager';

interface Listed<Entry> {
  readonly entries: readonly Entry[];
}

/** At the front desks of SVG, whose items no other test publishes or grants. */
test('an app is published with what it is started with, granted from a file, and stands on a desk under its heading', async ({
  page,
}) => {
  const items =
    await api<Listed<{ item: { environment: string; environmentId: string } }>>('/customers/SVG/items');
  const environment =
    items.entries.find(({ item }) => item.environment === 'front')?.item.environmentId ?? '';
  await signIn(page, 'ida', `/customers/SVG/items/published?environment=${environment}`);
  await page.getByRole('button', { name: 'Add an app by hand' }).click();
  await page.getByLabel('Name').fill('Day sheet');
  await expect(page.getByText('another item has this name')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Publish 1 change for SVG' })).toBeDisabled();
  await page.getByLabel('Name').fill('Till roll');
  await page.getByLabel('Starts').fill('Tallybrook');
  await page.getByLabel('Arguments').fill('--book till');
  await page.getByLabel('Under the heading').fill('Figures');
  await page.getByRole('group', { name: 'May cross', exact: true }).getByLabel('printers').uncheck();
  await page.getByRole('button', { name: 'Publish 1 change for SVG' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('can be undone');
  await dialog.getByLabel('Why').fill('the till has its own book');
  await dialog.getByRole('button', { name: 'Publish for SVG' }).click();
  await expect(dialog).toHaveCount(0);

  // What names nobody is left out by its line; the rest is pressed, and granted only with a press.
  await go(page, `/customers/SVG/items?environment=${environment}`);
  await page.locator('input[type="file"]').setInputFiles({
    name: 'grants.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(
      'pool,item,to,name\r\ndesks,Till roll,group,Front desk\r\ndesks,Till roll,group,Cashiers\r\n',
    ),
  });
  await expect(page.getByText('1 grant pressed, 0 there already, 1 line left out')).toBeVisible();
  await expect(page.getByText('there is no group "Cashiers"')).toBeVisible();
  await expect(page.getByText('see more', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Change 1 grant for SVG' }).click();
  await dialog.getByLabel('Why').fill('those at the till');
  await dialog.getByRole('button', { name: 'Change for SVG' }).click();
  await expect(dialog).toHaveCount(0);

  const groups = await api<Listed<{ id: string; name: string }>>('/customers/SVG/groups');
  const front = groups.entries.find(({ name }) => name === 'Front desk')?.id ?? '';
  const { entries } = await api<Listed<{ id: string }>>(`/customers/SVG/groups/${front}/members`);
  await go(page, `/customers/SVG/people/${entries[0]?.id ?? ''}/desk`);
  const figures = page.getByRole('region', { name: 'Figures' });
  await expect(figures.getByRole('listitem').filter({ hasText: 'Till roll' })).toContainText(
    'copy and paste',
  );
  await expect(figures.getByText('Stocktake')).toHaveCount(0);
});

test.afterEach(async () => {
  await api('/clock', 'PUT', { speed: 60 });
});

test('one looks along with somebody only once they let one, and it can be stopped', async ({
  page,
  context,
}) => {
  await workingHour();
  // Nobody goes home between being asked and being looked along with.
  await api('/clock', 'PUT', { speed: 1 });
  await signIn(page, 'ida', '/serve');
  const { entries } =
    await api<Listed<{ id: string; customer: string; account: string }>>('/customers/CAO/sessions');
  await page.getByRole('button', { name: /^CAO: / }).click();
  // Who says no is asked no more, in whichever session: then the next one.
  for (const account of [...new Set(entries.map((one) => one.account))].slice(0, 6)) {
    await page.getByRole('row').filter({ hasText: account }).getByRole('button').first().click();
    await page.getByLabel('Look along, and why').fill('the printer is gone');
    await page.getByRole('button', { name: /^Ask .* of CAO$/ }).click();
    await expect(page.getByText('They are asked in their session')).toBeVisible();
    const answer = page.getByText(/They let you look along|They said no/);
    await expect(answer).toBeVisible();
    if ((await answer.innerText()).includes('let you')) break;
    await page.getByRole('button', { name: 'Close' }).click();
  }
  const [screen] = await Promise.all([
    context.waitForEvent('page'),
    page.getByRole('link', { name: 'See their screen' }).click(),
  ]);
  await expect(screen.getByText('They see that you do.')).toBeVisible();
  await expect(screen.getByRole('button')).toHaveCount(0);
  const address = screen.url();
  await page.getByRole('button', { name: 'Stop looking along' }).click();
  await expect(page.getByRole('button', { name: /^Ask .* of CAO$/ })).toBeVisible();
  expect((await page.request.get(address)).status()).toBe(403);
});
