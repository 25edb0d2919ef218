import { expect, test, type Locator, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { putInLike } from '../support/cards.js';
import { base } from '../support/my-house.js';
import { choose, expectAccessible, signIn, tile } from '../support/person.js';

test.describe.configure({ mode: 'serial' });

const line = (page: Page, name: 'Folder line' | 'File line') => page.getByRole('textbox', { name });
const field = (page: Page, name: string) =>
  page.locator('ts-field-list').getByRole('button', { name: new RegExp(`\\{${name}[}:]`) });
const verdict = (page: Page, name: string) => page.locator('ts-verdict-list li').filter({ hasText: name });

async function openRules(page: Page): Promise<void> {
  await signIn(page);
  await page.getByRole('link', { name: 'Rules', exact: true }).click();
  await expect(verdict(page, 'unique')).toContainText('holds');
}

async function drag(page: Page, piece: Locator, target: Locator): Promise<void> {
  await piece.scrollIntoViewIfNeeded();
  const from = (await piece.boundingBox())!;
  await page.mouse.move(from.x + 10, from.y + from.height / 2);
  await page.mouse.down();
  await page.mouse.move(from.x + 30, from.y - 10, { steps: 3 });
  const to = (await target.boundingBox())!;
  await page.mouse.move(to.x + to.width - 20, to.y + to.height / 2, { steps: 8 });
  await page.mouse.up();
}

test('a rule for the academic year: dragged together, stopped by a counterexample, mended, saved, and filed by', async ({
  page,
}) => {
  await openRules(page);
  await line(page, 'Folder line').fill('');
  await line(page, 'File line').fill('');
  const folder = page.getByRole('list', { name: 'Folder line, as pieces' });
  await drag(page, field(page, 'season'), folder);
  await expect(line(page, 'Folder line')).toHaveValue('{season}');
  await drag(page, page.locator('ts-field-list').getByRole('button', { name: 'a new folder' }), folder);
  await drag(page, field(page, 'captured'), folder);
  await expect(line(page, 'Folder line')).toHaveValue('{season}/{captured}');
  // A piece is edited where it stands, and the text follows; the pieces follow the text.
  await page.getByRole('button', { name: 'field {captured}' }).click();
  await page.getByRole('button', { name: /^yyyy-MM \d{4}/ }).click();
  await page.keyboard.press('Escape');
  await expect(line(page, 'Folder line')).toHaveValue('{season}/{captured:yyyy-MM}');
  await line(page, 'Folder line').fill('{season}/{captured:yyyy-MM}/{captured:dd}_{assignment.slug}');
  await expect(page.getByRole('button', { name: 'field {assignment.slug}' })).toBeVisible();

  // The camera's own number alone: two pictures can get one name, and two are shown that do.
  await line(page, 'File line').focus();
  await field(page, 'original.number').click();
  await expect(line(page, 'File line')).toHaveValue('{original.number}');
  await expect(verdict(page, 'unique')).toContainText('cannot be the house rule');
  const paths = verdict(page, 'unique').locator('ts-path');
  await expect(paths).toHaveCount(2);
  expect(await paths.first().textContent()).toBe(await paths.last().textContent());
  await page.getByLabel('Why is the rule changed?').fill('We file by school year');
  await expect(page.getByRole('button', { name: /Save as revision/ })).toBeDisabled();
  await expectAccessible(page);

  // Mended with a number; a slip of the keyboard is pointed out and put right.
  await line(page, 'File line').fill('{captured:yyyyMMdd}_{contributr.code}_{n:000}');
  await expect(page.getByText('Was "contributor.code" meant?')).toBeVisible();
  await page.getByRole('button', { name: 'Use contributor.code' }).click();
  await expect(verdict(page, 'unique')).toContainText('The number can be read in every name');
  await expect(page.getByText(/get another name, \d+ another folder than under revision/)).toBeVisible();
  await page.getByRole('button', { name: /Save as revision/ }).click();
  await expect(page.getByText('is the house rule now. What is filed stays where it is.')).toBeVisible();

  putInLike('BRISLING_7', 'SCHOOL_YEAR');
  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await tile(page, 'In', 'SCHOOL_YEAR').click();
  await expect(page.getByRole('option').first()).toBeVisible();
  if (await page.getByRole('button', { name: 'what?', exact: true }).isVisible())
    await choose(page, 'what?', 'What were these shot for?', 'bird', 'Spring bird count');
  const drawer = page.getByRole('region', { name: 'What the drive will look like' });
  await expect(drawer.getByText('2025-2026', { exact: true })).toBeVisible();
  await expect(drawer).toContainText(/20260419_[A-Z]+_001\.jpg/);
  await page.getByRole('button', { name: /^File \d+$/ }).click();
  await expect(page.getByText(/tall(y|ies) in every place/).first()).toBeVisible({ timeout: 40_000 });
});

test('keys move and remove pieces; undo takes it back', async ({ page }) => {
  await openRules(page);
  const before = await line(page, 'File line').inputValue();
  const first = page.locator('#pieces-fileLine .piece').first();
  await first.focus();
  await page.keyboard.press('Alt+ArrowRight');
  await expect(line(page, 'File line')).not.toHaveValue(before);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(line(page, 'File line')).toHaveValue(before);
  await page.locator('#pieces-fileLine .piece').last().press('Delete');
  await expect(verdict(page, 'unique')).toContainText('cannot be the house rule');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('This is the house rule.')).toBeVisible();
});

test('to a file and back; names for a spreadsheet; an old revision is taken up again', async ({ page }) => {
  await openRules(page);
  const [written] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save to a file' }).click(),
  ]);
  const file = await written.path();
  expect(JSON.parse(readFileSync(file, 'utf8'))).toMatchObject({ format: 'tally-stick-house-rule', version: 1 });
  await line(page, 'File line').fill('{n:00000}');
  await page.getByLabel('A house rule in a file').setInputFiles(file);
  await expect(page.getByText('This is the house rule.')).toBeVisible();
  await page
    .getByLabel('A house rule in a file')
    .setInputFiles({ name: 'cat.json', mimeType: 'application/json', buffer: Buffer.from('{}') });
  await expect(page.getByText('cat.json is not a house rule')).toBeVisible();

  const [names] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'CSV' }).click()]);
  expect(readFileSync(await names.path(), 'utf8')).toMatch(/^old,new\r\n.+,2025-2026\/.+\r\n/);

  // Video in a tree of its own.
  await page.getByRole('combobox', { name: 'Whose lines' }).click();
  await page.getByRole('option', { name: 'video only' }).click();
  await line(page, 'Folder line').fill('Video/{season}/{captured:yyyy-MM}');
  await page.getByRole('combobox', { name: 'Whose lines' }).click();
  await page.getByRole('option', { name: 'all kinds' }).click();
  await expect(line(page, 'Folder line')).toHaveValue('{season}/{captured:yyyy-MM}/{captured:dd}_{assignment.slug}');

  await page.getByRole('button', { name: 'Revisions' }).click();
  const oldest = page.getByRole('dialog').getByRole('listitem').last();
  await expect(page.getByRole('dialog')).toContainText('We file by school year');
  await expectAccessible(page);
  await oldest.getByRole('button', { name: 'Take it up again' }).click();
  await expect(line(page, 'Folder line')).toHaveValue(
    '{captured:yyyy}/{captured:yyyy-MM}/{captured:yyyy-MM-dd}_{assignment.slug}',
  );
  await page.getByLabel('Why is the rule changed?').fill('Back to days');
  await page.getByRole('button', { name: /Save as revision/ }).click();
  await expect(page.getByText(/Revision \d+ is the house rule now/)).toBeVisible();
  await page.goto(`${base()}/rules`);
  await expect(page.getByText('This is the house rule.')).toBeVisible();
});
