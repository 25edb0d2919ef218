import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { cpSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { putInLike } from '../support/cards.js';
import { inHouse } from '../support/my-house.js';
import { choose, cutOffSite, expectAccessible, mendOffSite, signIn, tile } from '../support/person.js';

test.afterEach(() => mendOffSite());

const run = (command: string, ...args: string[]) => execFileSync(command, args, { encoding: 'utf8' }).trim();
/** Filed pictures of a contributor at a place, of the day of the bird count. */
const filed = (place: string, code: string) =>
  readdirSync(inHouse(place), { recursive: true, encoding: 'utf8' })
    .filter((name) => /bird-count\/[^/]*\.jpg$/.test(name) && name.includes(`_${code}_`))
    .map((name) => join(inHouse(place), name))
    .sort();
const creditsAt = (place: string) =>
  new Set(run('exiftool', '-s3', '-XMP-photoshop:Credit', '-q', ...filed(place, 'MS')).split('\n'));
const picturesOn = (page: Page) => page.getByRole('listbox', { name: 'Items on this card' });

test('credit goes into the files, which two other readers see; the card is cleared; a correction follows; the card is restored byte for byte', async ({
  page,
}) => {
  test.setTimeout(180_000);
  const card = putInLike('BRISLING_7', 'WRITTEN');
  const asItWas = inHouse('written-as-it-was');
  cpSync(card, asItWas, { recursive: true, preserveTimestamps: true });
  await signIn(page);
  await tile(page, 'In', 'WRITTEN').click();
  await expect(page.getByRole('option').first()).toBeVisible();
  await choose(page, 'what?', 'What were these shot for?', 'bird', 'Spring bird count');
  // What the file will say is seen before it is written.
  await picturesOn(page).focus();
  await page.keyboard.press('Enter');
  await page.keyboard.press('i');
  const closer = page.getByRole('dialog', { name: 'Look closer' });
  await expect(closer).toContainText('Not filed yet: its credit will be written in the file.');
  await expect(closer).toContainText('Mateo Sorrel / Ostrel Bay Tidelands Trust');
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^File \d+$/ }).click();
  await expect(page.getByText('32 tally in every place')).toBeVisible({ timeout: 60_000 });

  for (const place of ['shared-drive', 'second-copy']) {
    const paths = filed(place, 'MS');
    expect(paths.length).toBeGreaterThanOrEqual(32);
    expect(creditsAt(place)).toContain('Mateo Sorrel / Ostrel Bay Tidelands Trust');
    const told = run('exiv2', '-q', '-PEIXkt', paths.at(-1)!);
    expect(told).toMatch(/Xmp\.photoshop\.Headline +Spring bird count/);
    expect(told).toMatch(/Iptc\.Application2\.Byline +Mateo Sorrel/);
    expect(told).toMatch(/Exif\.Image\.Artist +Mateo Sorrel/);
  }

  await page.getByRole('button', { name: 'Clear the card…' }).click();
  const clearing = page.getByRole('dialog', { name: 'May this card be cleared?' });
  await expect(clearing.getByRole('status')).toHaveText(/Safe to clear/);
  await clearing.getByRole('button', { name: /^Clear \d+ files/ }).click();
  await expect(page.getByText('the card is cleared')).toBeVisible();

  // Corrected afterwards, while one place is away.
  await cutOffSite();
  await picturesOn(page).focus();
  await page.keyboard.press('w');
  await page.keyboard.press('e');
  const pane = page.getByRole('dialog', { name: /^Credit of/ });
  await expect(pane).toContainText(/Credit of \d+ items/);
  await pane.getByLabel('Credit line').fill('Mateo Sorrel for the Trust');
  await pane.getByLabel('Copyright notice').click();
  await page.keyboard.press('Escape');
  await expect.poll(() => creditsAt('shared-drive').has('Mateo Sorrel for the Trust'), { timeout: 60_000 }).toBe(true);
  await page.goto(page.url().replace('/intake/', '/logbook/'));
  await expect(page.getByText('Off-site copy lags behind in credit')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('img', { name: /Off-site copy lags behind in credit/ })).toBeVisible();
  await expectAccessible(page);
  await mendOffSite();
  await expect(page.getByText('Off-site copy lags behind in credit')).toBeHidden({ timeout: 60_000 });

  await page.getByRole('button', { name: 'Restore…' }).click();
  const restore = page.getByRole('dialog', { name: 'Restore as it was on the card' });
  await restore.getByLabel(/WRITTEN/).check();
  await restore.getByRole('button', { name: 'Restore 32 files' }).click();
  await expect(restore.getByRole('status')).toContainText('32 files restored');
  // Outside check: the system's own comparison, folders and all.
  execFileSync('diff', ['-r', asItWas, card]);
});
