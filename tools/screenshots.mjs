// npm run screenshots: one picture of each main view into docs/screenshots, from the demo data, with the clock stopped.
import { spawnSync } from 'node:child_process';
import { mkdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import options from './parts/chromium.json' with { type: 'json' };
import { removeCluster } from './parts/cluster.mjs';
import { build, checkNode, packages, ROOT } from './parts/ready.mjs';
import { end } from './parts/run.mjs';
import { say, step } from './parts/say.mjs';
import { startServer } from './parts/serve.mjs';

checkNode();
await packages('test');
build();
const { openDemoHouse } = await import('./parts/demo-house.mjs');
const { chromium } = await import('@playwright/test');
const data = join(tmpdir(), 'ostrel-bay');
removeCluster(join(data, 'db'));
rmSync(data, { recursive: true, force: true });
const house = await openDemoHouse(data, { frozen: true, testing: true, backedUp: true });
const panel = await house.startPanel();
const server = await startServer(house.settingsFile, house.settings.port);
const base = `http://127.0.0.1:${house.settings.port}`;
const folder = join(ROOT, 'docs/screenshots');
mkdirSync(folder, { recursive: true });

const browser = await chromium.launch(options);
const context = await browser.newContext({
  viewport: { width: 1280, height: 800 },
  reducedMotion: 'reduce',
  locale: 'en-GB',
  timezoneId: 'Europe/London',
});
const page = await context.newPage();
try {
  await journey();
} finally {
  await browser.close();
  await end(server);
  await end(panel.child);
  house.cluster.stop();
}
say(`Pictures are in ${folder}`);

async function shot(name) {
  await page.waitForLoadState('networkidle').catch(() => undefined);
  await page.waitForTimeout(500);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  step(name);
}

async function choose(word, label, typed, option) {
  await page.getByRole('button', { name: word, exact: true }).click();
  await page.getByLabel(label).fill(typed);
  await page.getByRole('option', { name: option }).first().click();
}

async function move(volume, where) {
  await fetch(`http://127.0.0.1:${panel.port}/cards/${volume}/${where}`, { method: 'POST' });
}

async function journey() {
  // Once the house is backed up, so that every picture is of the same moment.
  for (let tries = 0; tries < 120 && !(await (await fetch(`${base}/api/health`)).json()).backupAt; tries++)
    await page.waitForTimeout(500);
  await line('cut');
  await page.goto(`${base}/sign-in`);
  await page.getByLabel('Name').fill('wren');
  await page.getByLabel('Password').fill('hazel-and-reed');
  await page.getByRole('button', { name: 'Sign in' }).click();

  // A card that is filed, one that is begun, and others still to do.
  await move('CORVANE_K2', 'in');
  await page.getByRole('link').filter({ hasText: 'Halvard Moss' }).first().click();
  await page.getByText('raw', { exact: true }).first().waitFor();
  await choose('what?', 'What were these shot for?', 'tide', 'Tide gate repair');
  await page.getByRole('row', { name: /CK2_9993\.DNG/ }).waitFor();
  await page.getByRole('button', { name: 'File 32' }).click();
  await page.getByText('32 tally in 2 places').waitFor();
  await page.getByRole('button', { name: 'I know' }).click();
  await shot('intake-tallied');
  await page.getByRole('button', { name: 'Clear the card…' }).click();
  await page.getByText('Both ends of every file').waitFor();
  await page.keyboard.press('Escape');

  // A card that stays whole.
  await move('ORRERY_REEL', 'in');
  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await page.getByRole('link').filter({ hasText: 'ORRERY_REEL' }).first().click();
  await page.getByRole('option').filter({ hasText: 'proxy' }).first().waitFor();
  await choose('whom?', 'Who took these?', 'Sefa', 'Sefa Tuiasosopo');
  await choose('what?', 'What were these shot for?', 'tide', 'Tide gate repair');
  await page.getByText('PRIVATE/ORRROOT as on the card').click();
  await move('ORRERY_REEL', 'out');

  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await page.getByRole('link').filter({ hasText: 'Ines Barrow' }).first().click();
  await page.getByRole('option').first().waitFor();
  await page.getByRole('button', { name: 'no label' }).click();
  await page.getByRole('button', { name: /^Label it/ }).click();
  // The sentence moves when the label is said.
  await page.getByRole('button', { name: /^C-\d+$/ }).waitFor();
  await choose('what?', 'What were these shot for?', 'reed', 'Reed planting day');
  await page.getByRole('row', { name: /HM4_0417\.JPG/ }).waitFor();
  await page.getByRole('option').nth(5).click();
  await page.getByRole('option').nth(6).click();
  await shot('intake');
  await page.getByRole('listbox').focus();
  await page.keyboard.press('Enter');
  await page.getByRole('dialog', { name: 'Look closer' }).waitFor();
  await shot('look-closer');
  await page.keyboard.press('Escape');

  await split();
  await clock();
  await handIn();

  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await page.getByText('Still expected').waitFor();
  await shot('desk');
  await credit();
  for (const name of ['Logbook', 'Drive', 'Rules']) {
    await page.getByRole('link', { name, exact: true }).click();
    await page.getByRole('heading', { level: 1, name }).waitFor();
    if (name === 'Rules') await page.getByText('The number can be read in every name').waitFor();
    await shot(name.toLowerCase());
  }
  await shelf();
  await proof();
  await page.getByRole('link', { name: 'Logbook', exact: true }).click();
  await page
    .getByRole('row', { name: /Halvard Moss/ })
    .first()
    .getByRole('link')
    .click();
  await page.getByText('What happened').waitFor();
  await shot('record');
}

/** The shelf with a question, as a list, bundles, the house in figures, and the door. */
async function shelf() {
  const ask = page.getByRole('searchbox', { name: 'Ask the shelf' });
  await page.goto(`${base}/shelf?q=is:select`);
  await page.getByRole('option').first().waitFor();
  await page.goto(`${base}/shelf`);
  await page.getByRole('option').first().waitFor();
  await ask.fill('wader winter 2025');
  await page.getByText('from winter 2025').waitFor();
  await ask.press('Enter');
  await shot('shelf');
  await page.goto(`${base}/drive?view=found`);
  await page.getByRole('button', { name: /missing/ }).waitFor({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Check Shared drive' }).click();
  await page.getByText(/Checked by size and time/).waitFor({ timeout: 60_000 });
  await shot('drive-found');
  await page.goto(`${base}/drive?folder=${encodeURIComponent('2026/2026-04/2026-04-20_tide-gate')}`);
  await page.getByRole('option').nth(5).waitFor();
  await page.waitForLoadState('networkidle');
  await shot('drive');
  await page.goto(`${base}/bundles`);
  await page.getByRole('button', { name: 'Order' }).nth(1).click();
  await page
    .getByRole('list', { name: /^Order of/ })
    .getByRole('listitem')
    .first()
    .waitFor();
  await shot('bundles');
  await page.goto(`${base}/figures?by=contributor`);
  await page.getByText('handed in most').waitFor();
  await shot('figures');
  await page.goto(`${base}/door?view=audit`);
  await page.getByRole('button', { name: 'Is the log what it was?' }).click();
  await page.getByText(/events are what they were/).waitFor();
  await shot('door');
}

/** The off-site place is back: the card's receipt; what is lent. */
async function proof() {
  await line('mend');
  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await page.getByRole('link').filter({ hasText: 'Halvard Moss' }).first().click();
  await page.getByText('32 tally in every place').waitFor({ timeout: 90_000 });
  await page.getByRole('button', { name: 'Clear the card…' }).click();
  await page.getByText('Safe to clear', { exact: true }).waitFor();
  await page.keyboard.press('Escape');
  const id = new URL(page.url()).pathname.split('/').at(-1);
  await printed('receipt', `/api/intakes/${id}/receipt.pdf`);
  await page.goto(`${base}/lending`);
  await page.getByText('6 of 11 out').waitFor();
  await shot('lending');
}

/** The first page of what would be printed. */
async function printed(name, path) {
  const pdf = await (await page.request.get(`${base}${path}`)).body();
  const args = ['-r', '90', '-png', '-singlefile', '-', join(folder, name)];
  if (spawnSync('pdftoppm', args, { input: pdf }).status !== 0) throw new Error(`${path} could not be drawn`);
  step(name);
}

async function line(move) {
  await fetch(`http://127.0.0.1:${panel.port}/off-site/${move}`, { method: 'POST' });
}

/** One card for two assignments and two people; then four frames of one moment side by side. */
async function split() {
  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await page.getByRole('link').filter({ hasText: 'Mateo Sorrel' }).first().click();
  await page.locator('ts-tile .sharp').first().waitFor();
  await choose('what?', 'What were these shot for?', 'bird', 'Spring bird count');
  const chosen = (hour) => page.locator('ts-run-head', { hasText: hour }).locator('.span').click();
  await chosen('09:35');
  await page.keyboard.press('b');
  await page.getByLabel(/^Somebody else than/).fill('ines');
  await page.getByRole('option', { name: 'Ines Barrow' }).click();
  await page.locator('ts-sheet .scroll').evaluate((box) => (box.scrollTop = box.scrollHeight));
  await chosen('21:15');
  await page.keyboard.press('b');
  await page.getByRole('button', { name: /^Night moth survey/ }).click();
  await page.locator('ts-sheet .scroll').evaluate((box) => (box.scrollTop = 230));
  await page.getByRole('row', { name: /BRF72204\.JPG/ }).waitFor();
  await chosen('21:15');
  await page.keyboard.press('Escape');
  await page.locator('ts-sheet .scroll').evaluate((box) => (box.scrollTop = 0));
  await page.locator('#tile-5').dblclick();
  await page.keyboard.press('4');
  await page.getByText('sharpest', { exact: true }).waitFor();
  await page.keyboard.press('Escape');
}

/** Many items at once with somebody who must not be shown; a person's page; the calendar of assignments. */
async function credit() {
  const { intakes } = await (await page.request.get(`${base}/api/intakes?limit=60`)).json();
  await page.goto(`${base}/intake/${intakes.find(({ unshown }) => unshown).id}`);
  await page.getByText('not to be shown').first().waitFor();
  await page.locator('#tile-0').focus();
  await page.getByRole('listbox').focus();
  for (const key of ['x', 'Shift+ArrowRight', 'Shift+ArrowRight', 'Shift+ArrowRight', 'e']) await page.keyboard.press(key);
  await page.getByRole('dialog', { name: 'Credit of 4 items' }).waitFor();
  await page.getByLabel('Type a word').or(page.getByPlaceholder('Type a word, comma for the next')).first().focus();
  await shot('credit-pane');
  await page.keyboard.press('Escape');
  await page.goto(`${base}/people?view=calendar`);
  await page
    .getByRole('link', { name: /Reed planting day/ })
    .first()
    .waitFor();
  await shot('assignments-calendar');
  await page.goto(`${base}/people?view=contributors`);
  await page.getByRole('link', { name: 'Sefa Tuiasosopo' }).click();
  await page.getByText('handed in most').waitFor();
  await shot('person');
  await page.goto(`${base}/desk`);
  await page.getByText('Still expected').waitFor();
}

async function clock() {
  await move('BRISLING_POND', 'in');
  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await page.getByRole('link').filter({ hasText: 'Ola Brandt' }).first().click();
  await page.getByRole('button', { name: 'put the camera’s clock right' }).click();
  await page.getByLabel(/^When was it really/).fill('2026-04-19 07:10');
  await page.getByRole('button', { name: 'Leave it' }).click();
  await move('BRISLING_POND', 'out');
}

async function handIn() {
  await page.goto(`${base}/hand-in`);
  const say = async (what, answer) => {
    await page.getByRole('combobox', { name: what }).click();
    await page.getByRole('option', { name: answer }).first().click();
  };
  await say('Who took these?', 'Ines Barrow');
  await say('What are they from?', 'Reed planting day');
  await page.locator('input[webkitdirectory]').setInputFiles(join(house.reader, 'reader/HALDEN_M4'));
  await page.getByText('45 to hand in').waitFor();
  await shot('hand-in');
  await page.goto(`${base}/desk`);
}
