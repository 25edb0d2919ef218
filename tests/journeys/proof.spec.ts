import { expect, test } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { cpSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { putInLike } from '../support/cards.js';
import { base, inHouse } from '../support/my-house.js';
import { choose, cutOffSite, expectAccessible, mendOffSite, signIn, tile } from '../support/person.js';

const filesOn = (card: string) =>
  readdirSync(card, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile() && /\.jpg$/i.test(entry.name))
    .length;

test.afterEach(() => mendOffSite());

test('receive, file, pull the card in the middle, put it back; cleared only when the off-site copy has caught up; restored byte for byte', async ({
  page,
}) => {
  test.setTimeout(180_000);
  await cutOffSite();
  const card = putInLike('BRISLING_7', 'TO_CLEAR');
  const asItWas = inHouse('as-it-was');
  cpSync(card, asItWas, { recursive: true, preserveTimestamps: true });
  await signIn(page);
  await page.getByRole('button', { name: 'Labels' }).click();
  const labels = page.getByRole('dialog', { name: 'Print labels' });
  await expect(labels.getByRole('link', { name: 'Open 24 labels' })).toHaveAttribute('href', /count=24&form=sheet/);
  await expectAccessible(page);
  await labels.getByRole('button', { name: 'Close' }).click();
  await tile(page, 'In', 'TO_CLEAR').click();
  await expect(page.getByRole('option').first()).toBeVisible();
  await choose(page, 'what?', 'What were these shot for?', 'bird', 'Spring bird count');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('2026-04-19_bird-count');
  const file = page.getByRole('button', { name: /^File \d+$/ });
  await expect(file).toBeEnabled();
  await file.click();
  await expect(file).toBeHidden();
  renameSync(card, inHouse('in-a-pocket'));
  await page.waitForTimeout(600);
  renameSync(inHouse('in-a-pocket'), card);
  await expect(page.getByText('32 tally in 2 places, Off-site copy fills up later')).toBeVisible({ timeout: 40_000 });
  // It may be cleared once the desk has seen that it is back.
  const clear = page.getByRole('button', { name: 'Clear the card…' });
  await expect(clear).toBeVisible();

  // The off-site place is away: not safe. So does one new picture.
  const dialog = page.getByRole('dialog', { name: 'May this card be cleared?' });
  const late = join(card, 'DCIM/104BRISL/BRF79999.JPG');
  writeFileSync(late, 'taken after the card was read');
  // The station may be telling the pull and the return only now: whoever reads that the card is away asks again.
  await expect(async () => {
    await clear.click();
    const away = dialog.getByText('The card is not in the reader');
    await expect(dialog.getByRole('status').or(away)).toBeVisible();
    if (await away.isVisible()) await dialog.getByRole('button', { name: 'Close' }).click();
    await expect(dialog.getByRole('status')).toHaveText(/Not safe to clear/, { timeout: 5_000 });
  }).toPass({ timeout: 60_000 });
  await expect(dialog).toContainText('Off-site copy is not here');
  await expect(dialog).toContainText('32 files do not tally at Off-site copy');
  await expect(dialog).toContainText('1 file is new since the card was read');
  await expect(dialog.getByText('DCIM/104BRISL/BRF79999.JPG')).toBeVisible();
  await expect(dialog.getByRole('button', { name: /^Clear \d+ files/ })).toBeDisabled();
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Close' }).click();
  await page.getByRole('link', { name: 'Drive' }).click();
  await expect(page.getByText(/Lacks \d+ copies .* at most 1 hour of work at risk/)).toBeVisible();
  await expect(page.getByText(/It fills up by itself when it is back\./)).toBeVisible();
  await expectAccessible(page);
  await page.goBack();

  rmSync(late);
  await mendOffSite();
  await expect(page.getByText('32 tally in every place')).toBeVisible({ timeout: 40_000 });
  // One picture alone, under the same rule.
  await page.getByRole('listbox', { name: 'Items on this card' }).focus();
  await page.keyboard.press('x');
  await page.getByRole('button', { name: 'Remove from the card…' }).click();
  const alone = page.getByRole('dialog', { name: 'May these be removed from the card?' });
  await expect(alone.getByRole('status')).toHaveText(/Safe to remove/);
  await alone.getByRole('button', { name: 'Remove 1 file' }).click();
  await expect(page.getByText(/1 file is gone from/)).toBeVisible();
  expect(filesOn(card)).toBe(31);

  await clear.click();
  await dialog.getByRole('button', { name: 'Read every byte first' }).click();
  await expect(dialog.getByRole('status')).toHaveText(/Safe to clear/);
  await expect(dialog).toContainText('Every byte of the card was read.');
  expect(filesOn(card)).toBe(31);
  await dialog.getByRole('button', { name: /^Clear \d+ files/ }).click();
  await expect(page.getByText(/files are gone from/)).toBeVisible();
  await expect(page.getByText('the card is cleared')).toBeVisible();
  expect(filesOn(card)).toBe(0);
  await expect(clear).toHaveCount(0);

  // The receipt is made by the server, printed by the browser.
  const receipt = await page.request.get(`${base()}${await page.getByRole('link', { name: 'Receipt' }).getAttribute('href')}`);
  expect(receipt.headers()['content-type']).toBe('application/pdf');
  const text = execFileSync('pdftotext', ['-layout', '-', '-'], { input: await receipt.body(), encoding: 'utf8' });
  expect(text).toContain('the card was cleared');
  expect(text).toMatch(/Off-site copy\s+32 tally/);

  await page.goto(page.url().replace('/intake/', '/logbook/'));
  await page.getByRole('button', { name: 'Restore…' }).click();
  const restore = page.getByRole('dialog', { name: 'Restore as it was on the card' });
  await restore.getByLabel(/TO_CLEAR/).check();
  await expectAccessible(page);
  await restore.getByRole('button', { name: 'Restore 32 files' }).click();
  await expect(restore.getByRole('status')).toContainText('32 files restored');
  // Outside check: the system's own comparison, folders and all.
  execFileSync('diff', ['-r', asItWas, card]);
});
