import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { base, inHouse } from '../support/my-house.js';
import { putInLike } from '../support/cards.js';
import { openElsewhere, type Elsewhere } from '../support/elsewhere.js';
import { expectAccessible, signIn, tile } from '../support/person.js';

const go = async (page: Page, place: string) => page.getByRole('link', { name: place, exact: true }).click();
const view = async (page: Page, words: string) =>
  page
    .getByRole('radio', { name: words })
    .or(page.getByRole('button', { name: words }))
    .first()
    .click();

let elsewhere: Elsewhere;
test.beforeAll(async () => {
  elsewhere = await openElsewhere(test.info().parallelIndex + 1);
});
test.afterAll(() => elsewhere.end());

test('a colleague is added with a code, and chooses a password before anything else', async ({ page, browser }) => {
  await signIn(page);
  await go(page, 'Door');
  await view(page, 'Who signs in');
  await expect(page.getByRole('cell', { name: 'tomas', exact: true })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Somebody new' }).click();
  await page.getByLabel('Name to sign in with').fill('Perrin Vale');
  await page.getByRole('combobox', { name: 'Role' }).click();
  await page.getByRole('option', { name: /^coordinator/ }).click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Add, and give a code' }).click();
  const code = await page.getByRole('textbox', { name: 'Code to sign in with' }).inputValue();
  await page.keyboard.press('Escape');

  const other = await (await browser.newContext()).newPage();
  await other.goto(`${base()}/sign-in`);
  await other.getByLabel('Name').fill('perrin vale');
  await other.getByLabel('Password').fill(code);
  await other.getByRole('button', { name: 'Sign in' }).click();
  await expect(other.getByText('First of all, choose a password.')).toBeVisible();
  await expectAccessible(other);
  await other.goto(`${base()}/desk`);
  await expect(other).toHaveURL(/\/you$/);
  await other.getByLabel('New password').fill('short');
  await other.getByLabel('Once more').fill('short');
  await other.getByRole('button', { name: 'Change the password' }).click();
  await expect(other.getByText('A password has at least 12 characters.')).toBeVisible();
  await other.getByLabel('New password').fill('reeds and a quiet tide');
  await other.getByLabel('Once more').fill('reeds and a quiet tide');
  await other.getByRole('button', { name: 'Change the password' }).click();
  await expect(other.getByRole('heading', { name: 'Desk', exact: true })).toBeVisible();

  // A coordinator makes links; people, rules and what was recorded are an administrator's.
  await go(other, 'Door');
  await expect(other.getByRole('button', { name: 'New link' })).toBeVisible();
  await expect(other.getByText('Who signs in')).toHaveCount(0);
  await go(other, 'Rules');
  await expect(other.getByRole('button', { name: /^Save as revision/ })).toBeHidden();

  // Retired: out at once, wherever it was.
  await page.getByRole('button', { name: 'More for Perrin Vale' }).click();
  await page.getByRole('menuitem', { name: 'Retire…' }).click();
  await page.getByRole('button', { name: 'Retire', exact: true }).click();
  await expect(page.getByRole('row', { name: /Perrin Vale/ })).toContainText('retired');
  await go(other, 'Logbook');
  await expect(other).toHaveURL(/sign-in/);
});

test('a class hands in by a link from another machine, over HTTPS; the link is ended while it is in use; all of it is recorded', async ({
  page,
}, info) => {
  info.annotations.push({ type: elsewhere.isAnotherMachine ? 'elsewhere' : 'left out', description: elsewhere.where });
  await signIn(page);
  await go(page, 'Door');
  await page.getByRole('button', { name: 'New link' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('What it is for').fill('class 7b');
  await dialog.getByRole('combobox', { name: 'Good for' }).click();
  await page.getByRole('option', { name: 'three days' }).click();
  await dialog.getByLabel('For which assignment').fill('reed');
  await page.getByRole('option', { name: 'Reed planting day' }).first().click();
  await dialog.getByLabel('At most, files').fill('40');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Make a link' }).click();
  const link = await dialog.getByRole('textbox', { name: 'Hand-in link' }).inputValue();
  await expect(dialog.getByRole('img', { name: /square code/ })).toBeVisible();
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('row', { name: /class 7b/ })).toContainText('for Reed planting day, up to 40 files');

  const away = putInLike('CORVANE_K2', 'CLASS_CARD');
  const own = inHouse('class', 'CLASS_CARD');
  execFileSync('sh', ['-c', `mkdir -p "${inHouse('class')}" && mv "${away}" "${own}"`]);
  const context = await elsewhere.browser.newContext({ locale: 'en-GB' });
  const pupil = await context.newPage();
  await pupil.goto(link.replace(base(), elsewhere.base));
  await expect(pupil.getByText('40 files may still be handed in by this link.')).toBeVisible();
  await expect(pupil.getByText('Reed planting day')).toBeVisible();
  const [cookie] = await context.cookies();
  expect(cookie).toMatchObject({ name: '__Host-tally', secure: true, httpOnly: true, sameSite: 'Strict' });
  const hand = async () => {
    await pupil.getByRole('combobox', { name: 'Who took these?' }).click();
    await pupil.getByRole('option', { name: 'Junia Addo' }).click();
    await pupil.locator('input[webkitdirectory]').setInputFiles(own);
    await expect(pupil.getByText(/32 to hand in/)).toBeVisible({ timeout: 20_000 });
    await pupil.getByRole('button', { name: 'Hand in 32' }).click();
  };
  await hand();
  await expect(pupil.getByText(/[1-9]\d* arrived and proven/)).toBeVisible({ timeout: 30_000 });
  elsewhere.cut();
  await expect(pupil.getByRole('heading', { name: '32 have arrived' })).toBeVisible({ timeout: 60_000 });
  await expect(pupil.getByText('Junia Addo')).toHaveCount(0);
  await go(page, 'Desk');
  await expect(tile(page, 'In', 'Junia Addo')).toContainText('32 items');

  await pupil.reload();
  await expect(pupil.getByText('8 files may still be handed in by this link.')).toBeVisible();

  // Ended while somebody has it open: out at once, in words.
  await go(page, 'Door');
  await expect(page.getByRole('row', { name: /class 7b/ })).toContainText('32 files');
  await page
    .getByRole('row', { name: /class 7b/ })
    .getByRole('button')
    .click();
  await page.getByRole('button', { name: 'End it', exact: true }).click();
  await expect(page.getByRole('row', { name: /class 7b/ })).toContainText('ended');
  await pupil.reload();
  await expect(pupil).toHaveURL(/sign-in/);
  // How another machine comes to trust this house: for everybody.
  await pupil.goto(`${elsewhere.base}/certificate`);
  await expect(pupil.getByText(/^[0-9A-F]{2}(:[0-9A-F]{2}){31}$/)).toBeVisible();
  await expectAccessible(pupil);
  await pupil.goto(link.replace(base(), elsewhere.base));
  await expect(pupil.getByText('This hand-in link has ended. Ask for a new one.')).toBeVisible();

  await view(page, 'What was recorded');
  await expect(page.getByRole('row', { name: /class 7b was made, good for 72 hours/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /class 7b was ended/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /sign-in Hand-in link class 7b/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /Perrin Vale may sign in as coordinator/ })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Is the log what it was?' }).click();
  await expect(page.getByText(/All [\d,]+ events are what they were/)).toBeVisible();
});

test('a link that is ended in the middle of a file: said in words, what arrived is safe, and a new link goes on with it', async ({
  page,
}) => {
  await signIn(page);
  const made = async (name: string) => {
    const answer = await page.request.post(`${base()}/api/links`, { data: { name, hours: 4 } });
    return ((await answer.json()) as { address: string }).address.replace(base(), elsewhere.base);
  };
  const film = inHouse('film', 'DCIM', '100HALDN');
  mkdirSync(film, { recursive: true });
  // At what the line carries, half a minute's worth.
  for (const [name, megabytes] of [
    ['HM2_7001.MP4', 0.1],
    ['HM2_7002.MP4', 40],
  ] as const)
    writeFileSync(join(film, name), randomBytes(megabytes * 1_000_000));
  const pupil = await (await elsewhere.browser.newContext({ locale: 'en-GB' })).newPage();
  const begin = async (link: string) => {
    await pupil.goto(link);
    await pupil.getByRole('combobox', { name: 'Who took these?' }).click();
    await pupil.getByRole('option', { name: 'Junia Addo' }).click();
    await pupil.locator('input[webkitdirectory]').setInputFiles(inHouse('film'));
    await pupil.getByRole('button', { name: /^Hand in \d/ }).click();
  };
  await begin(await made('film club'));
  await expect(pupil.getByText(/^([3-9]|[1-5]\d) %$/)).toBeVisible();
  await go(page, 'Door');
  await page
    .getByRole('row', { name: /film club/ })
    .getByRole('button')
    .click();
  await page.getByRole('button', { name: 'End it', exact: true }).click();
  await expect(
    pupil.getByText('This hand-in link has ended. What has arrived is safe; ask for a new link for the rest.'),
  ).toBeVisible();
  await expectAccessible(pupil);
  // Nobody goes on by it.
  await expect(pupil.getByText(/^\d+ %$/)).toHaveCount(0);

  await begin(await made('film club once more'));
  await expect(pupil.getByRole('heading', { name: '2 have arrived' })).toBeVisible({ timeout: 90_000 });
  await go(page, 'Desk');
  await expect(tile(page, 'In', 'Junia Addo').first()).toBeVisible();
});

test('a helper clears nothing, and somebody who looks sees the shelf and nobody’s name in the pictures', async ({ page }) => {
  await signIn(page, 'noor', 'mud-and-lantern');
  await expect(page.getByRole('button', { name: 'Hand-in link' })).toBeHidden();
  await expect(page.getByRole('link', { name: 'Door', exact: true })).toHaveCount(0);
  await page.goto(`${base()}/door`);
  await expect(page).toHaveURL(/shelf/);
  await page.getByRole('button', { name: /: sign out/ }).click();

  await page.getByLabel('Name').fill('alder');
  await page.getByLabel('Password').fill('quiet-creek-at-dawn');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page).toHaveURL(/shelf/);
  await expect(page.getByRole('option').first()).toBeVisible();
  await expect(page.getByRole('navigation', { name: 'Places to be' }).getByRole('link')).toHaveText([
    '',
    'Shelf',
    'Logbook',
    'alder',
  ]);
  await expect(page.getByRole('button', { name: /^Fetch/ })).toBeHidden();
  await expectAccessible(page);
  await go(page, 'Logbook');
  await expect(page.getByRole('heading', { name: 'Logbook' })).toBeVisible();
  await expectAccessible(page);
});

test('what is one’s own, and a second factor, by keyboard alone', async ({ page }) => {
  await signIn(page, 'tomas', 'spring-tide-21');
  await page.getByRole('link', { name: 'tomas' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Second factor' })).toBeVisible();
  await page.getByRole('button', { name: 'Set up a second factor' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('img', { name: /square code/ })).toBeVisible();
  await page.getByLabel('Code of the app').focus();
  await page.keyboard.type('000000');
  await page.keyboard.press('Enter');
  await expect(page.getByText('This is not the code of this moment.')).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Dark theme' }).click();
  await expectAccessible(page);
  await page.setViewportSize({ width: 820, height: 1180 });
  expect(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth)).toBe(true);
});
