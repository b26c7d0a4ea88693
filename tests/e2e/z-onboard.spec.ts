import type { Browser, Page } from '@playwright/test';
import { codeAt } from '../../src/server/sign-in/factor';
import { address, api, enter, expect, go, mailedLink, ready, signIn, test } from './laager';

/* What an MSP does before anything is built, through the browser alone. */

/** Calls the API as whoever is signed in on a page. */
const sendAs = async (page: Page, method: 'POST' | 'PUT', path: string, data: object) => {
  const response = await page.request.fetch(`${address()}/api/v1${path}`, {
    method,
    headers: { origin: address() },
    data,
  });
  expect(response.ok(), `${method} ${path}: ${response.status()}`).toBe(true);
  return (await response.json()) as Record<string, unknown>;
};

/** Takes someone on and opens a browser of their own, in which they are signed in. */
async function another(browser: Browser, lead: Page, mail: string, customers: readonly string[]) {
  const password = 'a password of the tests';
  const { id } = await sendAs(lead, 'POST', '/operators', {
    name: 'Ola Extra',
    mail,
    role: 'engineer',
    customers,
  });
  const context = await browser.newContext();
  const page = await context.newPage();
  const invite = new URL(await mailedLink(mail)).pathname;
  const chosen = await page.request.post(`${address()}/api/v1${invite.replace('/invite/', '/invites/')}`, {
    headers: { origin: address() },
    data: { password },
  });
  expect(chosen.ok()).toBe(true);
  const response = await page.request.post(`${address()}/api/v1/session`, {
    headers: { origin: address() },
    data: { mail, password },
  });
  expect(response.status()).toBe(204);
  return { id: String(id), page, context };
}

test('someone is invited, chooses a password, sets up a second factor, and comes in with it', async ({
  page,
  browser,
}) => {
  await signIn(page, 'bram', '/operators');
  await page.getByRole('button', { name: 'Invite' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Invite' }).click();
  await expect(dialog.getByText('is not allowed to be empty').first()).toBeVisible();
  await dialog.getByLabel('Name', { exact: true }).fill('Nora Invited');
  await dialog.getByLabel('Mail address').fill('nora@terntallow.example');
  await dialog.getByLabel('Role').selectOption('lead');
  await dialog.getByRole('button', { name: 'Invite' }).click();
  await expect(dialog).toContainText('We e-mail a link to nora@terntallow.example.');
  await expect(dialog).not.toContainText('/invite/');
  await dialog.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByRole('row', { name: /Nora Invited/ })).toContainText('invited');

  const context = await browser.newContext();
  const own = await context.newPage();
  await own.goto(await mailedLink('nora@terntallow.example'));
  await ready(own);
  await own.getByLabel('Password').fill('long enough for her');
  await own.getByRole('button', { name: 'Begin' }).click();
  await own.waitForURL(/sign-in/);
  await ready(own);
  await own.getByLabel('Mail address').fill('nora@terntallow.example');
  await own.getByLabel('Password').fill('long enough for her');
  await own.getByRole('button', { name: 'Sign in' }).click();
  await own.waitForURL(`${address()}/`);
  await go(own, '/you');
  await own.getByRole('button', { name: 'Set up' }).click();
  const secret = ((await own.locator('form code').textContent()) ?? '').replace(/\s/g, '');
  const field = own.getByLabel('The code that it shows now');
  await own.getByLabel('Your password').fill('long enough for her');
  await field.fill('000000');
  await own.getByRole('button', { name: 'Set up' }).click();
  await expect(own.getByText('is not the one that the app shows now')).toBeVisible();
  await field.fill(codeAt(secret, Date.now()));
  await own.getByRole('button', { name: 'Set up' }).click();
  const codes = own.getByRole('list', { name: 'Recovery codes' }).getByRole('listitem');
  await expect(codes).toHaveCount(10);
  const recovery = (await codes.first().textContent()) ?? '';

  await own.getByRole('button', { name: 'Sign out' }).click();
  await own.waitForURL(/sign-in/);
  await ready(own);
  await own.getByLabel('Mail address').fill('nora@terntallow.example');
  await own.getByLabel('Password').fill('long enough for her');
  await own.getByRole('button', { name: 'Sign in' }).click();
  await expect(own.getByLabel('Code of your second factor')).toBeFocused();
  await own.getByLabel('Code of your second factor').fill('123456');
  await own.getByRole('button', { name: 'Sign in' }).click();
  await expect(own.getByText('is not right, or was taken before')).toBeVisible();
  await own.getByLabel('Code of your second factor').fill(recovery);
  await own.getByRole('button', { name: 'Sign in' }).click();
  await own.waitForURL(`${address()}/`);
  await context.close();
});

test('a page closes itself within seconds when its customer is taken out of someone’s reach', async ({
  page,
  browser,
}) => {
  await enter(page, 'bram');
  const {
    id,
    page: theirs,
    context,
  } = await another(browser, page, `ola${Date.now()}@terntallow.example`, ['MHP', 'SVG']);
  await go(theirs, '/customers/MHP');
  await expect(theirs.getByText('Marram Harbour Pilots').first()).toBeVisible();
  await sendAs(page, 'PUT', `/operators/${id}`, { role: 'engineer', customers: ['SVG'], endsAt: null });
  await expect(theirs.getByText('Marram Harbour Pilots')).toHaveCount(0, { timeout: 5_000 });
  await go(theirs, '/customers');
  await expect(theirs.getByText('Saltmirren Veterinary Group')).toBeVisible();
  await context.close();
});

test('a plan is made, told beside its fields what it cannot be, and sold', async ({ page }) => {
  await signIn(page, 'bram', '/money/plans/edit');
  const code = `dinghy${Date.now() % 10_000}`;
  await page.getByLabel('Code').fill('jetty');
  await page.getByLabel('Hosts', { exact: true }).fill('several');
  await page.getByRole('button', { name: 'Make the plan' }).click();
  await expect(page.getByText('is a plan already')).toBeVisible();
  await expect(page.getByText('must be a number')).toBeVisible();
  await page.getByLabel('Included: share, GiB').fill('2.5');
  await expect(page.getByText('must be an integer')).toBeVisible();
  await page.getByLabel('Included: share, GiB').fill('50');
  await page.getByLabel('Code').fill(code);
  await page.getByLabel('Name').fill('Dinghy');
  await page.getByLabel('Hosts', { exact: true }).fill('2');
  await page.getByLabel('A month in EUR').fill('9.50');
  await expect(page.getByRole('row', { name: 'Hosts no limit ▾ 2' })).toBeVisible();
  await page.getByRole('button', { name: 'Make the plan' }).click();
  await page.waitForURL(/\/money\/plans$/);
  await expect(page.getByRole('columnheader', { name: /Dinghy v1/ }).first()).toBeVisible();
  await expect(page.getByText('50 GiB of share')).toBeVisible();
});

test('a customer is taken on like another, and one from a file; nothing of the two meets', async ({
  page,
}) => {
  const n = Date.now() % 10_000;
  const [first, second, third] = [`NA${n}`, `NB${n}`, `NC${n}`];
  await signIn(page, 'ida', '/customers/new');
  await page.getByRole('button', { name: 'Take on the customer' }).isDisabled();
  await page.getByLabel('Like another').selectOption('SVG');
  await expect(page.getByRole('button', { name: /Code two or more/ })).toBeVisible();
  await page.getByRole('button', { name: /Code two or more/ }).click();
  await expect(page.getByLabel('Code')).toBeFocused();
  await page.getByLabel('Code').fill('SVG');
  await page.getByLabel('Legal name').fill('Nine Ash Framers');
  await expect(page.getByText('is a customer already')).toBeVisible();
  await page.getByLabel('Code').fill(first);
  await page.getByLabel('Naming rule').fill('{customer}');
  await expect(page.getByText(/needs one counter/).first()).toBeVisible();
  await page.getByLabel('Naming rule').fill('{customer}{counter:2}');
  await expect(page.getByText(`${first}01`).first()).toBeVisible();
  await page.getByRole('button', { name: `Take on ${first}` }).click();
  await page.waitForURL(new RegExp(`/customers/${first}$`));
  await expect(page.getByText('Nine Ash Framers').first()).toBeVisible();

  await go(page, '/customers/file');
  const editor = page.getByLabel('Customers as YAML');
  const write = async (text: string): Promise<void> => {
    await editor.click();
    await page.keyboard.press('Control+a');
    await page.keyboard.insertText(text);
  };
  const file = (plan: string): string =>
    ['customers:', ...[second, third].map((code) => entry(code, plan)), ''].join('\n');
  const entry = (code: string, plan: string): string =>
    `  - {code: ${code}, name: Nine Bay Carvers, state: active, plan: ${plan}, site: KQ, zone: Europe/Dublin, currency: EUR, card: eur}`;
  await write(file('none'));
  await expect(page.getByRole('button', { name: 'line 2: plan is not known' })).toBeVisible();
  await write(file('jetty'));
  await expect(page.getByText('new', { exact: true })).toHaveCount(2);
  // Several are done once whoever does it has counted them.
  const takeOn = page.getByRole('button', { name: 'Take on 2' });
  await expect(takeOn).toBeDisabled();
  const counted = page.getByLabel('Type how many customers those are');
  await counted.fill('3');
  await expect(page.getByText('those are 2')).toBeVisible();
  await counted.fill('2');
  await takeOn.click();
  await page.getByRole('link', { name: second }).click();
  await page.waitForURL(new RegExp(`/customers/${second}$`));
  const about = await Promise.all(
    [first, second].map((code) => api<{ code: string; naming: string }>(`/customers/${code}/about`)),
  );
  expect(about.map(({ naming }) => naming)).toEqual(['{customer}{counter:2}', '']);
});

test('a customer half filled in is kept, and gone on with', async ({ page }) => {
  await signIn(page, 'ida', '/customers/new');
  const name = `Half Done ${Date.now() % 10_000}`;
  await page.getByLabel('Legal name').fill(name);
  await page.getByLabel('Home site').selectOption('TF');
  await page.getByRole('button', { name: 'Keep for later' }).click();
  await expect(page.getByText('Kept for later: it is listed under Customers.')).toBeVisible();
  await go(page, '/customers');
  await page.getByRole('link', { name }).click();
  await page.waitForURL(/draft=/);
  await ready(page);
  await expect(page.getByLabel('Legal name')).toHaveValue(name);
  await expect(page.getByLabel('Home site')).toHaveValue('TF');
});

test('a limit is raised for a customer, for a reason, and told where one looks', async ({ page }) => {
  await signIn(page, 'bram', '/customers/HSB/plan');
  await page.getByRole('button', { name: 'Raise a limit' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('What').selectOption('hosts');
  await dialog.getByLabel('To', { exact: true }).fill('3');
  await dialog.getByLabel('Until').fill('2031-01-01');
  await dialog.getByRole('button', { name: 'Raise for HSB' }).click();
  await expect(dialog.getByText('say why: it is on the trail and on the customer’s page')).toBeVisible();
  await dialog.getByLabel('Why').fill('the seed fair');
  await dialog.getByRole('button', { name: 'Raise for HSB' }).click();
  await expect(dialog.getByText('20 are allowed already')).toBeVisible();
  await dialog.getByLabel('To', { exact: true }).fill('30');
  await dialog.getByRole('button', { name: 'Raise for HSB' }).click();
  await expect(page.getByText(/the seed fair; Bram Oyelaran/)).toBeVisible();
  await expect(page.getByText('of 30')).toBeVisible();
  await page.getByRole('button', { name: 'End', exact: true }).click();
  await expect(page.getByText('The plan’s own limits hold.')).toBeVisible();
});

test('what somebody else has saved of a customer meanwhile is shown, and not written over', async ({
  page,
  context,
}) => {
  await signIn(page, 'ida', '/customers/QFB/about');
  const other = await context.newPage();
  await go(other, '/customers/QFB/about');
  const name = other.getByLabel('Legal name');
  // A form that has just come to life may take the first letters before it has marked what it replaces.
  await expect(async () => {
    await name.fill('The Other Tab Company');
    await expect(name).toHaveValue('The Other Tab Company', { timeout: 500 });
  }).toPass();
  await other.getByRole('button', { name: 'Change QFB' }).click();
  await expect(other.getByText('Kept: name.')).toBeVisible();
  await page.getByLabel('Naming rule').fill('Q{counter:3}');
  await page.getByRole('button', { name: 'Change QFB' }).click();
  await expect(page.getByText('Somebody else saved this meanwhile: name.')).toBeVisible();
  // What was not touched here follows; what was typed stays.
  await expect(page.getByLabel('Legal name')).toHaveValue('The Other Tab Company');
  await expect(page.getByText('somebody else changed this')).toHaveCount(0);
  await expect(page.getByLabel('Naming rule')).toHaveValue('Q{counter:3}');
  await page.getByRole('button', { name: 'Change QFB' }).click();
  await expect(page.getByText('Kept: naming.')).toBeVisible();
  // What both have changed is said beside the field.
  await other.getByLabel('Naming rule').fill('O{counter:2}');
  await other.getByRole('button', { name: 'Change QFB' }).click();
  await expect(other.getByText('somebody else changed this to “Q{counter:3}”')).toBeVisible();
  expect(await api('/customers/QFB/about')).toMatchObject({
    name: 'The Other Tab Company',
    naming: 'Q{counter:3}',
  });
});
