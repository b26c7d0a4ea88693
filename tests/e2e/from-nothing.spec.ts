import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Locator, Page } from '@playwright/test';
import { Processes } from '../../scripts/lib.mjs';
import { DEMO_PASSWORD } from '../../src/demo/scenario';
import { codeAt } from '../../src/server/sign-in/factor';
import { expect, follow, ready, test } from './laager';
import { startStack } from './setup';

/* An MSP with nothing but a lead hosts two customers, through the browser alone. */

const processes = new Processes();
const folder = mkdtempSync(join(tmpdir(), 'laager-empty-'));
let base = '';
let provider = '';
let secret = '';

test.beforeAll(async () => {
  test.setTimeout(120_000);
  const { address, env } = await startStack(processes, folder, 8_300, 'empty');
  base = address;
  [provider = ''] = (env.LAAGER_SIMULATION_URLS ?? '').split(',');
  secret = env.PROVIDER_SECRET ?? '';
});
test.afterAll(async () => {
  await processes.stopAll();
  rmSync(folder, { recursive: true, force: true });
});

const to = async (page: Page, path: string): Promise<void> => {
  await page.goto(base + path);
  await ready(page);
};

/** Sets the clock's speed, from whatever page has it. */
const speed = (page: Page, times: string): Promise<unknown> =>
  page.getByLabel('Speed of the clock').selectOption(times);

/** Follows a step of the first things to do. */
const step = async (page: Page, verb: string): Promise<void> => {
  await to(page, '/');
  await follow(page, page.getByRole('link', { name: verb }));
};

/** Says why in the dialog of a change, and begins it. */
const confirm = async (dialog: Locator, button: string | RegExp): Promise<void> => {
  await dialog.getByLabel('Why').fill('from nothing');
  await dialog.getByRole('button', { name: button }).click();
};

/** Until no run is under way. */
const settle = async (page: Page): Promise<void> => {
  await expect(page.getByRole('link', { name: 'nothing runs' })).toBeVisible({ timeout: 60_000 });
};

/** The demo's time, in ms. */
const clock = async (page: Page): Promise<number> =>
  ((await (await page.request.get(`${base}/api/v1/clock`)).json()) as { now: number }).now;

/** Builds an environment for a customer, from its page */
const provision = async (page: Page, code: string): Promise<void> => {
  await to(page, `/customers/${code}/provision`);
  await page.getByLabel('Name of the environment').fill('main');
  await page.getByLabel('People').fill('6');
  await page.getByRole('button', { name: 'All choices' }).click();
  await page.getByRole('radio', { name: /2 × 4 vCPU · 16 GiB/ }).check();
  await page.getByRole('button', { name: 'Provision…' }).click();
  await confirm(page.getByRole('dialog'), `Provision for ${code}`);
  await page.waitForURL(/\/runs\//);
  await ready(page);
};

test('from nothing: a lead with a second factor, a provider, prices, plans, two customers alike, the shelf, and the way out', async ({
  page,
}) => {
  test.setTimeout(420_000);
  await test.step('the lead signs in, and sets up a second factor', async () => {
    await to(page, '/sign-in');
    await page.getByLabel('Mail address').fill('bram@terntallow.example');
    await page.getByLabel('Password').fill(DEMO_PASSWORD);
    await page.getByRole('button', { name: 'Sign in' }).click();
    await expect(page.getByText('Nobody is hosted yet')).toBeVisible();
    await to(page, '/you');
    await page.getByRole('button', { name: 'Set up' }).click();
    const own = ((await page.locator('form code').textContent()) ?? '').replace(/\s/g, '');
    await page.getByLabel('Your password').fill(DEMO_PASSWORD);
    await page.getByLabel('The code that it shows now').fill(codeAt(own, Date.now()));
    await page.getByRole('button', { name: 'Set up' }).click();
    const codes = page.getByRole('list', { name: 'Recovery codes' }).getByRole('listitem');
    const recovery = (await codes.first().textContent()) ?? '';
    await page.getByRole('button', { name: 'Sign out' }).click();
    await ready(page);
    await page.getByLabel('Mail address').fill('bram@terntallow.example');
    await page.getByLabel('Password').fill(DEMO_PASSWORD);
    await page.getByRole('button', { name: 'Sign in' }).click();
    await page.getByLabel('Code of your second factor').fill(recovery);
    await page.getByRole('button', { name: 'Sign in' }).click();
    await expect(page.getByText('Nobody is hosted yet')).toBeVisible();
  });

  await test.step('a provider is connected, at first with a wrong secret; its prices are taken over', async () => {
    await step(page, 'Connect a provider');
    await page.getByLabel('Code').fill('coast');
    await page.getByLabel('Name').fill('Coast Compute');
    await page.getByLabel('Address').fill(provider);
    await page.getByLabel('Account').fill('tern');
    await page.getByLabel('Secret').fill('not it');
    await expect(page.getByText('Copy account and secret again, whole and without spaces.')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Connect' })).toBeDisabled();
    await page.getByLabel('Secret').fill(secret);
    await expect(page.getByText('Kelp Quay').first()).toBeVisible();
    await page.getByRole('button', { name: 'Connect' }).click();
    await page.waitForURL(/\/ground$/);
    await step(page, 'Take its prices over');
    await page.getByRole('button', { name: /prices over/ }).click();
    await expect(page.getByText(/in force/).first()).toBeVisible();
  });

  await test.step('addresses; what is not private, or is given twice, is refused beside its field', async () => {
    await step(page, 'Give a site addresses');
    await page.getByLabel('Site').selectOption({ label: 'Kelp Quay' });
    await page.getByLabel('Range', { exact: true }).fill('8.8.0.0/16');
    await page.getByRole('button', { name: 'Add', exact: true }).click();
    await expect(page.getByText(/private/).first()).toBeVisible();
    await page.getByLabel('Range', { exact: true }).fill('10.20.0.0/16');
    await page.getByRole('button', { name: 'Add', exact: true }).click();
    await expect(page.getByText('10.20.0.0/16').first()).toBeVisible();
  });

  await test.step('shared services', async () => {
    await step(page, 'Provide shared services');
    await speed(page, '600');
    await page
      .getByRole('button', { name: /Provide/ })
      .first()
      .click();
    await confirm(page.getByRole('dialog'), /^Provide for/);
    await expect(page.getByText('serving').first()).toBeVisible({ timeout: 60_000 });
    await settle(page);
  });

  await test.step('a rate card and two plans', async () => {
    await step(page, 'Make a rate card');
    await page.getByRole('button', { name: 'Make a card' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Code').fill('eur');
    await dialog.getByLabel('Name').fill('Standard');
    await dialog.getByRole('button', { name: /Make it with/ }).click();
    await expect(page.getByRole('columnheader', { name: /Standard/ })).toBeVisible();
    await page.getByRole('button', { name: 'Change licence on Standard' }).click();
    await dialog.getByLabel(/Price in EUR/).fill('4');
    await dialog.getByRole('button', { name: 'Set the price' }).click();
    await expect(page.getByText('€4', { exact: true })).toBeVisible();
    await step(page, 'Make a plan');
    const plan = async (code: string, hosts: string, shelf: string, monthly: string): Promise<void> => {
      await to(page, '/money/plans/edit');
      await page.getByLabel('Code').fill(code);
      await page.getByLabel('Name').fill(code);
      await page.getByLabel('Hosts', { exact: true }).fill(hosts);
      await page.getByLabel('Hosts from the ready shelf').fill(shelf);
      await page.getByLabel('A month in EUR').fill(monthly);
      await page.getByRole('button', { name: 'Make the plan' }).click();
      await page.waitForURL(/\/money\/plans$/);
    };
    await plan('large', '20', '1', '140.00');
    await plan('small', '1', '0', '35.00');
  });

  await test.step('a template, and a host that is kept ready for it', async () => {
    await step(page, 'Begin with a template');
    await page.getByLabel('Image of its hosts').selectOption('Ostrel 12 multi-user');
    await page.getByRole('button', { name: 'Take Shared office' }).click();
    await expect(page.getByText('revision 1')).toBeVisible();
    await to(page, '/ground/shelf');
    await page
      .getByRole('button', { name: /Keep .*ready/ })
      .first()
      .click();
    await page.getByRole('dialog').getByLabel('Image').selectOption('Ostrel 12 multi-user');
    await page.getByRole('dialog').getByLabel('Size').selectOption({ label: '4 vCPU · 16 GiB' });
    await page.getByRole('dialog').getByLabel('Hosts').fill('1');
    await page.getByRole('button', { name: 'See what comes of it' }).click();
    await confirm(page.getByRole('dialog'), /^Keep ready for/);
    await settle(page);
    await expect(page.getByText('ready', { exact: true }).first()).toBeVisible({ timeout: 60_000 });
  });

  await test.step('a customer by hand, and another from a file', async () => {
    await step(page, 'Take on a customer');
    await page.getByLabel('Code').fill('TRW');
    await page.getByLabel('Legal name').fill('Tarn Ropewalk');
    await page.getByLabel('Home site').selectOption({ label: 'Kelp Quay' });
    await page.getByLabel('Time zone').fill('Europe/Dublin');
    await page.getByLabel('Plan', { exact: true }).selectOption('large');
    await page.getByLabel('Rate card').selectOption('eur');
    await page.getByRole('button', { name: 'Take on TRW' }).click();
    await page.waitForURL(/\/customers\/TRW$/);
    await to(page, '/customers/file');
    await page.getByLabel('Customers as YAML').click();
    await page.keyboard.press('Control+a');
    await page.keyboard.insertText(
      'customers:\n  - {code: LMK, name: Lowmere Kilns, state: active, plan: large, site: KQ, zone: Europe/Dublin, currency: EUR, card: eur}\n',
    );
    await page.getByRole('button', { name: 'Take on 1' }).click();
    await expect(page.getByRole('link', { name: 'LMK' })).toBeVisible();
  });

  await test.step('the first person is in from the shelf within a minute of the clock', async () => {
    await speed(page, '1');
    await provision(page, 'TRW');
    const begun = await clock(page);
    await to(page, '/customers/TRW');
    await expect(page.getByRole('img', { name: /1 serving/ }).first()).toBeVisible({ timeout: 60_000 });
    expect((await clock(page)) - begun).toBeLessThan(60_000);
    await speed(page, '600');
    await settle(page);
  });

  await test.step('the same environment and pool for the other; nothing of the two meets', async () => {
    await provision(page, 'LMK');
    await settle(page);
    for (const code of ['TRW', 'LMK']) {
      await to(page, `/customers/${code}`);
      await follow(page, page.getByRole('link', { name: /main/ }).first());
      await expect(page.getByText(`${code}-MAIN01`).first()).toBeVisible();
      await expect(page.getByText(`${code === 'TRW' ? 'LMK' : 'TRW'}-`)).toHaveCount(0);
    }
    await to(page, '/ground/addresses');
    await expect(page.getByRole('cell', { name: 'TRW' }).first()).toBeVisible();
    await expect(page.getByRole('cell', { name: 'LMK' }).first()).toBeVisible();
    await to(page, '/ground/networks');
    await expect(page.getByText('2 of 2 networks joined')).toBeVisible();
  });

  await test.step('a price and a node at the provider: seen, and taken over or noted', async () => {
    const faults = [
      { kind: 'price', target: 's4x16', amount: 4 },
      { kind: 'drop-node', target: 'kq-b4', amount: 0 },
    ];
    await fetch(`${provider}/control/faults`, { method: 'PUT', body: JSON.stringify({ faults }) });
    await to(page, '/ground/changes');
    await page.getByRole('button', { name: /1 price over/ }).click({ timeout: 60_000 });
    await expect(page.getByRole('button', { name: /price over/ })).toHaveCount(0);
    await page.getByRole('button', { name: 'Noted' }).first().click({ timeout: 60_000 });
    await expect(page.getByText('nothing waits to be noted')).toBeVisible();
  });

  await test.step('paused, started, moved to a plan that does not fit, and gone with archive and proof', async () => {
    await to(page, '/customers/LMK/life');
    await page.getByLabel('Minutes they get').fill('0');
    await page.getByLabel('Type LMK').first().fill('LMK');
    await page.getByRole('button', { name: 'Pause LMK' }).click();
    await expect(page.getByText('paused').first()).toBeVisible();
    await settle(page);
    await page.getByRole('button', { name: 'Start again' }).click();
    await expect(page.getByText('active').first()).toBeVisible();
    await settle(page);

    await to(page, '/customers/LMK/plan');
    await page.getByRole('button', { name: 'Move …' }).first().click();
    const dialog = page.getByRole('dialog');
    await expect(dialog.getByText('2 hosts; plan small allows 1')).toBeVisible();
    await expect(dialog.getByRole('button', { name: 'Move LMK' })).toBeDisabled();
    await dialog.getByLabel('Allow what does not fit until').fill('2031-01-01');
    await dialog.getByLabel('Why').fill('until spring');
    await dialog.getByRole('button', { name: 'Move LMK' }).click();
    await expect(page.getByText(/until spring/)).toBeVisible();

    await to(page, '/customers/LMK/life');
    await page.getByLabel('Type LMK').last().fill('LMK');
    await page.getByRole('button', { name: 'Offboard LMK' }).click();
    await expect(page.getByText(/are kept until/)).toBeVisible({ timeout: 60_000 });
    const [archive] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'LMK.zip' }).click(),
    ]);
    expect(archive.suggestedFilename()).toBe('LMK.zip');
    await to(page, '/customers/LMK');
    await page.getByText('1 retired').click();
    await follow(page, page.getByRole('link', { name: 'main', exact: true }));
    await expect(page.getByRole('heading', { name: 'Only kept data are left of main' })).toBeVisible();
    await to(page, '/customers/TRW');
    await expect(page.getByRole('img', { name: /2 serving/ }).first()).toBeVisible();
  });
});
