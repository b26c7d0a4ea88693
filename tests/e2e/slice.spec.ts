import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { DEMO_PASSWORD } from '../../src/demo/scenario';
import { address, token, api, expect, follow, go, ready, signIn, test } from './laager';

test('one life by hand: provision, watch the run, drain, see the costs, retire, see the proof', async ({
  page,
}) => {
  await go(page, '/sign-in');
  await page.getByLabel('Mail address').fill('ida@terntallow.example');
  await page.getByLabel('Password').fill(DEMO_PASSWORD);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('link', { name: /Hollin Seed Bank/ })).toBeVisible();
  await follow(page, page.getByRole('link', { name: /Hollin Seed Bank/ }));
  await expect(page).toHaveTitle(/^HSB · Overview/);
  await follow(page, page.getByRole('link', { name: 'Provision', exact: true }));

  const confirm = page.getByRole('button', { name: 'Provision…' });
  // Without a name of its own it has the one that the template gives.
  await expect(page.getByText('office is free')).toBeVisible();
  await page.getByLabel('Name of the environment').fill('Bad name!');
  await expect(page.getByText(/cannot be used. Begin with a letter/)).toBeVisible();
  await page.getByLabel('Name of the environment').fill('vault');
  await page.getByLabel('People').fill('6');
  await expect(page.getByText('HSB-VAULT01', { exact: true }).first()).toBeVisible();
  await expect(page.getByLabel('What this does')).toContainText('6 people');
  const before = await page.getByLabel('What this does').textContent();
  await page.getByLabel('People').fill('14');
  // Tor Field is nearly full: it says so, and another site has room.
  await expect(confirm).toBeDisabled();
  await page.getByRole('button', { name: 'All choices' }).click();
  await page.getByLabel('Site').selectOption({ label: 'Norrlight, hosted region' });
  await expect(page.getByRole('heading', { name: 'Quota at Norrlight' })).toBeVisible();
  await expect(page.getByLabel('What this does')).not.toHaveText(before ?? '');
  await page.getByLabel('Site').selectOption({ label: 'Tor Field, own nodes' });
  await expect(page.getByRole('heading', { name: 'On the nodes of Tor Field' })).toBeVisible();
  await page.getByLabel('People').fill('6');

  await confirm.click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('Provision vault for Hollin Seed Bank');
  await dialog.getByLabel('Why').fill('seen working');
  await dialog.getByRole('button', { name: 'Provision for HSB' }).click();

  await expect(page.getByRole('heading', { name: 'Provision vault' })).toBeVisible();
  await expect(page.getByText(/left$/)).toBeVisible();
  await page.getByLabel('Speed of the clock').selectOption('600');
  // Told by the stream of events: the page is not loaded again.
  await expect(page.getByText(/^took /)).toBeVisible({ timeout: 60_000 });
  await page.getByLabel('Speed of the clock').selectOption('60');

  await follow(page, page.getByRole('link', { name: 'See vault' }));
  await expect(page.getByText('serving').first()).toBeVisible();
  await page
    .getByLabel(/^Select (?!all)/)
    .first()
    .check();
  await page.getByRole('button', { name: 'Drain' }).click();
  await expect(page.getByRole('dialog')).toContainText('Drain HSB-VAULT01 for Hollin Seed Bank');
  await page.getByRole('button', { name: 'Drain for HSB' }).click();
  await expect(page.getByRole('cell', { name: 'drained' }).first()).toBeVisible({ timeout: 30_000 });

  await follow(page, page.getByRole('link', { name: 'Costs' }));
  await expect(page.getByRole('cell', { name: 'vault' }).first()).toBeVisible();
  const [csv] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'CSV' }).click(),
  ]);
  expect(csv.suggestedFilename()).toMatch(/^HSB-charges-\d{4}-\d{2}\.csv$/);

  await follow(page, page.getByRole('link', { name: 'Overview' }));
  await follow(page, page.getByRole('link', { name: /vault/ }).first());
  await follow(page, page.getByRole('link', { name: 'Retire…' }));
  const retire = page.getByRole('button', { name: 'Retire for HSB' });
  await expect(retire).toBeDisabled();
  await page.getByLabel('Type HSB to retire').fill('MHP');
  await expect(page.getByText('this is HSB')).toBeVisible();
  await expect(retire).toBeDisabled();
  await page.getByLabel('Type HSB to retire').fill('hsb');
  await retire.click();
  await expect(page.getByRole('heading', { name: 'Retire vault' })).toBeVisible();
  await page.getByLabel('Speed of the clock').selectOption('600');
  await expect(page.getByText(/^took /)).toBeVisible({ timeout: 60_000 });
  await page.getByLabel('Speed of the clock').selectOption('60');

  await follow(page, page.getByRole('link', { name: 'See vault' }));
  await expect(page.getByRole('heading', { name: 'Only kept data are left of vault' })).toBeVisible();
  // What people kept is listed with its day, and deleted before only by hand, with the code.
  const kept = page.locator('section').filter({ has: page.getByRole('heading', { name: 'Data kept' }) });
  await expect(kept).toContainText(/profiles on a share of \d+ GiB/);
  await kept.getByRole('button', { name: 'Delete now' }).click();
  await page.getByRole('dialog').getByLabel('Type HSB').fill('HSB');
  await page.getByRole('dialog').getByRole('button', { name: 'Delete for HSB' }).click();
  await expect(kept).toHaveCount(0, { timeout: 60_000 });
  await page.reload();
  await ready(page);
  await expect(page.getByRole('heading', { name: 'Nothing is left of vault' })).toBeVisible();
  await expect(page.getByRole('cell', { name: 'gone' }).first()).toBeVisible();
  await follow(page, page.getByRole('link', { name: 'Trail' }).first());
  await go(page, '/customers/HSB/trail');
  await expect(page.getByText('Retire vault').first()).toBeVisible();
  await page
    .locator('summary', { hasText: /began\s*Provision vault/ })
    .first()
    .click();
  await expect(page.locator('details[open]')).toContainText('HSB-VAULT01');
});

test('Watch names what needs a look and leads there; a run that stopped is tried again from its page', async ({
  page,
}) => {
  await signIn(page);
  await follow(page, page.getByRole('link', { name: /FPS-FIELD02: wanted, not there/ }));
  await expect(page).toHaveURL(/customers\/FPS$/);
  await page.goBack();
  await follow(page, page.getByRole('link', { name: /Provision field: stopped/ }));
  await page.getByRole('button', { name: 'Try 1 step again' }).click();
  await page.getByLabel('Speed of the clock').selectOption('600');
  await expect(page.getByText(/^took /)).toBeVisible({ timeout: 60_000 });
  await page.getByLabel('Speed of the clock').selectOption('60');
  const { runs } = await api<{ runs: { state: string; customer: string }[] }>('/watch');
  expect(runs.filter((run) => run.state === 'stopped' && run.customer === 'FPS')).toEqual([]);
});

test('imports people, and keeps the good rows only when told to', async ({ page }) => {
  await signIn(page, 'ida', '/customers/WAP/people');
  await page.getByLabel(/Choose a CSV or LDIF file/).setInputFiles({
    name: 'people.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('account,given,family,mail\nzoe.new,Zoe,New,zoe@wap.example\nbad,,,\n'),
  });
  await expect(page.getByText('1 row is bad; nothing is kept yet')).toBeVisible();
  await expect(page.getByText('line 3')).toBeVisible();
  await page.getByRole('button', { name: 'Keep the 1 good rows for WAP' }).click();
  await expect(page.getByText('1 added, 0 changed, 1 left out')).toBeVisible();
  await page.getByLabel('Filter people').fill('zoe');
  await expect(page.getByRole('cell', { name: 'zoe.new' })).toBeVisible();
});

test('whoever reaches two customers sees two', async ({ page }) => {
  await signIn(page, 'jonah');
  await expect(page.getByRole('link', { name: /Saltmirren/ })).toBeVisible();
  await expect(page.getByText('Marram Harbour Pilots')).toHaveCount(0);
  const response = await page.request.get(`${address()}/customers/MHP`);
  expect(response.status()).toBe(404);
});

test('a wrong password is said beside the form, and what was typed stays', async ({ page }) => {
  await go(page, '/sign-in');
  await page.getByLabel('Mail address').fill('petra@terntallow.example');
  await page.getByLabel('Password').fill('wrong');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('alert')).toHaveText('Mail address or password is wrong.');
  await expect(page.getByLabel('Mail address')).toHaveValue('petra@terntallow.example');
});

test('the same slice through the API alone, by the script of the documents', async () => {
  const script = promisify(execFile)('sh', ['docs/slice.sh', address(), token()], {
    timeout: 80_000,
  });
  await api('/clock', 'PUT', { speed: 600 });
  const { stdout } = await script;
  await api('/clock', 'PUT', { speed: 60 });
  expect(stdout).toMatch(/^proposed: HSB-API/);
  expect(stdout).toMatch(/provisioned: HSB-API\S+ serving/);
  expect(stdout).toMatch(/proof: clean true/);
  expect(stdout).toMatch(/trail: end run, begin retire, end run, begin provision/);
});
