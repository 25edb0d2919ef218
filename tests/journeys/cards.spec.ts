import { expect, test } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { cpSync } from 'node:fs';
import { putInLike } from '../support/cards.js';
import { inHouse } from '../support/my-house.js';
import { choose, expectAccessible, signIn, tile } from '../support/person.js';

test('a cinema card goes whole: one line that opens, proven, let go, pulled; equal to what was on it', async ({ page }) => {
  test.setTimeout(120_000);
  const card = putInLike('ORRERY_REEL', 'REEL_TWO');
  const asItWas = inHouse('reel-as-it-was');
  cpSync(card, asItWas, { recursive: true, preserveTimestamps: true });
  await signIn(page);
  await tile(page, 'In', 'REEL_TWO').click();
  await expect(page.getByRole('option').filter({ hasText: 'sidecar · proxy · thumbnail' })).toHaveCount(3);
  await expect(page.getByRole('heading', { name: 'Index of PRIVATE/ORRROOT' })).toBeVisible();
  await expect(page.getByText('Brackwater 4, slot')).toBeVisible();
  await choose(page, 'whom?', 'Who took these?', 'Sefa', 'Sefa Tuiasosopo');
  await choose(page, 'what?', 'What were these shot for?', 'tide', 'Tide gate repair');
  const tree = page.getByText('PRIVATE/ORRROOT as on the card, 14 files');
  await tree.click();
  await expect(page.getByText('GENERAL/LUT/TIDE.CUBE')).toBeVisible();
  await expectAccessible(page);

  // What is taken and not filed waits: letting it go asks first.
  await expect(page.getByText('do not pull: 14 taken are not filed')).toBeVisible();
  await page.keyboard.press('g');
  await expect(page.getByRole('dialog', { name: 'Let it go all the same?' })).toContainText('14 taken are not filed');
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'File 14' }).click();
  await expect(page.getByText(/14 tally in/)).toBeVisible({ timeout: 30_000 });
  await expect(tree).toBeVisible();
  await page.getByRole('button', { name: 'Let it go' }).click();
  await expect(page.getByText('may be pulled')).toBeVisible({ timeout: 20_000 });
  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await expect(tile(page, 'To give back', 'REEL_TWO').or(tile(page, 'To give back', 'Sefa Tuiasosopo'))).toContainText(
    'may be pulled',
  );

  const where = execFileSync('find', [inHouse('shared-drive'), '-type', 'd', '-path', '*/PRIVATE/ORRROOT'], { encoding: 'utf8' });
  const base = where
    .trim()
    .split('\n')
    .at(-1)!
    .replace(/\/PRIVATE\/ORRROOT$/, '');
  // What explains the tree stands beside it.
  expect(execFileSync('diff', ['-r', `${asItWas}/PRIVATE`, `${base}/PRIVATE`], { encoding: 'utf8' })).toBe('');
});

test('a recording in chapters is one tile and plays through; its number is one', async ({ page }) => {
  putInLike('PELLET_A2', 'PELLET_TWO');
  await signIn(page);
  await tile(page, 'In', 'PELLET_TWO').click();
  const long = page.getByRole('option').filter({ hasText: '3 parts · 3 proxies · 3 thumbnails' });
  await expect(long).toHaveCount(1);
  await expect(page.getByText('8 files set aside')).toBeVisible();
  await long.dblclick();
  const closer = page.getByRole('dialog', { name: 'Look closer' });
  await expect(closer.getByText('Part 1 of 3')).toBeVisible();
  await closer.getByRole('button', { name: 'Part 2', exact: true }).click();
  await expect(closer.getByText('Part 2 of 3')).toBeVisible();
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await choose(page, 'whom?', 'Who took these?', 'Halvard', 'Halvard Moss');
  await choose(page, 'what?', 'What were these shot for?', 'reed', 'Reed planting day');
  const numbers = page.getByRole('row', { name: /PE0\d0021\.MP4/ });
  await expect(numbers).toHaveCount(3);
  await expect(numbers.nth(1)).toContainText(/_(\d{4})-2\.mp4/);
});

test('a phone folder handed in by browser: stills and their moving parts are one', async ({ page, browser }) => {
  await signIn(page);
  await page.getByRole('button', { name: 'Hand-in link' }).click();
  await page.getByRole('button', { name: 'Make a link' }).click();
  const link = await page.getByRole('textbox', { name: 'Hand-in link' }).inputValue();
  await page.keyboard.press('Escape');
  const away = putInLike('FENNICK_P6', 'PHONE_TWO');
  const own = inHouse('phone-own', 'PHONE_TWO');
  execFileSync('sh', ['-c', `mkdir -p "${inHouse('phone-own')}" && mv "${away}" "${own}"`]);
  const other = await (await browser.newContext()).newPage();
  await other.goto(link);
  await other.getByRole('combobox', { name: 'Who took these?' }).click();
  await other.getByRole('option', { name: 'June Aldwin' }).click();
  await other.locator('input[webkitdirectory]').setInputFiles(own);
  await expect(other.getByText(/13 to hand in/)).toBeVisible({ timeout: 20_000 });
  await other.getByRole('button', { name: 'Hand in 13' }).click();
  await expect(other.getByRole('heading', { name: '13 have arrived' })).toBeVisible({ timeout: 30_000 });
  await tile(page, 'In', '13 items').first().click();
  await expect(page.getByRole('option').filter({ hasText: 'moving part' })).toHaveCount(3);
  await expect(page.getByRole('option').filter({ hasText: 'sidecar · edit' })).toHaveCount(1);
});
