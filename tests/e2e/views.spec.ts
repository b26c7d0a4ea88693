import { readFile } from 'node:fs/promises';
import type { Page, Route } from '@playwright/test';
import { address, api, begin, enter, expect, follow, go, ON_PURPOSE, ready, signIn, test } from './laager';

interface Listed<Entry> {
  readonly entries: readonly Entry[];
}
interface Environment {
  readonly id: string;
  readonly name: string;
  readonly state: string;
  readonly hosts: number;
}
interface Host {
  readonly id: string;
  readonly name: string;
  readonly address: string;
  readonly status: string;
}

const environmentOf = async (code: string): Promise<Environment> => {
  const { entries } = await api<Listed<Environment>>(`/customers/${code}/environments`);
  const found = entries.find((one) => one.state === 'serving');
  if (!found) throw new Error(`${code} has no environment`);
  return found;
};
const hostsOf = async (code: string, environment: string): Promise<readonly Host[]> =>
  (await api<Listed<Host>>(`/customers/${code}/environments/${environment}/hosts`)).entries;

const stateOf = async (code: string, run: string): Promise<string> =>
  (await api<{ state: string }>(`/customers/${code}/runs/${run}`)).state;

test.describe('across customers', () => {
  test('Watch moves by itself when something is done elsewhere', async ({ page }) => {
    const environment = await environmentOf('CAO');
    const [host] = await hostsOf('CAO', environment.id);
    await signIn(page);
    const drained = page.getByText(/\d+ drained/);
    const before = Number((await drained.textContent())?.split(' ')[0]);
    const change = (what: string) =>
      begin(`/customers/CAO/environments/${environment.id}`, what, { hosts: [host?.id] });
    await change('drain');
    await expect(drained).toHaveText(`${before + 1} drained`, { timeout: 30_000 });
    await expect(page.getByText(`Drain ${host?.name}`)).toBeVisible();
    await change('put-back');
    await expect(drained).toHaveText(`${before} drained`, { timeout: 30_000 });
  });

  test('Customers are sorted, filtered, and shown with the columns one chooses', async ({ page }) => {
    await signIn(page, 'ida', '/customers');
    const table = page.getByRole('region', { name: 'customers' });
    const firstName = () => table.getByRole('row').nth(1).getByRole('cell').first();
    const heading = page.getByRole('button', { name: 'People' });
    await heading.click();
    await heading.click();
    await expect(page.getByRole('columnheader', { name: /People/ })).toHaveAttribute('aria-sort', /ending$/);
    const people = await table.getByRole('row').locator('td:nth-child(3)').allTextContents();
    const sorted = people.map(Number).sort((a, b) => a - b);
    expect([sorted, [...sorted].reverse()]).toContainEqual(people.map(Number));
    await page.getByLabel('Filter customers').fill('puppet');
    await expect(page.getByText('1 of 8')).toBeVisible();
    await expect(firstName()).toContainText('Ardmoth');
    await expect(page.getByRole('columnheader', { name: 'Time zone' })).toHaveCount(0);
    await page.getByLabel('Choose columns').click();
    await page.getByLabel('Time zone').check();
    await expect(page.getByRole('cell', { name: /^Europe\// })).toBeVisible();
    await page.getByLabel('Filter customers').fill('no such');
    await expect(page.getByText('Nothing matches “no such”.')).toBeVisible();
  });

  test('Customers of one plan at one site are pressed to be seen alone, and again to see all', async ({
    page,
  }) => {
    await signIn(page, 'ida', '/customers');
    const place = page.getByRole('button', { name: 'Harbour at Kelp Quay: 2 customers' });
    const names = page.getByRole('region', { name: 'customers' }).locator('tbody').getByRole('link');
    await expect(names).toHaveCount(8);
    await place.click();
    await expect(page.getByRole('heading', { name: '2 of 8 customers' })).toBeVisible();
    await expect(names).toHaveText([/Copperbeck/, /Saltmirren/]);
    await place.press('Enter');
    await expect(names).toHaveCount(8);
    await place.click();
    await page.getByRole('button', { name: 'Show all' }).click();
    await expect(names).toHaveCount(8);
    await expect(place).toHaveAttribute('aria-pressed', 'false');
  });

  test('anything is found from anywhere: a host by its address leads to where it stands', async ({
    page,
  }) => {
    const environment = await environmentOf('SVG');
    const [host] = await hostsOf('SVG', environment.id);
    await signIn(page);
    await page.getByRole('button', { name: /Find anything/ }).click();
    await page.getByLabel('Find', { exact: true }).fill(host?.address ?? '');
    await expect(page.getByRole('option', { name: new RegExp(host?.name ?? '') })).toBeVisible();
    await page.keyboard.press('Enter');
    await expect(page).toHaveURL(new RegExp(`/customers/SVG/hosts/${host?.id ?? ''}`));
    await page.getByRole('button', { name: /Find anything/ }).click();
    await page.getByLabel('Find', { exact: true }).fill('zzz nothing');
    await expect(page.getByText('Nothing found for “zzz nothing”.')).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog')).toBeHidden();
  });

  test('Serve shows one customer’s sessions when it is pressed, and finds by host', async ({ page }) => {
    await signIn(page, 'ida', '/serve');
    // The pilots are in at every hour, whatever the demo's clock says by now.
    const strip = page.getByRole('list', { name: 'Sessions by customer' });
    const pressed = strip.getByRole('button', { name: /^MHP:/ });
    await pressed.click();
    await expect(pressed).toHaveAttribute('aria-pressed', 'true');
    await expect(page.getByRole('heading', { name: 'Signed in for MHP' })).toBeVisible();
    const hosts = page.getByRole('row').getByRole('link');
    await expect(hosts.first()).toContainText('MHP-');
    await expect
      .poll(async () => (await hosts.allTextContents()).filter((name) => !name.startsWith('MHP-')))
      .toEqual([]);
    const name = (await hosts.first().textContent()) ?? '';
    await page.getByLabel('Filter sessions').fill(name);
    await expect.poll(async () => new Set(await hosts.allTextContents())).toEqual(new Set([name]));
    await pressed.click();
    await expect(page.getByRole('heading', { name: 'Signed in', exact: true })).toBeVisible();
  });

  test('Runs and Trail find on the server', async ({ page }) => {
    await signIn(page, 'ida', '/runs');
    await page.getByLabel('Filter runs').fill('weekend');
    await expect(page.getByRole('cell', { name: 'nobody works at the weekend' }).first()).toBeVisible();
    await expect(page.getByRole('cell', { name: 'field office for the winter' })).toHaveCount(0);
    await go(page, '/trail');
    await page.getByLabel('Find in the trail').fill('change state');
    const entry = page.locator('summary', { hasText: 'active → leaving' });
    await expect(entry).toHaveCount(1);
    await entry.click();
    await expect(page.locator('details[open]')).toContainText('Before');
    await page.getByLabel('Find in the trail').fill('nobody did this');
    await expect(page.getByText('Nothing on the trail matches “nobody did this”.')).toBeVisible();
  });

  test('Money shows each currency by itself, and leads to each customer’s costs', async ({ page }) => {
    await signIn(page, 'petra', '/money');
    await expect(page.getByRole('heading', { name: 'This month in EUR' })).toBeVisible();
    await expect(page.getByRole('heading', { name: 'This month in GBP' })).toBeVisible();
    await follow(page, page.getByRole('link', { name: /Marram Harbour Pilots/ }));
    await expect(page).toHaveURL(/customers\/MHP\/costs/);
  });

  test('Ground and Build say how full the sites are and what came from a template', async ({ page }) => {
    await signIn(page, 'ida', '/ground');
    await expect(page.getByRole('img', { name: /Kelp Quay: \d+ % full/ })).toBeVisible();
    await expect(page.getByText(/of 160 vCPU of the quota/)).toBeVisible();
    await expect(page.getByRole('img', { name: /kq-a1: \d+ of 384 GiB/ })).toBeVisible();
    // What someone made past us and forgot, with what it costs a month: 250 GiB at 0.06, and a host of 70.00.
    await expect(page.getByText('scan-copies')).toBeVisible();
    await expect(page.getByText('€85.00 a month')).toBeVisible();
    // Who builds connects nothing.
    await expect(page.getByRole('link', { name: 'Connect a provider' })).toHaveCount(0);
    await go(page, '/build');
    await page.getByRole('link', { name: 'Open' }).nth(1).click();
    await expect(page.getByRole('heading', { name: /environments from it/ })).toBeVisible();
    await follow(page, page.getByRole('link', { name: /clinic/ }));
    await expect(page).toHaveURL(/customers\/SVG\/environments/);
  });
});

test('a connection is tried for real as one types, and what is wrong says what to do', async ({ page }) => {
  await signIn(page, 'bram', '/ground');
  await follow(page, page.getByRole('link', { name: 'Connect a provider' }));
  const tried = (what: string) =>
    page.getByRole('listitem').filter({ has: page.getByText(what, { exact: true }) });
  // Nothing listens at that port of loopback; the first one would be refused before it is asked (Fetch, bad ports).
  await page.getByLabel('Address').fill('http://127.0.0.1:2');
  await expect(tried('address')).toContainText('nothing listens');
  await expect(tried('address')).toContainText('firewall');
  await expect(page.getByRole('button', { name: 'Connect' })).toBeDisabled();
  const { providers } = await api<{ providers: { url: string; account: string }[] }>('/providers');
  await page.getByLabel('Address').fill(providers[0]?.url ?? '');
  await expect(tried('clock')).toContainText('The same as ours');
  await page.getByLabel('Account').fill(providers[0]?.account ?? '');
  await page.getByLabel('Secret').fill('not this one');
  await expect(tried('sign in')).toContainText('account or secret is wrong');
  await expect(tried('sign in')).toContainText('Copy account and secret again');
  await expect(page.getByRole('img', { name: '2 of 6 tries work' })).toBeVisible();
});

test('a page that hears nothing says so, and is up to date again when it does', async ({ page, context }) => {
  const environment = await environmentOf('CAO');
  const [, , host] = await hostsOf('CAO', environment.id);
  await signIn(page, 'ida', `/customers/CAO/environments/${environment.id}`);
  const lost = page.getByRole('status').filter({ hasText: 'No live news' });
  await expect(lost).toHaveCount(0);
  await context.setOffline(true);
  await expect(lost).toBeVisible({ timeout: 30_000 });
  // What happens meanwhile is seen afterwards.
  const change = (what: string) =>
    begin(`/customers/CAO/environments/${environment.id}`, what, { hosts: [host?.id] });
  await change('drain');
  await context.setOffline(false);
  await expect(page.getByRole('cell', { name: 'drained' }).first()).toBeVisible({ timeout: 30_000 });
  await expect(lost).toHaveCount(0);
  await change('put-back');
  await expect(page.getByRole('cell', { name: 'drained' })).toHaveCount(0, { timeout: 30_000 });
});

test('a page whose reading failed reads again by itself, though nothing more is told', async ({ page }) => {
  const environment = await environmentOf('CAO');
  const [, , , host] = await hostsOf('CAO', environment.id);
  await signIn(page, 'ida', `/customers/CAO/environments/${environment.id}`);
  let failed = 0;
  await page.route(`**/api/v1/customers/CAO/environments/${environment.id}*/**`, async (route) => {
    failed++;
    await route.abort('internetdisconnected');
  });
  const change = async (what: string): Promise<void> => {
    const { run } = await begin(`/customers/CAO/environments/${environment.id}`, what, {
      hosts: [host?.id],
    });
    await expect.poll(() => stateOf('CAO', run)).toBe('done');
  };
  await change('drain');
  await expect(page.getByText('No live news')).toBeVisible();
  // Nothing happens any more that could be told.
  await api('/clock', 'PUT', { speed: 0 });
  const before = failed;
  await expect.poll(() => failed, { timeout: 30_000 }).toBeGreaterThan(before + 2);
  await page.unrouteAll();
  await api('/clock', 'PUT', { speed: 60 });
  await expect(page.getByRole('cell', { name: 'drained' }).first()).toBeVisible();
  await expect(page.getByText('No live news')).toHaveCount(0);
  await change('put-back');
  await expect(page.getByRole('cell', { name: 'drained' })).toHaveCount(0);
});

test('a part of a page that comes to life late shows what happened meanwhile', async ({ page }) => {
  const environment = await environmentOf('CAO');
  const [, , , host] = await hostsOf('CAO', environment.id);
  const change = (what: string) =>
    begin(`/customers/CAO/environments/${environment.id}`, what, { hosts: [host?.id] });
  await enter(page, 'ida');
  await api('/clock', 'PUT', { speed: 1 });
  const { run } = await change('power-off');
  // The bar lives, and listens for the whole page, while the run's own script is still on its way.
  const [late] = await Promise.all([
    new Promise<Route>((resolve) => void page.route('**/_astro/Run.*.js', resolve)),
    page.goto(`${address()}/customers/CAO/runs/${run}`),
  ]);
  await expect(page.getByRole('button', { name: 'Find anything' })).toBeVisible();
  await expect(page.getByText(/^took/)).toHaveCount(0);
  await api('/clock', 'PUT', { speed: 600 });
  await expect.poll(() => stateOf('CAO', run), { timeout: 30_000 }).toBe('done');
  // What the bar shows of it was read after it was told.
  await expect(page.getByText('nothing runs')).toBeVisible({ timeout: 30_000 });
  await late.continue();
  await expect(page.getByText(/^took/)).toBeVisible();
  await change('power-on');
  await api('/clock', 'PUT', { speed: 60 });
});

test('ten tabs are open at once: each loads, and each moves by itself', async ({ page, context }) => {
  const environment = await environmentOf('CAO');
  const [, host] = await hostsOf('CAO', environment.id);
  await signIn(page);
  const tabs = [page];
  for (let n = 1; n < 10; n++) {
    const tab = await context.newPage();
    await go(tab, n % 2 === 0 ? '/' : `/customers/CAO/environments/${environment.id}`);
    tabs.push(tab);
  }
  await begin(`/customers/CAO/environments/${environment.id}`, 'drain', { hosts: [host?.id] });
  for (const tab of tabs) await expect(tab.getByText(/\d+ drained/).first()).toBeVisible({ timeout: 30_000 });
  // The tab that listened for all is closed: another takes over.
  const [first, ...others] = tabs;
  await others[0]?.bringToFront();
  await first?.close();
  await begin(`/customers/CAO/environments/${environment.id}`, 'put-back', { hosts: [host?.id] });
  const onEnvironment = others.filter((tab) => tab.url().includes('environments'));
  for (const tab of onEnvironment)
    await expect(tab.getByText(/\d+ drained/)).toHaveCount(0, { timeout: 30_000 });
});

test.describe('inside a customer', () => {
  test('each page carries the customer’s mark in bar, title and icon', async ({ page }) => {
    await signIn(page);
    for (const part of ['', '/people', '/costs', '/runs', '/trail', '/provision']) {
      await go(page, `/customers/MHP${part}`);
      await expect(page).toHaveTitle(/^MHP · /);
      await expect(page.getByRole('banner').getByRole('img', { name: 'MHP' })).toBeVisible();
      await expect(page.locator('link[rel=icon]')).toHaveAttribute('href', '/mark/MHP.svg');
    }
    await go(page, '/');
    await expect(page.locator('link[rel=icon]')).toHaveAttribute('href', '/favicon.svg');
    await expect(page.getByRole('banner')).toContainText('all customers');
  });

  test('the proposal follows what is typed: size, names, addresses, nodes, checks', async ({ page }) => {
    await signIn(page, 'ida', '/customers/SVG/provision');
    await page.getByLabel('Name of the environment').fill('wards');
    await page.getByLabel('People').fill('24');
    const hosts = page.getByRole('img', { name: /hosts to be made/ });
    await expect(hosts).toBeVisible();
    const first = await hosts.getAttribute('aria-label');
    await page.getByRole('button', { name: 'All choices' }).click();
    await page.getByRole('radio').last().check();
    await expect(hosts).not.toHaveAttribute('aria-label', first ?? '');
    await page.getByText('Names and addresses').click();
    const listed = page.locator('details[open] li.mono');
    await expect(listed.first()).toContainText(/SVG-WARDS01 10\.16\.\d+\.\d+ kq-/);
    const addresses = (await listed.allTextContents()).map((text) => text.split(/\s+/)[1]);
    expect(new Set(addresses).size).toBe(addresses.length);
    await page.getByLabel('People').fill('0');
    await expect(page.getByText('nobody to serve').first()).toBeVisible();
    await expect(page.getByRole('button', { name: 'Provision…' })).toBeDisabled();
    await page.getByLabel('People').fill('2000');
    await expect(page.getByText(/plan Harbour allows/).first()).toBeVisible();
    await page.getByLabel('Name of the environment').fill('clinic');
    await expect(page.getByText('SVG has clinic already').first()).toBeVisible();
  });

  test('what cannot be planned is said, and an answer to an older question is not taken for the newest', async ({
    page,
  }) => {
    await page.route('**/planner.worker-*.js', (route) =>
      route.fulfill({
        contentType: 'text/javascript',
        body: `onmessage = ({ data }) => { postMessage({ turn: data.turn - 1 }); throw new Error('${ON_PURPOSE}'); }`,
      }),
    );
    await signIn(page, 'ida', '/customers/SVG/provision');
    const before = await page.getByRole('img', { name: /hosts to be made/ }).getAttribute('aria-label');
    await page.getByLabel('Name of the environment').fill('wards');
    await expect(page.getByText('This could not be planned. Load the page again.')).toBeVisible();
    await expect(page.getByRole('img', { name: before ?? '' })).toBeVisible();
    await expect(page.getByRole('button', { name: 'Provision…' })).toBeDisabled();
    await page.unroute('**/planner.worker-*.js');
    await go(page, '/customers/SVG/provision');
    await page.getByLabel('Name of the environment').fill('wards');
    await expect(page.getByRole('button', { name: 'Provision…' })).toBeEnabled();
  });

  test('what someone else builds meanwhile is said before anything is built, and nothing typed is lost', async ({
    page,
  }) => {
    await signIn(page, 'ida', '/customers/HSB/provision');
    await page.getByLabel('Name of the environment').fill('annex');
    await page.getByLabel('People').fill('4');
    await page.getByRole('button', { name: 'Provision…' }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog.getByLabel('What this does')).toBeVisible();
    await dialog.getByLabel('Why').fill('kept words');
    const wish = {
      environment: 'annex',
      people: 4,
      template: 'shared-office',
      site: 'TF',
    };
    const other = await begin('/customers/HSB', 'provision', wish);
    await expect(async () => {
      await dialog.getByRole('button', { name: 'Provision for HSB' }).click();
      await expect(dialog.getByRole('alert')).toContainText('annex', { timeout: 2_000 });
    }).toPass();
    await expect(dialog.getByLabel('Why')).toHaveValue('kept words');
    await dialog.getByRole('button', { name: 'Back' }).click();
    await expect(page.getByLabel('Name of the environment')).toHaveValue('annex');
    await api('/clock', 'PUT', { speed: 600 });
    await expect
      .poll(async () => (await api<{ state: string }>(`/customers/HSB/runs/${other.run}`)).state, {
        timeout: 60_000,
      })
      .toBe('done');
    await begin(`/customers/HSB/environments/${other.environment}`, 'retire', {}, 'HSB');
    await api('/clock', 'PUT', { speed: 60 });
  });

  test('a run is stopped and resumed from its page', async ({ page }) => {
    const environment = await environmentOf('QFB');
    const [host] = await hostsOf('QFB', environment.id);
    const change = (what: string) =>
      begin(`/customers/QFB/environments/${environment.id}`, what, { hosts: [host?.id] });
    await api('/clock', 'PUT', { speed: 1 });
    const { run } = await change('power-off');
    await signIn(page, 'ida', `/customers/QFB/runs/${run}`);
    await page.getByRole('button', { name: 'Stop' }).click();
    // What is under way ends first; the demo's time is let go on for it.
    await api('/clock', 'PUT', { speed: 600 });
    await expect(page.getByText(/^(took|1 steps are left)/)).toBeVisible({ timeout: 30_000 });
    const on = await change('power-on');
    await go(page, `/customers/QFB/runs/${on.run}`);
    await expect(page.getByText(/^took/)).toBeVisible({ timeout: 60_000 });
    await api('/clock', 'PUT', { speed: 60 });
  });

  test('a run that is done is undone from its page: what it changed is proposed back', async ({ page }) => {
    const environment = await environmentOf('MHP');
    const [, , , host] = await hostsOf('MHP', environment.id);
    const { run } = await begin(`/customers/MHP/environments/${environment.id}`, 'drain', {
      hosts: [host?.id],
    });
    await signIn(page, 'ida', `/customers/MHP/runs/${run}`);
    await page.getByRole('button', { name: 'Undo…' }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog).toContainText(`Undo Drain ${host?.name ?? ''}`);
    await expect(dialog).toContainText('takes nobody, wanted open');
    await dialog.getByRole('button', { name: 'Undo for MHP' }).click();
    await expect(page.getByRole('heading', { name: `Put back ${host?.name ?? ''} of` })).toBeVisible();
    await expect(page.getByText(/^took /)).toBeVisible({ timeout: 60_000 });
  });

  test('hosts are filtered and chosen together; a change says whose they are and is left without harm', async ({
    page,
  }) => {
    const environment = await environmentOf('MHP');
    await signIn(page, 'ida', `/customers/MHP/environments/${environment.id}`);
    await page.getByLabel('Filter hosts').fill('01');
    await expect(page.getByText(`1 of ${environment.hosts}`).first()).toBeVisible();
    await page.getByLabel('Filter hosts').fill('');
    await page.getByLabel('Select all').check();
    await expect(page.getByText(`${environment.hosts} selected`)).toBeVisible();
    await page.getByRole('button', { name: 'Power off' }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog).toContainText(`Power off ${environment.hosts} hosts for Marram Harbour Pilots`);
    await expect(dialog.getByRole('img', { name: 'MHP' })).toBeVisible();
    await expect(dialog.getByText(/signed in; (their sessions end|the session ends) at once/)).toBeVisible();
    await dialog.getByRole('button', { name: 'Back' }).click();
    const hosts = await hostsOf('MHP', environment.id);
    expect(hosts.filter((host) => host.status === 'off')).toEqual([]);
  });

  test('costs of an earlier month: what is shown and what is exported add up to the same', async ({
    page,
  }) => {
    await signIn(page, 'petra', '/customers/SVG/costs');
    await page.getByLabel('Month').selectOption({ index: 1 });
    await expect(page).toHaveURL(/month=\d{4}-\d{2}/);
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'CSV' }).click(),
    ]);
    const csv = await readFile(await file.path(), 'utf8');
    const [header = '', ...rows] = csv.trim().split('\r\n');
    const at = header.split(',').indexOf('charge');
    const cents = rows.reduce((sum, row) => sum + Math.round(Number(row.split(',')[at]) * 100), 0);
    const total = (cents / 100).toLocaleString('en-GB', { minimumFractionDigits: 2 });
    await expect(page.getByText(`€${total}`).first()).toBeVisible();
    const cells = await page.getByRole('row').locator('td:last-child').allTextContents();
    const shown = cells.reduce((sum, text) => sum + Math.round(Number(text.replace(/[€,]/g, '')) * 100), 0);
    expect(shown).toBe(cents);
  });

  test('people go out as a file as they stand', async ({ page }) => {
    await signIn(page, 'ida', '/customers/QFB/people');
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'CSV' }).click(),
    ]);
    const rows = (await readFile(await file.path(), 'utf8')).trim().split('\r\n');
    expect(rows[0]).toBe('account,given,family,mail');
    await expect(page.getByRole('heading', { name: `${rows.length - 1} people of QFB` })).toBeVisible();
  });
});

test.describe('who one is', () => {
  for (const [role, who] of [
    ['a bookkeeper', 'petra'],
    ['an auditor', 'runa'],
  ] as const)
    test(`${role} is offered nothing that changes anything`, async ({ page }) => {
      const environment = await environmentOf('SVG');
      await signIn(page, who, `/customers/SVG/environments/${environment.id}`);
      await expect(page.getByRole('heading', { name: environment.name })).toBeVisible();
      await expect(page.getByRole('link', { name: 'Retire…' })).toHaveCount(0);
      await expect(page.getByRole('link', { name: 'Provision', exact: true })).toHaveCount(0);
      await expect(page.getByLabel('Select all')).toHaveCount(0);
      await expect(page.getByLabel('Speed of the clock')).toHaveCount(0);
      await go(page, '/customers/SVG/provision');
      await expect(page).toHaveURL(/customers\/SVG$/);
      await go(page, '/customers/SVG/people');
      await expect(page.getByText('Import people')).toHaveCount(0);
    });

  test('a page that is not there leads back, without telling whether it is someone else’s', async ({
    page,
  }) => {
    await signIn(page, 'jonah');
    const environment = await environmentOf('MHP');
    const texts = [];
    for (const path of [
      '/nowhere',
      '/customers/ZZZ',
      '/customers/MHP',
      `/customers/MHP/environments/${environment.id}`,
      `/customers/SVG/environments/${environment.id}`,
      `/customers/SVG/environments/${environment.id}/retire`,
      '/customers/MHP/runs',
    ]) {
      const response = await page.request.get(address() + path);
      expect([path, response.status()]).toEqual([path, 404]);
      texts.push((await response.text()).replace(/\s+/g, ' '));
    }
    expect(new Set(texts).size).toBe(1);
    expect(texts[0]).toContain('href="/"');
  });

  test('signed out elsewhere, the page says so and keeps what was typed', async ({ page, context }) => {
    await signIn(page, 'ida', '/customers/SVG/provision');
    await page.getByLabel('Name of the environment').fill('kept');
    const other = await context.newPage();
    await other.goto(address());
    await other.getByRole('button', { name: 'Sign out' }).click();
    await expect(other).toHaveURL(/sign-in/);
    await expect(page.getByRole('alert')).toContainText('You are signed out.', { timeout: 30_000 });
    await expect(page.getByLabel('Name of the environment')).toHaveValue('kept');
    const [again] = await Promise.all([
      context.waitForEvent('page'),
      page.getByRole('link', { name: 'Sign in in another tab' }).click(),
    ]);
    await signIn(again);
    await page.getByLabel('People').fill('4');
    await page.getByRole('button', { name: 'Provision…' }).click();
    await expect(page.getByRole('dialog').getByLabel('What this does')).toBeVisible();
  });

  test('whoever comes without a sign-in is led back to where they wanted to go', async ({ page }) => {
    await go(page, '/customers/SVG/costs');
    await expect(page).toHaveURL(/sign-in\?next=/);
    await page.getByLabel('Mail address').fill('petra@terntallow.example');
    await page.getByLabel('Password').fill('lantern-on-the-quay');
    await page.getByRole('button', { name: 'Sign in' }).click();
    await expect(page).toHaveURL(/customers\/SVG\/costs$/);
  });

  test('a sign-in works before the page has come to life, and the password is never in an address', async ({
    browser,
  }) => {
    const context = await browser.newContext({ javaScriptEnabled: false });
    const page = await context.newPage();
    const seen: string[] = [];
    page.on('request', (request) => seen.push(request.url()));
    await page.goto(`${address()}/sign-in?next=/money`);
    await page.getByLabel('Mail address').fill('bram@terntallow.example');
    await page.getByLabel('Password').fill('not his');
    await page.getByRole('button', { name: 'Sign in' }).click();
    await expect(page.getByRole('alert')).toHaveText('Mail address or password is wrong.');
    await expect(page.getByLabel('Mail address')).toHaveValue('bram@terntallow.example');
    await page.getByLabel('Password').fill('lantern-on-the-quay');
    await page.getByRole('button', { name: 'Sign in' }).click();
    await expect(page).toHaveURL(/\/money$/);
    expect(seen.filter((url) => /lantern|not%20his|not\+his|password/.test(url))).toEqual([]);
    const [cookie] = await context.cookies();
    expect(cookie).toMatchObject({ httpOnly: true, sameSite: 'Lax' });
    await context.close();
  });

  test.describe('what is typed before a page has come to life is kept, and counts', () => {
    /** Goes to a page whose view comes to life only when it is told so. */
    const early = async (page: Page, path: string, view: string): Promise<() => Promise<void>> => {
      let come: (() => void) | undefined;
      const told = new Promise<void>((resolve) => (come = resolve));
      await page.route(`**/_astro/${view}.*.js`, async (route) => {
        await told;
        await route.continue();
      });
      await page.goto(address() + path, { waitUntil: 'commit' });
      await expect(page.locator('astro-island[ssr]').first()).toBeAttached();
      return async () => {
        expect(await page.locator('astro-island[ssr]').count()).toBeGreaterThan(0);
        come?.();
        await ready(page);
      };
    };

    test('to sign in', async ({ page }) => {
      const comeToLife = await early(page, '/sign-in?next=/money', 'SignIn');
      await page.getByLabel('Mail address').fill('bram@terntallow.example');
      await page.getByLabel('Password').fill('lantern-on-the-quay');
      await comeToLife();
      await page.getByRole('button', { name: 'Sign in' }).click();
      await expect(page).toHaveURL(/\/money$/);
    });

    test('to provision', async ({ page }) => {
      await enter(page, 'bram');
      const comeToLife = await early(page, '/customers/APT/provision', 'Provision');
      await page.getByLabel('Name of the environment').fill('early');
      await page.getByLabel('People').fill('4');
      await comeToLife();
      await expect(page.getByText('4 of 14 known')).toBeVisible();
      await expect(page.getByText('early is free')).toBeVisible();
      await expect(page.getByLabel('People')).toHaveValue('4');
    });
  });

  test('another site cannot send the form', async ({ request }) => {
    const response = await request.post(`${address()}/sign-in`, {
      headers: { origin: 'http://evil.example' },
      form: { mail: 'bram@terntallow.example', password: 'lantern-on-the-quay' },
    });
    expect(response.status()).toBe(403);
    expect(response.headers()['set-cookie']).toBeUndefined();
  });

  test('another site cannot sign one out', async ({ page }) => {
    await enter(page, 'bram');
    const sent = await page.request.post(`${address()}/sign-out`, {
      headers: { origin: 'http://evil.example' },
      maxRedirects: 0,
    });
    expect(sent.headers()['set-cookie']).toBeUndefined();
    await page.goto(`${address()}/money`);
    await expect(page).toHaveURL(/\/money$/);
  });

  test('one signs out from a page that has not come to life', async ({ browser }) => {
    const context = await browser.newContext({ javaScriptEnabled: false });
    const page = await context.newPage();
    await enter(page, 'bram');
    await page.goto(`${address()}/money`);
    await page.getByRole('button', { name: 'Sign out' }).click();
    await expect(page).toHaveURL(/\/sign-in$/);
    await page.goto(`${address()}/money`);
    await expect(page).toHaveURL(/\/sign-in\?next=/);
    // Once more, from a page that was left open: nowhere that is not there is led to.
    const again = await page.request.post(`${address()}/sign-out`, {
      headers: { origin: address() },
      maxRedirects: 0,
    });
    expect([again.status(), again.headers().location]).toEqual([303, '/sign-in']);
    await context.close();
  });

  test('a foreign address is not where a sign-in leads', async ({ page }) => {
    for (const next of ['https://evil.example/', '//evil.example/', '/\\evil.example']) {
      await go(page, `/sign-in?next=${encodeURIComponent(next)}`);
      await signInHere(page);
      expect(new URL(page.url()).host).toBe(new URL(address()).host);
      await page.getByRole('button', { name: 'Sign out' }).click();
      await expect(page).toHaveURL(/sign-in/);
    }
  });

  const signInHere = async (page: Page): Promise<void> => {
    await page.getByLabel('Mail address').fill('bram@terntallow.example');
    await page.getByLabel('Password').fill('lantern-on-the-quay');
    await page.getByRole('button', { name: 'Sign in' }).click();
    await expect(page.getByRole('navigation', { name: 'Main' })).toBeVisible();
  };
});

test('what speaks for one: a token is made, shown once, used, listed and ended', async ({ page }) => {
  await signIn(page, 'jonah', '/');
  await follow(page, page.getByRole('link', { name: 'Jonah Weir' }));
  await expect(page.getByText('2 customers')).toBeVisible();
  await page.getByRole('button', { name: 'Make' }).click();
  await expect(page.getByText('say what it is for')).toBeVisible();
  await page.getByLabel('What it is for').fill('night report');
  await page.getByRole('button', { name: 'Make' }).click();
  const shown = page.getByRole('status').filter({ hasText: 'shown this once' }).locator('code');
  const made = (await shown.textContent()) ?? '';
  const asked = () => fetch(`${address()}/api/v1/me`, { headers: { authorization: `Bearer ${made}` } });
  expect((await asked()).status).toBe(200);
  await page.reload();
  await ready(page);
  await expect(page.getByText(made)).toHaveCount(0);
  const row = page.getByRole('row', { name: /night report/ });
  await expect(row).not.toContainText('never');
  await expect(row).toContainText('in 90 days');
  await row.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'End 1 token' }).click();
  await expect(page.getByText('No token speaks for you.')).toBeVisible();
  expect((await asked()).status).toBe(401);
});

test('one’s password is changed by the one that one has; what is wrong stands beside its field', async ({
  page,
}) => {
  await signIn(page, 'petra', '/you');
  const [old, next] = [page.getByLabel('Current password'), page.getByLabel('New password')];
  const press = () => page.getByRole('button', { name: 'Change', exact: true }).click();
  await press();
  await expect(page.getByText('enter your current password')).toBeVisible();
  await old.fill('not-mine-at-all');
  await next.fill('short');
  await press();
  await expect(page.getByText('at least 12 characters').last()).toBeVisible();
  await next.fill('a-lantern-in-the-fog');
  await press();
  await expect(page.getByText('is not your current password')).toBeVisible();
  await old.fill('lantern-on-the-quay');
  await press();
  await expect(page.getByRole('status').filter({ hasText: 'Changed.' })).toBeVisible();
  await expect(next).toHaveValue('');
  await old.fill('a-lantern-in-the-fog');
  await next.fill('lantern-on-the-quay');
  await press();
  await expect(next).toHaveValue('');
});

test.describe('how it looks', () => {
  test('the theme that one chose stays, from the first paint on', async ({ page }) => {
    await signIn(page);
    const theme = () => page.locator('html').getAttribute('data-theme');
    const before = await theme();
    await page.getByRole('button', { name: /theme$/ }).click();
    const after = await theme();
    expect(after).not.toBe(before);
    await page.addInitScript(() => {
      document.addEventListener('DOMContentLoaded', () => {
        document.documentElement.dataset.atFirst = document.documentElement.dataset.theme ?? 'none';
      });
    });
    await page.reload();
    await expect(page.locator('html')).toHaveAttribute('data-at-first', after ?? '');
  });

  test('nothing moves for who asked for no motion', async ({ page }) => {
    await page.emulateMedia({ reducedMotion: 'reduce' });
    await signIn(page);
    const moving = await page.evaluate(
      () =>
        [...document.querySelectorAll('*')].filter((one) => {
          const { animationName, animationDuration } = getComputedStyle(one);
          return animationName !== 'none' && parseFloat(animationDuration) > 0.01;
        }).length,
    );
    expect(moving).toBe(0);
  });

  test('the demo’s clock is paused, stepped and set, in every open page', async ({ page, context }) => {
    await signIn(page);
    const other = await context.newPage();
    await other.goto(address());
    const shown = (on: Page) => on.getByRole('group', { name: 'Demo clock' }).locator('time');
    await page.getByRole('button', { name: 'Pause the clock' }).click();
    await expect(other.getByRole('button', { name: 'Run the clock' })).toBeVisible();
    const at = await shown(page).textContent();
    const hour = Number(/(\d\d):/.exec(at ?? '')?.[1]);
    await page.getByRole('button', { name: 'Step one hour' }).click();
    await expect(shown(page)).toContainText(`${String((hour + 1) % 24).padStart(2, '0')}:`);
    await expect(shown(other)).toHaveText((await shown(page).textContent()) ?? '');
    await page.getByRole('button', { name: 'Run the clock' }).click();
    await expect(other.getByRole('button', { name: 'Pause the clock' })).toBeVisible();
  });

  test('on a narrow window nothing is out of reach', async ({ page }) => {
    await signIn(page);
    await page.setViewportSize({ width: 900, height: 700 });
    for (const path of ['/', '/customers', '/serve', '/runs', '/customers/SVG', '/customers/SVG/provision']) {
      await go(page, path);
      const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
      expect([path, over <= 0]).toEqual([path, true]);
    }
  });
});
