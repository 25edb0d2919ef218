import { expect, test, type Page } from '@playwright/test';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { putInLike } from '../support/cards.js';
import { inHouse } from '../support/my-house.js';
import { choose, expectAccessible, signIn, tile } from '../support/person.js';

const says = (page: Page) => page.getByRole('heading', { level: 1 });
const pane = (page: Page) => page.getByRole('dialog', { name: /^Credit of/ });

test('a pupil’s card: said once, kept as a habit, and the next slip fills itself; two items are somebody else’s', async ({
  page,
}) => {
  putInLike('BRISLING_POND', 'PUPIL_ONE');
  await signIn(page);
  await tile(page, 'In', 'PUPIL_ONE').click();
  await choose(page, 'Ola Brandt', 'Who took these?', 'Priya', 'Priya Lind');
  await choose(page, 'what?', 'What were these shot for?', 'bird', 'Spring bird count');
  // What the assignment knows is there already.
  await expect(says(page)).toContainText('words birds · survey');
  await expect(says(page)).toContainText('at North flats');
  await page.keyboard.press('k');
  const words = page.getByRole('combobox', { name: 'Words for all of it' });
  await words.pressSequentially('limíc');
  await page.getByRole('option', { name: 'waders', exact: true }).click();
  await words.pressSequentially('low tide,');
  await expect(page.getByText('low tide', { exact: true })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(says(page)).toContainText('waders · low tide · birds');
  // Keys speak to what is on top until it is gone.
  await expect(words).toHaveCount(0);
  await page.keyboard.press('m');
  await page.getByRole('combobox', { name: 'What may be done with them' }).click();
  await page.getByRole('option', { name: 'Ask the maker first' }).click();
  await expect(says(page)).toContainText('ask the maker first');
  await expect(page.getByRole('combobox', { name: 'What may be done with them' })).toHaveCount(0);
  await page.keyboard.press('y');
  await page.getByRole('textbox', { name: 'Called' }).fill('Priya counts birds');
  await page.getByRole('button', { name: 'Keep this as a habit' }).click();

  // Two of them were taken by somebody else, and one shows a person.
  await page.getByRole('option').nth(0).click();
  await page.getByRole('option').nth(0).click();
  await page.keyboard.press('x');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('e');
  await expect(pane(page)).toContainText('Credit of 2 items');
  await pane(page).getByLabel('Credit line').fill('Ola Brandt / school');
  await pane(page).getByLabel('Copyright notice').click();
  const person = page.getByRole('option', { name: 'Corin Reeve' });
  // What was said a moment ago is being kept, which may close the list: whoever sees that types again.
  await expect(async () => {
    await pane(page).getByRole('combobox', { name: 'Who is in it' }).fill('');
    await pane(page).getByRole('combobox', { name: 'Who is in it' }).fill('Corin');
    await expect(person).toBeVisible({ timeout: 5_000 });
  }).toPass();
  await person.click();
  await expect(pane(page)).toContainText('must not be shown');
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('option', { name: /Corin Reeve must not be shown/ })).toHaveCount(2);
  await expect(page.getByRole('button', { name: '2 must not be shown' })).toBeVisible();

  // The next card of hers says all of it by itself.
  putInLike('BRISLING_POND', 'PUPIL_TWO');
  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await expect(
    tile(page, 'In', 'Priya Lind')
      .or(tile(page, 'On the desk', 'Priya Lind'))
      .first(),
  ).toContainText('2 must not be shown');
  await tile(page, 'In', 'PUPIL_TWO').click();
  await choose(page, 'Ola Brandt', 'Who took these?', 'Priya', 'Priya Lind');
  await expect(says(page)).toContainText('Spring bird count');
  await expect(says(page)).toContainText('waders · low tide');
  await expect(says(page)).toContainText('by the habit “Priya counts birds”');
});

test('a name is corrected and two records are one; the drive follows', async ({ page }) => {
  await signIn(page);
  await page.goto(new URL('/people?view=contributors', page.url()).href);
  await page.getByRole('button', { name: 'New contributor' }).click();
  const form = page.getByRole('dialog', { name: 'New contributor' });
  await form.getByLabel('Name', { exact: true }).fill('Juna Addo');
  await form.getByLabel('Code').fill('JNA');
  await form.getByRole('button', { name: 'Add Juna Addo' }).click();
  await page.getByRole('link', { name: 'Juna Addo' }).click();
  await page.getByRole('button', { name: 'Merge…' }).click();
  await page.getByRole('combobox', { name: 'Is the same as' }).fill('junia');
  await page.getByRole('option', { name: 'Junia Addo (JA)' }).click();
  await page.getByRole('button', { name: 'Make them one' }).click();
  await expect(page.getByRole('heading', { name: 'Junia Addo', exact: true })).toBeVisible();
  await expect(page.getByText('Was JNA too')).toBeVisible();
  await page.getByRole('button', { name: 'Correct…' }).click();
  const correct = page.getByRole('dialog', { name: 'Correct Junia Addo' });
  await correct.getByLabel('Name', { exact: true }).fill('Júnia Addo');
  await correct.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('heading', { name: 'Júnia Addo', exact: true })).toBeVisible();
  await expectAccessible(page);
  // The records beside her files say so by and by.
  const records = () =>
    readdirSync(inHouse('shared-drive'), { recursive: true, encoding: 'utf8' })
      .filter((name) => /bird-count.*intake-.*\.json$/.test(name))
      .map((name) => readFileSync(`${inHouse('shared-drive')}/${name}`, 'utf8'));
  await expect.poll(() => records().some((text) => text.includes('"creator": "Júnia Addo"')), { timeout: 60_000 }).toBe(true);
});

test('a list of pupils comes in as a spreadsheet wrote it: shown first, refused where it is wrong, taken in whole', async ({
  page,
}) => {
  await signIn(page);
  await page.goto(new URL('/people?view=contributors', page.url()).href);
  await page.getByRole('button', { name: 'From a file…' }).click();
  const dialog = page.getByRole('dialog', { name: /Take contributors in/ });
  const file = inHouse('pupils.csv');
  writeFileSync(file, 'code;name;kind\r\nANR;Ana Ruela;pupil\r\nBEV;Bento Vale;pupil\r\nANR;Ana again;pupil\r\n');
  await dialog.locator('input[type=file]').setInputFiles(file);
  await expect(dialog.getByText('Line 4 has the code “ANR” of line 2 again')).toBeVisible();
  await expect(dialog.getByRole('button', { name: /Take in/ })).toBeDisabled();
  writeFileSync(file, Buffer.from('code;name;kind\r\nANR;Ana Ruela;pupil\r\nBEV;Jos\u00e9 Vale;pupil\r\n', 'latin1'));
  await dialog.locator('input[type=file]').setInputFiles(file);
  await expect(dialog.getByRole('status')).toContainText('Read as Windows-1252, parted by semicolons: 2 new');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Take in 2' }).click();
  await expect(page.getByRole('link', { name: 'José Vale' })).toBeVisible();
});

test('lists of the house, the calendar and the words: seen, corrected, without a barrier', async ({ page }) => {
  await signIn(page);
  const open = (view: string) => page.goto(new URL(`/people?view=${view}`, page.url()).href);
  await open('calendar');
  await expect(page.getByRole('link', { name: /Spring bird count/ }).first()).toBeVisible();
  await expectAccessible(page);
  await open('pictured');
  await page.getByRole('button', { name: 'Dario Lock' }).click();
  await page.getByRole('combobox', { name: 'May be shown' }).click();
  await page.getByRole('option', { name: 'yes' }).click();
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('row', { name: /Dario Lock yes/ })).toBeVisible();
  await expectAccessible(page);
  await open('words');
  await page.getByRole('button', { name: 'waders', exact: true }).click();
  await expect(page.getByRole('dialog', { name: 'Correct waders' })).toBeVisible();
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  for (const view of ['locations', 'terms', 'habits']) {
    await open(view);
    await expect(page.getByRole('row').nth(2)).toBeVisible();
    await expectAccessible(page);
  }
});
