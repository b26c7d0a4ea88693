import { NO_LIMITS } from '../../src/core/plans';
import { expect, go, sendAs, signIn, test } from './laager';

/* Several customers are moved to a version of a plan, in one run over them. */

test('moving several is a run: who is moved, who is not and why, stopped and tried again', async ({
  page,
}) => {
  await signIn(page, 'bram', '/money/plans');
  const keep = (hosts: number | null) =>
    sendAs<{ version: number }>(page, 'PUT', '/plans/several', {
      name: 'Several',
      most: { ...NO_LIMITS, hosts },
    });
  const { version } = await keep(null);
  const codes = ['APT', 'HSB', 'SVG', 'WAP'];
  for (const code of codes)
    await sendAs(page, 'POST', `/customers/${code}/plan`, { plan: 'several', version });
  await keep(6);
  await go(page, '/money/plans/move?plan=several&version=2');
  // Those who would not fit are not among them.
  await expect(page.getByText('would not fit').first()).toBeVisible();
  await page.getByLabel('How many go first').fill('1');
  await page.getByLabel('Why').fill('they asked for it');
  const count = Number((await page.locator('ul[aria-label="Who fits"] input:checked').count()).toString());
  expect(count).toBeGreaterThan(0);
  await page.getByLabel(/Type how many/).fill(String(count));
  await page.getByRole('button', { name: /^Move \d/ }).click();
  await page.waitForURL(/\/runs\/\w{26}$/);
  await expect(page.getByRole('heading', { name: /^Move .* to Several v2$/ })).toBeVisible();
  await expect(page.getByText('took', { exact: false }).first()).toBeVisible({ timeout: 20_000 });
  await expect(page.getByText('moved from Several v1').first()).toBeVisible();
  await expect(page.getByText('the first before all others')).toBeVisible();

  // One who does not fit is named with the reason; the run says that it stopped, and is tried again.
  const { run } = await sendAs<{ run: string }>(page, 'POST', '/plans/several/moves', {
    version: 2,
    customers: ['SVG'],
    count: 1,
    reason: 'all the same',
  });
  await go(page, `/runs/${run}`);
  await expect(page.getByText(/plan Several allows 6/).first()).toBeVisible({ timeout: 20_000 });
  await page.getByRole('button', { name: 'Try 1 part again' }).click();
  await expect(page.getByText(/plan Several allows 6/).first()).toBeVisible({ timeout: 20_000 });
  await go(page, '/runs');
  await expect(page.getByRole('link', { name: /to Several v2/ }).first()).toBeVisible();
});
