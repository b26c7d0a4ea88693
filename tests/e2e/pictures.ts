// Makes the pictures of docs/screenshots anew, from the demo as it was loaded. Run by hand: see docs/adding.md.
import { address, api, expect, go, mailedLink, ready, signIn, test, workingHour } from './laager';

interface Listed {
  readonly entries: readonly {
    id: string;
    state?: string;
    name?: string;
    title?: string;
    account?: string;
  }[];
}

/** The first of a list that fits; it has to be there. */
async function first(path: string, fits: (one: Listed['entries'][number]) => boolean): Promise<string> {
  const { entries } = await api<Listed>(path);
  const found = entries.find(fits);
  expect(found, path).toBeDefined();
  return found?.id ?? '';
}

test('pictures', async ({ page }) => {
  test.setTimeout(300_000);
  await workingHour();
  const shoot = async (name: string): Promise<void> => {
    await page.evaluate(() => document.fonts.ready);
    await page.screenshot({ path: `docs/screenshots/${name}.png`, animations: 'disabled' });
  };
  const take = async (name: string, path: string): Promise<void> => {
    await go(page, path);
    await shoot(name);
  };
  await signIn(page, 'bram', '/');
  await shoot('watch');
  await take('customer', '/customers/SVG');
  await take('provision', '/customers/SVG/provision');
  await take('costs', '/customers/SVG/costs');
  await take('sizing', '/customers/SVG/sizing');
  await take('people', '/customers/HSB/people');
  await go(page, '/customers/SVG/items');
  await page
    .getByRole('button', { name: /Full desktop/ })
    .first()
    .click();
  await shoot('items');
  await take('template', '/build/templates/shared-office');
  await go(page, '/customers/new');
  await page.getByLabel('Like another').selectOption({ label: 'SVG Saltmirren Veterinary Group' });
  await page.getByLabel('Code').fill('KLP');
  await page.getByLabel('Legal name').fill('Kelpwright Pianos');
  await expect(page.getByText('KLP-DESKS01')).toBeVisible();
  await shoot('onboard');
  await take('serve', '/serve');
  await take('money', '/money');
  await take('ground', '/ground');
  const assay = await first('/customers/CAO/environments', ({ state }) => state !== 'retired');
  await take('environment', `/customers/CAO/environments/${assay}`);
  const gone = await first('/customers/WAP/environments', ({ state }) => state === 'retired');
  await take('proof', `/customers/WAP/environments/${gone}`);
  const run = await first('/customers/SVG/runs', ({ title }) => title === 'Provision clinic');
  await take('run', `/customers/SVG/runs/${run}`);
  const clinic = await first('/customers/SVG/environments', ({ state }) => state !== 'retired');
  const host = await first(
    `/customers/SVG/environments/${clinic}/hosts`,
    ({ name }) => name === 'SVG-CLINIC01',
  );
  await take('host', `/customers/SVG/hosts/${host}`);
  const person = await first('/customers/SVG/people', ({ account }) => account === 'aino.underhill');
  await take('person', `/customers/SVG/people/${person}`);
  const mail = 'aino.underhill@svg.example';
  await page.request.post(`${address()}/api/v1/desk/links`, {
    headers: { origin: address() },
    data: { mail },
  });
  await page.goto(await mailedLink(mail));
  await ready(page);
  await page.getByRole('button', { name: 'To my desk' }).click();
  await page.waitForURL(/\/desk$/);
  await ready(page);
  await shoot('desk');
});
