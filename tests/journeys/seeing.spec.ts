import { expect, test, type Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { putInLike } from '../support/cards.js';
import { base, inHouse } from '../support/my-house.js';
import { choose, expectAccessible, signIn, signInElsewhere, tile } from '../support/person.js';

test.describe.configure({ mode: 'serial' });

async function open(page: Page, volume: string, comeIn = (to: Page) => signIn(to)): Promise<void> {
  await comeIn(page);
  await tile(page, 'In', volume)
    .or(tile(page, 'On the desk', volume))
    .first()
    .click();
  await expect(page.getByRole('option').first()).toBeVisible();
}
const item = (page: Page, index: number) => page.locator(`#tile-${index}`);
const file = (page: Page, n: number) => page.getByRole('button', { name: `File ${n}`, exact: true });

test('take and leave: a rectangle, a range, a run, a reversal; each undone; a second person sees the same, live', async ({
  page,
  browser,
}) => {
  putInLike('BRISLING_7', 'SEEN_ONE');
  await open(page, 'SEEN_ONE');
  await expect(file(page, 32)).toBeVisible();
  const other = await (await browser.newContext()).newPage();
  await open(other, 'SEEN_ONE', signInElsewhere);

  const [from, to] = [(await item(page, 1).boundingBox())!, (await item(page, 3).boundingBox())!];
  await page.mouse.move(from.x + 15, from.y + 15);
  await page.mouse.down();
  await page.mouse.move(to.x + 20, to.y + 30, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByText('3 items chosen')).toBeVisible();
  await page.getByRole('button', { name: 'Leave', exact: true }).click();
  await expect(file(page, 29)).toBeVisible();
  await expect(file(other, 29)).toBeVisible();
  await expectAccessible(page);
  await page.keyboard.press('Escape');

  // A range by keys, from the focused one: chosen, then left.
  await item(page, 5).click();
  await item(page, 5).click();
  await page.getByRole('listbox', { name: 'Items on this card' }).focus();
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Shift+ArrowRight');
  await expect(page.getByText('3 items chosen')).toBeVisible();
  await page.keyboard.press('Space');
  await expect(file(page, 26)).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('v');
  await expect(file(page, 6)).toBeVisible();
  await expect(file(other, 6)).toBeVisible();
  for (const left of [26, 29]) {
    await page.keyboard.press('u');
    await expect(file(page, left)).toBeVisible();
  }
  await page.keyboard.press('w');
  await expect(page.getByText('14 items chosen')).toBeVisible();
  await page.keyboard.press('Escape');

  // A reload shows the same, once the server knows it; so do order and what is shown.
  await expect(file(other, 29)).toBeVisible();
  await page.reload();
  await expect(file(page, 29)).toBeVisible();
  await page.getByRole('combobox', { name: 'What is shown' }).click();
  await page.getByRole('option', { name: 'left, 3' }).click();
  await expect(page.locator('ts-tile')).toHaveCount(3);
  await page.getByRole('combobox', { name: 'What is shown' }).click();
  await page.getByRole('option', { name: /^everything/ }).click();
  await page.getByRole('combobox', { name: 'Order of the sheet' }).click();
  await page.getByRole('option', { name: 'camera', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Halden M4' })).toBeVisible();
  await page.getByRole('listbox', { name: 'Items on this card' }).focus();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('jump to the sharpest of similar frames');
  await expectAccessible(page);
});

test('look closer: every pixel, side by side, the sharpest, judged by key', async ({ page }) => {
  await open(page, 'SEEN_ONE');
  // Four frames of one moment; previews are made ahead, and with them the measure.
  await expect(page.locator('ts-tile .sharp').first()).toBeVisible({ timeout: 30_000 });
  await item(page, 4).click({ modifiers: ['Control'] });
  await page.keyboard.press('Escape');
  await page.getByRole('listbox', { name: 'Items on this card' }).focus();
  await page.keyboard.press('Enter');
  const closer = page.getByRole('dialog', { name: 'Look closer' });
  await expect(closer).toContainText('one of 4 similar frames');
  await page.keyboard.press('4');
  await expect(closer.locator('figure')).toHaveCount(4);
  await expect(closer.getByText('sharpest', { exact: true })).toHaveCount(1);
  await page.keyboard.press('j');
  await expect(closer.getByText('sharpest of these')).toBeVisible();
  await expectAccessible(page);

  // A click shows every pixel at that point, in all of them; stepping on keeps point and scale.
  await closer
    .locator('ts-pane')
    .first()
    .click({ position: { x: 120, y: 90 } });
  await expect(closer.getByRole('button', { name: /^Every pixel/ })).toHaveAttribute('aria-pressed', 'true');
  const full = closer.locator('ts-pane img[src$="full"]');
  await expect(full).toHaveCount(4);
  await expect.poll(() => full.first().evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(1500);
  await page.keyboard.press('1');
  await expect(closer.locator('figure')).toHaveCount(1);
  const placed = () =>
    closer.locator('ts-pane .box').evaluate((box: HTMLElement) => [box.style.left, box.style.top, box.style.width]);
  const before = await placed();
  await page.keyboard.press('ArrowRight');
  expect(await placed()).toEqual(before);
  await page.keyboard.press('z');
  await page.keyboard.press('i');
  await expect(closer.getByText('Exposure time')).toBeVisible();

  await page.keyboard.press('s');
  await expect(closer.getByRole('button', { name: /^select/ })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('d');
  await expect(closer.getByLabel('Description')).toBeFocused();
  await page.keyboard.type('Geese over the flats');
  await page.keyboard.press('Enter');
  await page.keyboard.press('t');
  await page.keyboard.press('Escape');
  await page.reload();
  await page.getByLabel('Find a name on this card').fill('geese');
  await expect(page.locator('ts-tile')).toHaveCount(1);
  await expect(page.locator('ts-tile .verdict')).toHaveText('select');
});

test('split: a run goes to another assignment by drag, another by menu; both are filed where they belong', async ({ page }) => {
  await open(page, 'SEEN_ONE');
  await choose(page, 'what?', 'What were these shot for?', 'bird', 'Spring bird count');
  const sentence = page.getByRole('heading', { level: 1 });
  await expect(sentence).toContainText('_bird-count');
  // The assignments of that night propose themselves; the run is dragged to one of them.
  const run = page.locator('ts-run-head', { hasText: '21:15' }).locator('.span');
  await page.locator('ts-sheet .scroll').evaluate((box) => (box.scrollTop = box.scrollHeight));
  await expect(run).toBeVisible();
  await run.dispatchEvent('dragstart', { dataTransfer: await page.evaluateHandle(() => new DataTransfer()) });
  const target = page.locator('.targets span', { hasText: 'Night moth survey' });
  await target.dispatchEvent('dragover', { dataTransfer: await page.evaluateHandle(() => new DataTransfer()) });
  await target.dispatchEvent('drop', { dataTransfer: await page.evaluateHandle(() => new DataTransfer()) });
  await expect(sentence).toContainText('12 for Night moth survey');
  await expect(sentence).toContainText('goes to 2 folders');
  await expect(page.getByRole('list', { name: 'Folders on the shared drive' })).toContainText('_moth-survey');
  // Those by another camera were taken by somebody else.
  await expect(async () => {
    await page.locator('ts-run-head', { hasText: '09:35' }).locator('.span').click();
    await expect(page.getByText('6 items chosen')).toBeVisible({ timeout: 3_000 });
  }).toPass();
  await page.keyboard.press('b');
  const dialog = page.getByRole('dialog', { name: 'Where do these belong?' });
  await expect(dialog).toContainText('6 items of this card');
  await expectAccessible(page);
  await dialog.getByLabel(/^Somebody else than/).fill('ines');
  await page.getByRole('option', { name: 'Ines Barrow' }).click();
  await expect(sentence).toContainText('6 by Ines Barrow');
  await expect(page.getByRole('row', { name: /HM4_0398\.JPG/ })).toContainText('_IB_');
  await page.getByRole('button', { name: /^File 29$/ }).click();
  await expect(page.getByText(/29 tally in/)).toBeVisible({ timeout: 30_000 });
  const moth = execFileSync('sh', ['-c', `ls "${inHouse('shared-drive/2026/2026-04')}" | grep moth`], { encoding: 'utf8' });
  expect(moth).toContain('2026-04-19_moth-survey');
});

test('a card that was read before says what is new; the same name with other bytes is no duplicate', async ({ page }) => {
  putInLike('SEEN_ONE', 'SEEN_TWICE', 20);
  await open(page, 'SEEN_TWICE');
  await expect(page.getByText(/^\d+ of 32 were filed on 21 April; \d+ are new$/)).toBeVisible({ timeout: 20_000 });
  await expect(page.getByText(/with a name that was filed before, but other pictures/)).toBeVisible();
});

test('a clock is put right by one known moment: shown before it is accepted, kept, and offered next time', async ({ page }) => {
  putInLike('BRISLING_POND', 'FLAT_ONE');
  await open(page, 'FLAT_ONE');
  await choose(page, 'what?', 'What were these shot for?', 'bird', 'Spring bird count');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('2000-01-01_bird-count');
  await page.getByRole('button', { name: /with a doubtful date/ }).click();
  await expect(page.getByRole('button', { name: /^only doubtful dates/ })).toBeVisible();
  await page.getByRole('button', { name: /^only doubtful dates/ }).click();
  await page.getByRole('button', { name: 'put the camera’s clock right' }).click();
  const dialog = page.getByRole('dialog', { name: 'Cameras and their clocks' });
  await expect(dialog).toContainText('its clock was not set');
  await dialog.getByLabel(/^When was it really/).fill('19 April 2026 7:10');
  await expect(dialog.getByText('understood as 2026-04-19 07:10:00')).toBeVisible();
  await expect(dialog.getByRole('table')).toContainText('2026-04-19 07:10:00');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: /^Move 12 items/ }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('2026-04-19_bird-count');
  await expect(page.getByText(/doubtful date/)).toHaveCount(0);
  await expect(page.getByRole('heading', { level: 2, name: /19 Apr 2026, 07:10/ })).toBeVisible();

  putInLike('BRISLING_POND', 'FLAT_TWO');
  await open(page, 'FLAT_TWO');
  await page.getByRole('button', { name: /its clock was off before/ }).click();
  await page.getByRole('button', { name: /as wren found on .*: apply again/ }).click();
  await expect(page.getByRole('heading', { level: 2, name: /19 Apr 2026/ })).toBeVisible();
  await page.getByRole('listbox', { name: 'Items on this card' }).focus();
  await page.keyboard.press('u');
  await expect(page.getByRole('heading', { level: 2, name: /1 Jan 2000/ })).toBeVisible();
});

test('clips play in the page with seeking, and the part of use is marked; sounds have their wave', async ({ page }) => {
  putInLike('ORRERY_CINE', 'FILM_ONE');
  await open(page, 'FILM_ONE');
  await page.getByLabel('Find a name on this card').fill('clip0033.mp4');
  await expect(page.locator('ts-tile')).toHaveCount(1);
  await page.getByRole('listbox', { name: 'Items on this card' }).focus();
  await page.keyboard.press('Enter');
  const clip = page.getByLabel(/^Play CLIPS\/CLIP0033\.MP4/);
  await expect.poll(() => clip.evaluate((video: HTMLVideoElement) => video.readyState)).toBeGreaterThan(0);
  await clip.evaluate((video: HTMLVideoElement) => (video.currentTime = 2));
  await expect.poll(() => clip.evaluate((video: HTMLVideoElement) => video.currentTime)).toBeCloseTo(2, 1);
  await page.keyboard.press('[');
  // A key is held for a moment: it may be the first of a scan.
  await expect(page.getByText(/of use: 0:02\.\d\d to the end/)).toBeVisible();
  await page.keyboard.press('.');
  await expect.poll(() => clip.evaluate((video: HTMLVideoElement) => video.currentTime)).toBeGreaterThan(2.02);
  await clip.evaluate((video: HTMLVideoElement) => (video.currentTime = 4));
  await expect.poll(() => clip.evaluate((video: HTMLVideoElement) => video.seeking)).toBe(false);
  await page.waitForTimeout(400);
  await page.keyboard.press(']');
  await expect(page.getByText(/of use: 0:02\.\d\d to 0:04\.\d\d/)).toBeVisible();
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await page.getByLabel('Find a name on this card').fill('tide_');
  await expect(page.locator('ts-tile')).toHaveCount(2);
  await expect.poll(() => page.locator('ts-tile path.wave').first().getAttribute('d')).toMatch(/v\d/);
});

test('hand in by a link from another workstation: paused, reloaded, gone on with, and it is on the desk', async ({
  page,
  browser,
}) => {
  await signIn(page);
  await page.getByRole('button', { name: 'Hand-in link' }).click();
  await page.getByRole('button', { name: 'Make a link' }).click();
  const link = await page.getByRole('textbox', { name: 'Hand-in link' }).inputValue();
  await expectAccessible(page);
  await page.keyboard.press('Escape');

  const away = putInLike('CORVANE_K2', 'NOOR_CARD');
  const own = inHouse('noor', 'NOOR_CARD');
  execFileSync('sh', ['-c', `mkdir -p "${inHouse('noor')}" && mv "${away}" "${own}"`]);
  const context = await browser.newContext();
  const other = await context.newPage();
  await other.goto(link);
  const say = async () => {
    await other.getByRole('combobox', { name: 'Who took these?' }).click();
    await other.getByRole('option', { name: 'Priya Lind' }).click();
    await other.getByRole('combobox', { name: 'What are they from?' }).click();
    await other.getByRole('option', { name: 'Reed planting day' }).first().click();
    await other.locator('input[webkitdirectory]').setInputFiles(own);
    await expect(other.getByText(/32 to hand in/)).toBeVisible({ timeout: 20_000 });
  };
  await say();
  await expectAccessible(other);
  await other.getByRole('button', { name: 'Hand in 32' }).click();
  await expect(other.getByText(/[1-9]\d* arrived and proven/)).toBeVisible({ timeout: 20_000 });
  await other.getByRole('button', { name: 'Pause' }).click();
  await expect(other.getByRole('button', { name: 'Go on' })).toBeVisible();
  // The lid is closed, the page is gone: the same card is chosen again, and only the rest is sent.
  await other.reload();
  await say();
  const created: string[] = [];
  other.on('request', (request) => {
    if (request.method() === 'POST' && request.url().endsWith('/api/uploads')) created.push(request.url());
  });
  await other.getByRole('button', { name: 'Hand in 32' }).click();
  await expect(other.getByRole('heading', { name: '32 have arrived' })).toBeVisible({ timeout: 30_000 });
  expect(created.length).toBeLessThan(32);
  await expectAccessible(other);
  // Nothing else is open to whoever has the link.
  await other.goto(`${base()}/desk`);
  await expect(other).toHaveURL(/hand-in$/);

  await expect(tile(page, 'In', 'Priya Lind')).toContainText('32 items');
  await tile(page, 'In', 'Priya Lind').click();
  // The plan is on screen before anything is filed by it.
  const slip = page.getByRole('heading', { level: 1 });
  await expect(slip).toContainText('from Priya Lind, shot for Reed planting day');
  await expect(slip).toContainText('2026-04-20_reed-planting');
  await page.getByRole('button', { name: 'File 32' }).click();
  await expect(page.getByText(/32 tally in/)).toBeVisible({ timeout: 30_000 });
  expect(existsSync(own)).toBe(true);
  // What came through a browser is no card: it is done with, not given back; and whoever sent it is told.
  await expect(page.getByRole('button', { name: 'Done' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Clear the card…' })).toHaveCount(0);
  await expect(other.getByText('All 32 are filed and proven in every place. Your card may be emptied now.')).toBeVisible({
    timeout: 60_000,
  });
});
