import { expect, test } from '@playwright/test';
import { readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { putInLike } from '../support/cards.js';
import { choose, expectAccessible, signIn, tile } from '../support/person.js';

const filesOn = (card: string) =>
  readdirSync(card, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile() && /\.jpg$/i.test(entry.name))
    .length;

test('a card is cleared only when it is safe: one new picture stops it; then every file goes, and it says so', async ({
  page,
}) => {
  const card = putInLike('BRISLING_7', 'TO_CLEAR');
  await signIn(page);
  await tile(page, 'In', 'TO_CLEAR').click();
  await expect(page.getByRole('option').first()).toBeVisible();
  await choose(page, 'what?', 'What were these shot for?', 'bird', 'Spring bird count');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('2026-04-19_bird-count');
  const file = page.getByRole('button', { name: /^File \d+$/ });
  await expect(file).toBeEnabled();
  await file.click();
  await expect(page.getByText(/tally in every place/)).toBeVisible({ timeout: 40_000 });

  const late = join(card, 'DCIM/104BRISL/BRF79999.JPG');
  writeFileSync(late, 'taken after the card was read');
  await page.getByRole('button', { name: 'Clear the card…' }).click();
  const dialog = page.getByRole('dialog', { name: 'May this card be cleared?' });
  await expect(dialog.getByRole('status')).toHaveText(/Not safe to clear/);
  await expect(dialog).toContainText('1 file is new since the card was read');
  await expect(dialog.getByText('DCIM/104BRISL/BRF79999.JPG')).toBeVisible();
  await expect(dialog.getByRole('button', { name: /^Clear \d+ files/ })).toBeDisabled();
  await expectAccessible(page);

  rmSync(late);
  await dialog.getByRole('button', { name: 'Read every byte first' }).click();
  await expect(dialog.getByRole('status')).toHaveText(/Safe to clear/);
  await expect(dialog).toContainText('Every byte of the card was read.');
  expect(filesOn(card)).toBeGreaterThan(20);
  await dialog.getByRole('button', { name: /^Clear \d+ files/ }).click();
  await expect(page.getByText(/files are gone from/)).toBeVisible();
  await expect(page.getByText('the card is cleared')).toBeVisible();
  expect(filesOn(card)).toBe(0);
  await expect(page.getByRole('button', { name: 'Clear the card…' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Give back' }).click();
  await expect(page.getByRole('heading', { name: 'Desk', exact: true })).toBeVisible();
});
