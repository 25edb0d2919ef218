import { expect, test, type Locator, type Page } from '@playwright/test';
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { putInLike } from '../support/cards.js';
import { base } from '../support/my-house.js';
import { choose, expectAccessible, mendOffSite, signIn, signInElsewhere, tile } from '../support/person.js';

/** Opens a card like Mateo Sorrel's, said to be of the bird count. */
async function open(page: Page, volume: string): Promise<string> {
  const card = putInLike('BRISLING_7', volume);
  await signIn(page);
  await tile(page, 'In', volume).click();
  await expect(page.getByRole('option').first()).toBeVisible();
  await choose(page, 'what?', 'What were these shot for?', 'bird', 'Spring bird count');
  await expect(page.getByRole('row', { name: /BRF72204\.JPG/ })).toBeVisible();
  return card;
}
const sheet = (page: Page): Locator => page.getByRole('listbox', { name: 'Items on this card' });
const file = (page: Page): Locator => page.getByRole('button', { name: /^File \d+$/ });

test('a file that is gone from the card is set aside with a reason, and the card is given back, and was not after all', async ({
  page,
}) => {
  const card = await open(page, 'ONE_GONE');
  await sheet(page).focus();
  await page.keyboard.press('n');
  await expect(file(page)).toHaveText('File 0');
  for (const n of [0, 1, 2]) {
    await page.getByRole('option').nth(n).click();
    await expect(file(page)).toHaveText(`File ${n + 1}`);
  }
  rmSync(join(card, 'DCIM/104BRISL/BRF72205.JPG'));
  await file(page).click();
  await expect(page.getByRole('alert').filter({ hasText: 'cannot be read (ENOENT)' })).toBeVisible({ timeout: 30_000 });
  // Nothing is announced as filed that is not.
  await expect(page.getByRole('option', { name: /^BRF72205\.JPG.*not filed: cannot be read/ })).toBeVisible();
  await page.getByRole('button', { name: 'Go on without it: set 1 aside…' }).click();
  const aside = page.getByRole('dialog', { name: 'Set 1 item aside?' });
  await expect(aside.getByRole('radio', { name: /^gone/ })).toBeChecked();
  await expectAccessible(page);
  await aside.getByRole('button', { name: 'Set 1 aside' }).click();
  await expect(page.getByText(/^2 tally in .*, 1 set aside$/)).toBeVisible();
  await expect(page.getByRole('option', { name: /^BRF72205\.JPG.*set aside: gone/ })).toBeVisible();

  await page.getByRole('link', { name: /^Intake 2026-/ }).click();
  await expect(page.getByText('1 item set aside: gone.')).toBeVisible();
  await expect(page.getByRole('row', { name: /BRF72205\.JPG/ })).toContainText('set aside: gone');
  await expectAccessible(page);
  await page.goBack();
  await page.getByRole('button', { name: 'Give back' }).click();
  await page
    .getByRole('dialog', { name: /back\?$/ })
    .getByRole('button', { name: 'Give back' })
    .click();
  await expect(page.getByRole('heading', { name: 'Desk', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'No, it is still here' }).click();
  await expect(page.getByText('Taken back.')).toBeVisible();
  await expect(tile(page, 'To give back', 'Spring bird count').first()).toBeVisible();
});

test('keys speak to what is on top; Back closes the closer look, and no key of it files anything', async ({ page }) => {
  await open(page, 'ON_TOP');
  await sheet(page).focus();
  await page.keyboard.press('Enter');
  const closer = page.getByRole('dialog', { name: 'Look closer' });
  await expect(closer).toBeVisible();
  for (const key of ['Tab', 'Tab', 'Tab', 'Enter']) await page.keyboard.press(key);
  await expect(closer).toBeVisible();
  expect(await page.evaluate(() => document.querySelector('ts-closer')!.contains(document.activeElement))).toBe(true);
  await expect(file(page)).toHaveText('File 32');
  // What is done with keys is done with buttons too.
  await closer.getByRole('button', { name: /^Leave it/ }).click();
  await expect(closer.locator('strong.state')).toHaveText('left, still on the card');
  await closer.getByRole('button', { name: /^select/ }).click();
  await expect(closer.getByRole('button', { name: /^select/ })).toHaveAttribute('aria-pressed', 'true');
  await expectAccessible(page);
  await page.goBack();
  await expect(closer).toHaveCount(0);
  await expect(file(page)).toHaveText('File 31');
  await expect(sheet(page)).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(closer).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(closer).toHaveCount(0);
  // A dialog hears its own keys alone.
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
  await page.keyboard.press('n');
  await page.waitForTimeout(300);
  await page.keyboard.press('Escape');
  await expect(file(page)).toHaveText('File 31');
  // A word about an item, and straight on to filing: it waits for the plan, and files.
  await sheet(page).focus();
  await page.keyboard.press('d');
  await page.getByLabel('Description').fill('herons at the mouth');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await expect(closer).toHaveCount(0);
  await file(page).click();
  await expect(page.getByText(/31 tally in/)).toBeVisible({ timeout: 30_000 });
});

test('what is past is not offered: no undo after a clearing with the rest let go, and what is gone is said to be gone', async ({
  page,
}) => {
  await mendOffSite();
  await open(page, 'LET_GO');
  for (const n of [0, 1, 2, 3]) await page.getByRole('option').nth(n).click();
  await expect(page.getByRole('button', { name: 'Undo leave 1' })).toBeVisible();
  await expect(file(page)).toHaveText('File 28');
  await file(page).click();
  await expect(page.getByText('28 tally in every place')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Clear the card…' }).click();
  const dialog = page.getByRole('dialog', { name: 'May this card be cleared?' });
  await expect(dialog.getByRole('status')).toHaveText(/say what becomes of the rest/);
  await expect(dialog.getByRole('radio', { name: 'Keep those 4 files on the card' })).toBeVisible();
  await dialog.getByRole('radio', { name: 'Let go of the 4 files that stand nowhere else' }).check();
  await expect(dialog.getByRole('status')).toHaveText(/As you say: the rest is let go/);
  await expectAccessible(page);
  await dialog.getByRole('button', { name: /^Clear 32 files/ }).click();
  await expect(page.getByText('4 left, and gone with the clearing')).toBeVisible();
  await expect(page.getByText('still on the card')).toHaveCount(0);
  await expect(page.getByRole('button', { name: /^Undo/ })).toHaveCount(0);
  await page.getByRole('option').first().click();
  await expect(page.getByText(/cannot be taken: it went with the clearing of its card\./)).toBeVisible();
});

test('two have a card open: each is named to the other, and whoever leaves what the other files is told', async ({
  page,
  browser,
}) => {
  await open(page, 'TWO_HANDS');
  const other = await (await browser.newContext()).newPage();
  await signInElsewhere(other);
  await other.goto(page.url());
  await expect(other.getByText('another window of yours has it open too')).toBeVisible();
  await expect(page.getByText('another window of yours has it open too')).toBeVisible();
  await expect(file(other)).toHaveText('File 32');
  // The other hears of nothing for a while: it leaves what is being filed here.
  await other.route('**/api/live', (route) => route.abort());
  const held: (() => void)[] = [];
  await other.route('**/taken', async (route) => {
    await new Promise<void>((go) => held.push(go));
    await route.continue();
  });
  await other.getByRole('option').first().click();
  await expect.poll(() => held.length).toBe(1);
  await file(page).click();
  await expect(page.getByText(/32 tally in/)).toBeVisible({ timeout: 30_000 });
  held[0]!();
  await expect(other.getByText(/is filed, or being filed by now: nothing was left\./)).toBeVisible();
  await other.close();
});

test('addresses at which there is nothing say so; an unsaved rule is not left by mistake; a mistyped name is corrected', async ({
  page,
}) => {
  await signIn(page);
  for (const [path, words] of [
    ['/intake/99999', 'There is no such intake'],
    ['/intake/abc', 'This is no intake'],
    ['/logbook/99999', 'There is no such intake'],
    ['/people/contributor/99999', 'There is no such contributor'],
    ['/nowhere', 'There is no such page'],
  ] as const) {
    await page.goto(`${base()}${path}`);
    await expect(page.getByRole('heading', { name: words })).toBeVisible();
  }
  await expectAccessible(page);

  await page.goto(`${base()}/rules`);
  await expect(page.locator('ts-verdict-list li').first()).toBeVisible();
  await page.getByRole('combobox', { name: /^Begin with/ }).click();
  await page.getByRole('option', { name: /^Quarters/ }).click();
  await expect(page.getByText(/get another name/)).toBeVisible();
  await page.getByRole('link', { name: 'People' }).click();
  const leave = page.getByRole('alertdialog', { name: 'Leave without saving?' });
  await expect(leave).toContainText('The rule was changed and is not saved.');
  await leave.getByRole('button', { name: 'Stay' }).click();
  await expect(page).toHaveURL(/rules$/);
  await page.getByRole('link', { name: 'People' }).click();
  await leave.getByRole('button', { name: 'Leave it' }).click();
  await expect(page).toHaveURL(/people$/);

  await page.getByRole('button', { name: 'Contributors' }).click();
  await page.getByRole('link', { name: 'Ola Brandt' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Ola Brandt' })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Correct…' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Ola Brandt-Hale');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Ola Brandt-Hale' })).toBeVisible();
  // Others rely on the name: it is put back.
  await page.getByRole('button', { name: 'Correct…' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Ola Brandt');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Ola Brandt', exact: true })).toBeVisible();
});

test('a page whose files did not come, as when the network changes, comes again by itself', async ({ page }) => {
  await signIn(page);
  // Once the frame asks for something it stands: what fails from then on is a page.
  let [stands, lost] = [false, 0];
  page.on('request', (request) => (stands ||= request.url().includes('/api/')));
  await page.route(/chunk-[A-Z0-9]+\.js$/, (route) => {
    if (!stands || lost >= 2) return route.continue();
    lost++;
    return route.abort('internetdisconnected');
  });
  await page.goto(`${base()}/logbook`);
  await expect(page.getByRole('heading', { name: 'Logbook', exact: true })).toBeVisible();
  expect(lost).toBeGreaterThan(0);
});
