import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { putInLike } from '../support/cards.js';
import { inHouse } from '../support/my-house.js';
import { choose, expectAccessible, signIn, tile } from '../support/person.js';

const ask = (page: Page) => page.getByRole('searchbox', { name: 'Ask the shelf' });
const sentence = (page: Page) => page.locator('.sentence');

async function openShelf(page: Page): Promise<void> {
  await page.getByRole('link', { name: 'Shelf', exact: true }).click();
  await expect(page.getByRole('option').first()).toBeVisible();
}

test('what is seen, who took it and a season find a picture; it goes into a bundle, and out again byte for byte', async ({
  page,
}) => {
  await signIn(page);
  await openShelf(page);
  await expectAccessible(page);
  await ask(page).fill('egret junia addo spring 2026');
  // It answers while one types, and says what it understood.
  await expect(sentence(page)).toHaveText(/Everything\s*“egret…”\s*by J[uú]nia Addo\s*from spring 2026\s*6 items/);
  await ask(page).press('Enter');
  await expect(page).toHaveURL(/q=egret/);
  await expect(page.getByRole('option')).toHaveCount(6);

  await page.getByRole('option').first().click();
  for (let step = 0; step < 5; step++) await page.keyboard.press('Shift+ArrowRight');
  await expect(page.getByText('6 items chosen')).toBeVisible();
  await page.keyboard.press('b');
  await page.getByRole('combobox', { name: 'Bundle' }).fill('For the letter');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Make it and put them in' }).click();
  await expect(page.getByText('6 put into “For the letter”: 6 now.')).toBeVisible();

  await page.keyboard.press('f');
  const dialog = page.getByRole('dialog', { name: 'Fetch 6 originals?' });
  await expect(dialog).toContainText('6 files');
  await expectAccessible(page);
  // What has to be asked for is said before anything goes out.
  const sure = dialog.getByLabel('I have read this');
  if (await sure.count()) await sure.check();
  const [download] = await Promise.all([page.waitForEvent('download'), dialog.getByRole('link', { name: 'Fetch 6' }).click()]);
  const folder = mkdtempSync(join(tmpdir(), 'tally-fetched-'));
  const zip = join(folder, 'originals.zip');
  await download.saveAs(zip);
  execFileSync('unzip', ['-q', zip, '-d', folder]);
  const names = execFileSync('unzip', ['-Z1', zip], { encoding: 'utf8' }).trim().split('\n');
  expect(names).toHaveLength(6);
  for (const name of names)
    expect(readFileSync(join(folder, name)).equals(readFileSync(join(inHouse('shared-drive'), name)))).toBe(true);

  // A piece is taken out again, and the question is a link.
  await page.getByRole('button', { name: 'Not asked: from spring 2026' }).click();
  await expect(page).not.toHaveURL(/taken/);
  await expect(sentence(page)).toHaveText(/Everything\s*“egret…”\s*by J[uú]nia Addo\s*\d/);
});

test('the list, what it is made of, where it is, what is like it, and the figures', async ({ page }) => {
  await signIn(page);
  await openShelf(page);
  const drawer = page.getByRole('region', { name: 'Assignments' });
  await drawer.getByRole('button', { name: /Creek clean-up/ }).click();
  await expect(sentence(page)).toContainText('for Creek clean-up');
  await page.getByRole('button', { name: 'List', exact: true }).click();
  const rows = page.getByRole('row').filter({ hasText: 'Creek clean-up' });
  await expect(rows.first()).toBeVisible();
  await page.getByRole('button', { name: 'bytes' }).click();
  await expect(page.getByRole('columnheader', { name: 'bytes' })).toHaveAttribute('aria-sort', 'descending');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Sheet', exact: true }).click();

  await page.getByRole('option').first().click();
  await page.keyboard.press('Escape');
  await page.keyboard.press('w');
  const where = page.getByRole('dialog', { name: 'Where is it' });
  await expect(where).toContainText('Shared drive');
  await where.getByLabel('called here').first().fill('S:\\');
  await where.getByLabel('called here').first().blur();
  await expect(where.locator('code').first()).toContainText(/^S:\\2026\\/);
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await expect(where).toHaveCount(0);
  await page.keyboard.press('a');
  await expect(page.getByRole('dialog', { name: 'Alike' })).toContainText('The frames beside it');
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog', { name: 'Alike' })).toHaveCount(0);

  await page.getByRole('button', { name: 'Figures' }).click();
  await expect(page.getByRole('heading', { level: 2 })).toContainText('brought most');
  await page.getByText('contributor', { exact: true }).first().click();
  await expect(page.getByRole('heading', { level: 2 })).toContainText('handed in most');
  await expectAccessible(page);
  await page.getByRole('table').getByRole('link').first().click();
  await expect(sentence(page)).toContainText('for Creek clean-up');
  await expect(sentence(page)).toContainText('by ');
});

test('a standing question tells the desk that something new answers it, until somebody looks', async ({ page }) => {
  await signIn(page);
  await openShelf(page);
  await ask(page).fill('for tide-gate');
  await ask(page).press('Enter');
  await expect(sentence(page)).toContainText('for Tide gate repair');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.getByRole('dialog', { name: 'Keep this question' }).getByLabel('Name').fill('Tide gate news');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText(/“Tide gate news” is kept/)).toBeVisible();

  putInLike('BRISLING_POND', 'GATE_NEWS');
  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await tile(page, 'In', 'GATE_NEWS').click();
  await choose(page, 'Ola Brandt', 'Who took these?', 'Sefa', 'Sefa Tuiasosopo');
  await choose(page, 'what?', 'What were these shot for?', 'tide', 'Tide gate repair');
  // Everything of this card goes into a bundle, too.
  await page.getByRole('button', { name: 'no bundle', exact: true }).click();
  await page.locator('.p-popover .p-multiselect').click();
  await page.getByRole('option', { name: 'Annual report 2026' }).click();
  await page.keyboard.press('Escape');
  await expect(page.locator('.p-multiselect-overlay')).toHaveCount(0);
  await page.keyboard.press('Escape');
  await expect(page.locator('.p-popover')).toHaveCount(0);
  await expect(page.getByRole('button', { name: '“Annual report 2026”' })).toBeVisible();
  await page.getByRole('button', { name: /^File \d+/ }).click();
  await expect(page.getByText(/\d+ tally in /)).toBeVisible({ timeout: 60_000 });

  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  const news = page.getByRole('link', { name: /new answers? “Tide gate news”/ });
  await expect(news).toBeVisible();
  await news.click();
  await expect(page.getByRole('option').first()).toBeVisible();
  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await expect(news).toHaveCount(0);

  await page.getByRole('link', { name: 'Shelf', exact: true }).click();
  await page.getByRole('link', { name: 'All bundles and standing questions' }).click();
  const line = page.getByRole('listitem').filter({ hasText: 'Annual report 2026' }).first();
  await expect(line).toBeVisible();
  await expectAccessible(page);
  await line.getByRole('button', { name: 'Order' }).click();
  await expect(page.getByRole('list', { name: 'Order of Annual report 2026' }).getByRole('listitem').first()).toBeVisible();
  await page
    .getByRole('button', { name: /^Back:/ })
    .first()
    .click();
  await expect(page.getByRole('alert')).toHaveCount(0);
});
