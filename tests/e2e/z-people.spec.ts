import { api, directory, enter, expect, go, mailedLink, signIn, test, workingHour } from './laager';
import { peopleOf } from '../../src/demo/people';

const PATCH = 'urn:ietf:params:scim:api:messages:2.0:PatchOp';
interface Listed {
  readonly Resources: readonly { readonly id: string; readonly displayName?: string }[];
}

/** HSB's directory is not linked yet; its people share desks that were made for them. */
const [ANN = { account: '', mail: '' }, BO = { account: '', mail: '' }] = peopleOf('HSB', 2);

test('a directory is linked and taken in, an app is granted, started, found, spoken to and signed out', async ({
  page,
  context,
}) => {
  await signIn(page, 'ida', '/customers/HSB/directory');
  await page.getByLabel('Token to read with').fill('a-candle-for-the-reader');
  await expect(page.getByText(/people and \d+ groups are in it/)).toBeVisible();
  await page.getByRole('button', { name: 'Keep the link of HSB' }).click();
  await page.getByRole('button', { name: /^Take \d+ people in for HSB/ }).click();
  await expect(page.getByText('Followed: read again every minute.')).toBeVisible();

  // A group within a group, and the one of the two people who is in it.
  const groups = await directory<Listed>('HSB', 'GET', '/Groups');
  const late = groups.Resources.find(({ displayName }) => displayName === 'Late shift')?.id ?? '';
  const users = await directory<Listed>('HSB', 'GET', `/Users?filter=userName%20eq%20%22${ANN.account}%22`);
  const ann = users.Resources[0]?.id ?? '';
  await directory('HSB', 'PATCH', `/Groups/${late}`, {
    schemas: [PATCH],
    Operations: [{ op: 'add', path: 'members', value: [{ value: ann, type: 'User' }] }],
  });
  await page.getByRole('button', { name: /^(Read it again now|Take .* in for HSB now)/ }).click();
  await go(page, '/customers/HSB/people');
  await page.getByRole('button', { name: /^Late shift/ }).click();
  await expect(page.getByRole('heading', { name: /in Late shift$/ })).toBeVisible();
  await page.getByLabel('To', { exact: true }).selectOption({ index: 1 });
  await expect(page.getByText(/^\d+ of \d+ people get in$/)).toBeVisible();

  await go(page, '/customers/HSB/items');
  await page.getByRole('button', { name: /^Tallybrook of .* for All people$/ }).click();
  await page.getByRole('button', { name: /^Tallybrook of .* for Late shift$/ }).click();
  await expect(page.getByText('see less', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Change 2 grants for HSB' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Why').fill('figures are theirs alone');
  await dialog.getByRole('button', { name: 'Change for HSB' }).click();
  await expect(dialog).toHaveCount(0);
  await expect(page.getByRole('button', { name: /^Tallybrook of .* for Late shift$/ })).toHaveAttribute(
    'aria-pressed',
    'true',
  );

  // At their own desk, with the way in from their mail.
  const desk = await context.browser()?.newContext();
  if (!desk) throw new Error('there is no browser');
  const own = await desk.newPage();
  await own.goto(new URL('/desk', page.url()).href);
  await own.getByLabel('Mail address').fill(ANN.mail);
  await own.getByRole('button', { name: 'Send me the way in' }).click();
  await expect(own.getByText(/a way in is on its way/)).toBeVisible();
  await own.goto(await mailedLink(ANN.mail));
  await own.getByRole('button', { name: 'To my desk' }).click();
  const card = own.getByRole('button', { name: /^Tallybrook/ }).first();
  await expect(card).toBeEnabled({ timeout: 20_000 });
  const [session] = await Promise.all([desk.waitForEvent('page'), card.click()]);
  await expect(session.getByText(ANN.account)).toBeVisible({ timeout: 15_000 });
  const host = await session.getByRole('heading', { level: 1 }).textContent();

  await go(page, '/serve');
  await page.getByRole('button', { name: /^HSB: / }).click();
  await page.getByLabel('Filter sessions').fill(ANN.account);
  const row = page.getByRole('row').filter({ hasText: ANN.account });
  await expect(row.filter({ hasText: host ?? '' }).first()).toBeVisible({ timeout: 15_000 });
  await row
    .filter({ hasText: host ?? '' })
    .first()
    .getByRole('checkbox')
    .check();
  await page.getByRole('button', { name: 'Message', exact: true }).click();
  await expect(dialog.getByText('Hollin Seed Bank').first()).toBeVisible();
  await dialog.getByLabel('What they read').fill('Tea for {persn}');
  await expect(dialog.getByText(/^\{persn\} is not known here/)).toBeVisible();
  await expect(dialog.getByRole('button', { name: 'Send a message for HSB' })).toBeDisabled();
  await dialog.getByLabel('What they read').fill('Tea is ready at {host}');
  // Kept for the next time, and shown as they will read it.
  await dialog.getByRole('button', { name: 'Keep this text' }).click();
  await expect(dialog.getByRole('button', { name: 'Tea is ready at {host}', exact: true })).toBeVisible();
  await expect(dialog.getByText(`Tea is ready at ${host ?? ''}`)).toBeVisible();
  await dialog.getByRole('button', { name: 'Send a message for HSB' }).click();
  await expect(dialog).toHaveCount(0);
  await expect(async () => {
    await session.reload();
    await expect(session.getByText(`Tea is ready at ${host ?? ''}`)).toBeVisible({ timeout: 500 });
  }).toPass({ timeout: 10_000 });

  await row
    .filter({ hasText: host ?? '' })
    .first()
    .getByRole('checkbox')
    .check();
  await page.getByRole('button', { name: 'Sign them out' }).click();
  // Where there is little room, whose they are and what decides stay in sight.
  await page.setViewportSize({ width: 320, height: 560 });
  await expect(
    dialog.getByRole('list', { name: 'Whose they are' }).getByText('Hollin Seed Bank'),
  ).toBeInViewport({
    ratio: 1,
  });
  await expect(dialog.getByRole('button', { name: 'Sign out for HSB' })).toBeInViewport({ ratio: 1 });
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.getByRole('dialog').getByLabel('Minutes they have').fill('0');
  await page.getByRole('dialog').getByRole('button', { name: 'Sign out for HSB' }).click();
  await expect(row.filter({ hasText: host ?? '' })).toHaveCount(0, { timeout: 15_000 });
  await desk.close();
});

test('a person’s page tells why not, and their desk is seen as they see it', async ({ page }) => {
  await enter(page, 'ida');
  await workingHour();
  const { entries } = await api<{ entries: readonly { personId: string | null }[] }>(
    '/customers/SVG/sessions',
  );
  await go(
    page,
    `/customers/SVG/people/${entries.find(({ personId }) => personId !== null)?.personId ?? ''}`,
  );
  await page.getByRole('button', { name: 'Why not?' }).first().click();
  await expect(page.getByText(/^granted to .* is not in it$/)).toBeVisible();
  await expect(page.getByRole('heading', { name: 'Lately' })).toBeVisible();
  await page.getByRole('button', { name: 'Message', exact: true }).click();
  await expect(page.getByRole('dialog').getByText(/^\d+ pe(rson|ople)$/)).toBeVisible();
  await page.getByRole('dialog').getByRole('button', { name: 'Back' }).click();
  await page.getByRole('link', { name: 'See their desk' }).click();
  await expect(page.getByText(/You look, and can do nothing here/)).toBeVisible();
  for (const button of await page.getByRole('button').all()) await expect(button).toBeDisabled();
});

test('when much of a directory is gone it stops and asks', async ({ page }) => {
  await signIn(page, 'ida', '/customers/FPS/directory');
  const { Resources: users } = await directory<Listed>('FPS', 'GET', '/Users');
  for (const { id } of users.slice(0, 11))
    await directory('FPS', 'PATCH', `/Users/${id}`, {
      schemas: [PATCH],
      Operations: [{ op: 'replace', path: 'active', value: false }],
    });
  await page.getByRole('button', { name: /^(Read it again now|Take .* in for FPS now)/ }).click();
  await expect(page.getByText(/1\d of 28 people would leave/)).toBeVisible();
  for (const { id } of users.slice(0, 11))
    await directory('FPS', 'PATCH', `/Users/${id}`, {
      schemas: [PATCH],
      Operations: [{ op: 'replace', path: 'active', value: true }],
    });
});

test('nobody else’s way in opens a desk', async ({ page }) => {
  await go(page, '/desk/in/nowhere');
  await expect(page.getByText(/used up, over, or never was/)).toBeVisible();
  await go(page, '/desk');
  await page.getByLabel('Mail address').fill(BO.mail);
  await page.getByRole('button', { name: 'Send me the way in' }).click();
  await expect(page.getByText(/If somebody here has this address/)).toBeVisible();
});

test('somebody comes in to their desk with their own organisation’s sign-in, and nobody who is not there', async ({
  page,
  browser,
}) => {
  await go(page, '/desk?at=svg');
  await page.getByRole('link', { name: 'Sign in with the Saltmirren sign-in' }).click();
  const [first] = await page.getByRole('link', { name: /^(?!Nobody)/ }).allInnerTexts();
  await page.getByRole('link', { name: first ?? '' }).click();
  await expect(page).toHaveURL(/\/desk$/);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText((first ?? '').split(',')[0] ?? '');
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page.getByRole('heading', { name: 'My desk' })).toBeVisible();

  const stranger = await (await browser.newContext()).newPage();
  await go(stranger, '/desk?at=svg');
  await stranger.getByRole('link', { name: 'Sign in with the Saltmirren sign-in' }).click();
  await stranger.getByRole('link', { name: 'Nobody', exact: true }).click();
  await expect(stranger.getByRole('alert')).toContainText('did not say who you are');
});
