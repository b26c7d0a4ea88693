import { DEMO_PASSWORD } from '../../src/demo/scenario';
import type { Page } from '@playwright/test';
import { expect, go, test } from './laager';

/** A hand on the keyboard and none on the mouse. */
class Keyboard {
  constructor(private readonly page: Page) {}

  async press(...keys: string[]): Promise<void> {
    for (const key of keys) await this.page.keyboard.press(key);
  }

  async type(text: string): Promise<void> {
    await this.page.keyboard.type(text);
  }

  /** Tabs until what has the focus is named like this. @throws Error when the keyboard does not reach it */
  async to(wanted: RegExp): Promise<void> {
    for (let i = 0; i < 90; i++) {
      if (wanted.test(await this.focused())) return;
      await this.press('Tab');
    }
    throw new Error(`the keyboard does not reach ${String(wanted)}`);
  }

  /** What a screen reader would say of what has the focus, roughly: its label and its text. */
  private focused(): Promise<string> {
    return this.page.evaluate(() => {
      const at = document.activeElement;
      if (!(at instanceof HTMLElement) || at === document.body || at.tagName === 'MAIN') return '';
      const label = 'labels' in at ? ((at as HTMLInputElement).labels?.[0]?.textContent ?? '') : '';
      return `${at.getAttribute('aria-label') ?? ''}|${label}|${at.textContent ?? ''}`;
    });
  }
}

test('the whole slice with the keyboard only: in, find, provision, drain, retire, proof, trail', async ({
  page,
}) => {
  test.setTimeout(180_000);
  const keyboard = new Keyboard(page);
  const seen = (text: string | RegExp) =>
    expect(page.getByText(text).first()).toBeVisible({ timeout: 60_000 });

  await go(page, '/sign-in');
  await expect(page.getByLabel('Mail address')).toBeFocused();
  await keyboard.type('bram@terntallow.example');
  await keyboard.press('Tab');
  await keyboard.type(DEMO_PASSWORD);
  await keyboard.press('Enter');
  await expect(page.getByRole('navigation', { name: 'Main' })).toBeVisible();

  await expect(async () => {
    await keyboard.press('Control+k');
    await expect(page.getByRole('combobox', { name: 'Find' })).toBeFocused({ timeout: 1_000 });
  }).toPass();
  await keyboard.type('ardm');
  await expect(page.getByRole('option').first()).toContainText('Ardmoth');
  await keyboard.press('Enter');
  await expect(page).toHaveURL(/customers\/APT$/);

  await keyboard.to(/\|\s*Provision\s*$/);
  await keyboard.press('Enter');
  await expect(page.getByLabel('Name of the environment')).toBeFocused();
  await keyboard.type('props');
  await keyboard.to(/\|People/);
  await keyboard.press('Control+a');
  await keyboard.type('4');
  await seen('APT-PROPS01');
  await keyboard.to(/\|Provision…$/);
  await keyboard.press('Enter');
  await expect(page.getByRole('dialog')).toContainText('Provision props for Ardmoth Puppet Theatre');
  await keyboard.to(/\|Why/);
  await keyboard.type('with the keyboard');
  await keyboard.to(/\|Provision for APT$/);
  await keyboard.press('Enter');

  await expect(page).toHaveURL(/runs\//);
  await expect(page.getByRole('heading', { name: 'Provision props', exact: true })).toBeVisible();
  await keyboard.to(/Speed of the clock/);
  await keyboard.press('End');
  await seen(/^took /);

  await keyboard.to(/\|See props$/);
  await keyboard.press('Enter');
  await seen('serving');
  await keyboard.to(/^Select (?!all)/);
  await keyboard.press('Space');
  await keyboard.to(/\|Drain$/);
  await keyboard.press('Enter');
  await expect(page.getByRole('dialog')).toBeVisible();
  await keyboard.to(/\|Drain for APT$/);
  await keyboard.press('Enter');
  await expect(page.getByRole('dialog')).toBeHidden();
  await expect(page.getByRole('cell', { name: 'drained' }).first()).toBeVisible({ timeout: 30_000 });

  await keyboard.to(/\|Retire…$/);
  await keyboard.press('Enter');
  await expect(page).toHaveURL(/retire$/);
  await keyboard.to(/\|Why/);
  await keyboard.type('and back');
  await keyboard.press('Tab');
  await keyboard.type('apt');
  await keyboard.to(/\|Retire for APT$/);
  await keyboard.press('Enter');
  await expect(page).toHaveURL(/runs\//);
  await expect(page.getByRole('heading', { name: 'Retire props', exact: true })).toBeVisible();
  await seen(/^took /);
  await keyboard.to(/\|See props$/);
  await keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Only kept data are left of props' })).toBeVisible();

  await keyboard.to(/Speed of the clock/);
  await keyboard.press('ArrowUp');
  await keyboard.to(/\|\s*Watch\s*$/);
  await keyboard.press('g', 't');
  await expect(page).toHaveURL(/\/trail$/);
  await keyboard.to(/began\s*Retire props/);
  await keyboard.press('Enter');
  await expect(page.locator('details[open]')).toContainText('APT-PROPS01');
});

test('a dialog keeps the focus inside, closes with Escape, and gives it back', async ({ page }) => {
  const keyboard = new Keyboard(page);
  await go(page, '/sign-in');
  await keyboard.type('bram@terntallow.example');
  await keyboard.press('Tab');
  await keyboard.type(DEMO_PASSWORD);
  await keyboard.press('Enter');
  await expect(page.getByRole('navigation', { name: 'Main' })).toBeVisible();
  await go(page, '/customers/APT/provision');
  await expect(page.getByLabel('Name of the environment')).toBeFocused();
  await keyboard.type('kept');
  await keyboard.to(/\|People/);
  await keyboard.press('Control+a');
  await keyboard.type('2');
  await keyboard.to(/\|Provision…$/);
  await keyboard.press('Enter');
  await expect(page.getByRole('dialog')).toBeVisible();
  for (let i = 0; i < 8; i++) {
    await keyboard.press('Tab');
    const inside = await page.evaluate(
      () =>
        document.activeElement?.closest('[role=dialog]') !== null || document.activeElement === document.body,
    );
    expect(inside).toBe(true);
  }
  await keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toBeHidden();
  await expect(page.getByRole('button', { name: 'Provision…' })).toBeFocused();
  await expect(page.getByLabel('Name of the environment')).toHaveValue('kept');
});
