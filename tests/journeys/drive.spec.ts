import { expect, test, type Page } from '@playwright/test';
import { copyFileSync, existsSync, mkdirSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { putInLike } from '../support/cards.js';
import { inHouse } from '../support/my-house.js';
import { expectAccessible, signIn, tile } from '../support/person.js';

const shared = (...parts: string[]) => inHouse('shared-drive', ...parts);
const CUPBOARD = 'Cupboard 2019-2024';

async function openDrive(page: Page, query = ''): Promise<void> {
  await page.goto(`${new URL(page.url()).origin}/drive${query}`);
  await expect(page.getByRole('tree')).toBeVisible();
}

const show = async (page: Page, name: RegExp) => {
  const button = page.getByRole('radio', { name }).or(page.getByRole('button', { name })).first();
  await button.click();
};

/** Does what a mend shows, and waits until every place has followed. */
async function doIt(page: Page): Promise<void> {
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByRole('button', { name: /^(Do it|Take back):/ })).toBeEnabled();
  await expectAccessible(page);
  await dialog.getByRole('button', { name: /^(Do it|Take back):/ }).click();
  await expect(page.getByText('done everywhere').first()).toBeVisible({ timeout: 20_000 });
}

test('an old cupboard drive is adopted where it stands: its dates are read back, twins are told', async ({ page }) => {
  await signIn(page);
  await openDrive(page);
  await expect(page.getByRole('treeitem', { name: new RegExp(CUPBOARD) })).toBeVisible({ timeout: 40_000 });
  await expectAccessible(page);
  await page.getByRole('treeitem', { name: new RegExp(CUPBOARD) }).click();
  await page.getByRole('button', { name: 'Adopt strays…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Adopt where it stands' });
  const dunes = dialog.getByRole('row', { name: /2019-05-18 Dune walk/ }).last();
  await expect(dunes).toContainText('2019-05-18');
  await expect(dunes).toContainText('Wren Castell');
  await expect(dialog.getByRole('textbox', { name: /Assignment of .*Dune walk/ })).toHaveValue('Dune walk');
  // What names do not say is asked, by folder.
  await dialog.getByRole('textbox', { name: /Assignment of .*new folder/ }).fill('Found in the cupboard');
  await expectAccessible(page);
  const untouched = readdirSync(shared(CUPBOARD, 'new folder (2)'));
  await dialog.getByRole('button', { name: /^Adopt \d+ files of 9 folders/ }).click();
  await expect(page.getByText(/Last adoption: \d+ files, 1 left because the same bytes are filed/)).toBeVisible({
    timeout: 60_000,
  });
  expect(readdirSync(shared(CUPBOARD, 'new folder (2)'))).toEqual(expect.arrayContaining(untouched));
  // Found like anything filed, with the second copy made.
  await expect
    .poll(() => existsSync(inHouse('second-copy', CUPBOARD, 'new folder (2)', untouched[0]!)), { timeout: 40_000 })
    .toBe(true);
  await page.getByRole('link', { name: 'Shelf', exact: true }).click();
  await page.getByRole('searchbox', { name: 'Ask the shelf' }).fill('dune walk');
  await expect(page.getByRole('option').first()).toBeVisible();
});

test('a folder that somebody renames by hand keeps its log, in every place', async ({ page }) => {
  await signIn(page);
  const month =
    readdirSync(shared('2026/2026-01')).find((name) => name.includes('marsh-diary')) ?? readdirSync(shared('2026/2026-01'))[0]!;
  const renamed = 'diary, sorted by hand';
  const pictures = readdirSync(shared('2026/2026-01', month)).filter((name) => name.endsWith('.jpg'));
  renameSync(shared('2026/2026-01', month), shared('2026/2026-01', renamed));
  await expect.poll(() => existsSync(inHouse('second-copy/2026/2026-01', renamed, pictures[0]!)), { timeout: 60_000 }).toBe(true);
  await page.goto(`${new URL(page.url()).origin}/drive?view=mends`);
  await show(page, /^Mends/);
  await expect(
    page.getByText(new RegExp(`moved by hand on Shared drive, out of 2026/2026-01/${month}: the log follows`)),
  ).toBeVisible();
  await page.goto(`${new URL(page.url()).origin}/shelf?q=${encodeURIComponent(`folder:"2026/2026-01/${renamed}"`)}`);
  await expect(page.getByRole('option')).toHaveCount(pictures.length);
  // What is printed under the old name still leads there.
  const leads = await page.request.get(
    `${new URL(page.url()).origin}/api/leads-to?path=${encodeURIComponent(`2026/2026-01/${month}/${pictures[0]!}`)}`,
  );
  expect(((await leads.json()) as { path: string }).path).toBe(`2026/2026-01/${renamed}/${pictures[0]!}`);
});

test('a check finds what was planted, mends it, and one mend is taken back; what was filed wrongly is re-filed', async ({
  page,
}) => {
  await signIn(page);
  const folder = readdirSync(shared('2026/2026-02'))[0]!;
  const at = (...parts: string[]) => shared('2026/2026-02', folder, ...parts);
  const pictures = readdirSync(at()).filter((name) => name.endsWith('.jpg'));
  rmSync(at(pictures[0]!));
  writeFileSync(at(pictures[1]!), 'somebody edited this');
  writeFileSync(at('Thumbs.db'), 'thumbnails');
  writeFileSync(at('.DS_Store'), 'where icons stand');
  copyFileSync(at(pictures[2]!), at('the same once more.jpg'));
  mkdirSync(at('to sort later'));
  writeFileSync(at('lonely.xmp'), '<x/>');
  await openDrive(page);
  await page.getByRole('button', { name: 'Check Shared drive' }).click();
  await expect(page.getByText(/Checked by size and time/)).toBeVisible({ timeout: 40_000 });
  await show(page, /^Found/);
  const planted = [
    ['missing', pictures[0]!],
    ['changed', pictures[1]!],
    ['leftover', 'Thumbs.db'],
    ['leftover', '.DS_Store'],
    ['sidecar alone', 'lonely.xmp'],
    ['twin', 'the same once more.jpg'],
    ['empty folder', 'to sort later'],
  ] as const;
  for (const [kind, name] of planted) {
    const narrow = page.getByRole('button', { name: new RegExp(`^[0-9,]+ ${kind}$`) });
    if ((await narrow.getAttribute('aria-pressed')) === 'false') await narrow.click();
    // Several of a kind in one folder are one line, which opens.
    const together = page.getByRole('button', { name: `${kind} in 2026/2026-02/${folder}`, exact: false });
    await expect(together.or(page.getByRole('checkbox', { name: new RegExp(`${folder}/${name}`) })).first()).toBeVisible();
    if ((await together.count()) && (await together.getAttribute('aria-expanded')) === 'false') await together.click();
    if (kind === 'changed') await expect(page.getByText(/it has 20 bytes, not/)).toBeVisible();
    await page.getByRole('checkbox', { name: new RegExp(`${folder}/${name}`) }).check();
  }
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Mend 7…' }).click();
  await expect(page.getByRole('dialog')).toContainText('_put-aside');
  await doIt(page);
  await expect.poll(() => existsSync(at(pictures[0]!)), { timeout: 30_000 }).toBe(true);
  for (const gone of ['Thumbs.db', '.DS_Store', 'the same once more.jpg', 'to sort later'])
    await expect.poll(() => existsSync(at(gone)), { timeout: 20_000 }).toBe(false);

  // Filed under the wrong assignment: all of it goes where it belongs, in every place, and one can take that back.
  await openDrive(page, `?folder=${encodeURIComponent(`2026/2026-02/${folder}`)}`);
  await expect(page.getByRole('option')).toHaveCount(pictures.length, { timeout: 20_000 });
  await page.getByRole('option').first().click();
  await page
    .getByRole('option')
    .last()
    .click({ modifiers: ['Shift'] });
  await page.getByRole('button', { name: `Re-file ${pictures.length}…` }).click();
  await page.getByRole('combobox', { name: 'For' }).fill('autumn');
  await page.getByRole('option', { name: 'Autumn open day' }).first().click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Show what would happen' }).click();
  await expect(page.getByRole('dialog')).toContainText('_open-day');
  await doIt(page);
  for (const place of ['shared-drive', 'second-copy', 'off-site'])
    await expect.poll(() => existsSync(inHouse(place, '2026/2026-02', folder)), { timeout: 20_000 }).toBe(false);
  await page.getByRole('button', { name: 'Take back…' }).first().click();
  await doIt(page);
  for (const place of ['shared-drive', 'second-copy'])
    await expect
      .poll(() => existsSync(join(inHouse(place, '2026/2026-02', folder), pictures[2]!)), { timeout: 20_000 })
      .toBe(true);
});

test('what is filed loosely is dragged to where it belongs on a quiet day', async ({ page }) => {
  await signIn(page);
  putInLike('BRISLING_7', 'LOOSE');
  await tile(page, 'In', 'LOOSE').click();
  await page.getByRole('button', { name: /^(what\?|Spring bird count)$/ }).click();
  await page.getByRole('button', { name: 'Unsorted for now' }).click();
  await expect(page.getByRole('button', { name: 'Unsorted', exact: true })).toBeVisible();
  await expect(page.locator('.p-popover')).toHaveCount(0);
  await expect(page.getByRole('region', { name: 'What the drive will look like' })).toContainText('_unsorted');
  await page.getByRole('button', { name: /^File \d+/ }).click();
  await expect(page.getByText(/\d+ tally in /)).toBeVisible({ timeout: 60_000 });
  const folders = (name: RegExp) =>
    readdirSync(shared(), { recursive: true, encoding: 'utf8' }).filter(
      (path) => /^\d{4}\/\d{4}-\d\d\/[^/]+$/.test(path) && name.test(path),
    );
  const [loose] = folders(/_unsorted$/);
  const where = (loose ?? '').split('/').slice(0, 2).join('/');
  const [onto] = folders(/_[a-z-]+$/).filter((path) => path.startsWith(`${where}/`) && path !== loose);
  await openDrive(page, `?folder=${encodeURIComponent(loose!)}`);
  const inTree = (path: string) => page.getByRole('treeitem', { name: path.split('/').at(-1)! });
  await inTree(loose!).dragTo(inTree(onto!));
  await expect(page.getByRole('dialog')).toContainText('re-filed as');
  await doIt(page);
  await expect.poll(() => folders(/_unsorted$/), { timeout: 30_000 }).toEqual([]);
});
