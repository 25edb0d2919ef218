// The shelf on the old house: how long a question, its counts, a page anywhere, likeness and figures take through HTTP; how it
// scrolls through half a million items; and a zip of originals against `cat` of the same files.
import { createWriteStream, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import options from '../tools/parts/chromium.json' with { type: 'json' };
import { removeCluster, startCluster } from '../tools/parts/cluster.mjs';
import { ROOT } from '../tools/parts/ready.mjs';
import { end } from '../tools/parts/run.mjs';
import { startServer } from '../tools/parts/serve.mjs';
import { COLD, race, sh, some } from './measure.mjs';
import { OLD_HOUSE } from './old-house/made.mjs';
import { oldHouseSize, openOldHouse, signedIn, timed } from './scale.mjs';
import { scroll } from './sheet.mjs';
import { makeNoisyCard, openHouse } from './written.mjs';

const PASSWORD = 'hazel-and-reed';

export async function shelf(scratch) {
  const size = oldHouseSize();
  const house = await openOldHouse(join(scratch, 'old'), size);
  const server = await startServer(house.settingsFile, house.port, { TALLY_ADMIN_NAME: 'wren', TALLY_ADMIN_PASSWORD: PASSWORD });
  const rows = [];
  try {
    const base = `http://127.0.0.1:${house.port}`;
    const call = await signedIn(base);
    const began = Date.now();
    const { total } = JSON.parse(await call('/shelf?count=1'));
    rows.push({
      what: `reading the shelf of ${OLD_HOUSE.items} items once, seconds`,
      ratio: (Date.now() - began) / 1000,
      target: 30,
      seconds: '',
    });
    const middle = JSON.parse(await call(`/shelf?from=${Math.floor(total / 3)}&count=100`)).items.map(({ id }) => id);
    for (const { what, ask, target } of asks(total, middle)) rows.push(await timed(call, what, ask, target));
    const rss = Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid}/status`, 'utf8'))[1]) / 1000;
    rows.push({ what: 'memory of the server with all of it, MB', ratio: rss, target: 900, seconds: 'afterwards' });
    rows.push(await scrolled(base));
  } finally {
    await end(server);
    house.cluster.stop();
    removeCluster(join(scratch, 'old/db'));
  }
  rows.push(...(await zipped(scratch)));
  return rows;
}

/** Questions as people ask them, each round another one, so that nothing is answered from the round before. */
function asks(total, ids) {
  const words = ['heron', 'reed', 'marsh', 'tide', 'north', 'halden', 'hm_00', 'survey', 'boat', 'moth', 'eel', 'gate'];
  const word = (n) => words[n % words.length].slice(0, 3 + Math.floor(n / words.length));
  const q = (text) => encodeURIComponent(text);
  const kinds = {
    'a word': (n) => word(n),
    'two words': (n) => `${word(n)} ${word(n + 5)}`,
    'exact words': (n) => `"${['north flats', 'reeds at', 'tide survey', 'at the north'][n % 4]}" ${2004 + (n % 22)}`,
    'not a word': (n) => `-${word(n)}`,
    'a year and a kind': (n) => `${2004 + (n % 22)} raw`,
    'a contributor and a word': (n) => `by:A${(10 + n).toString(16).toUpperCase().padStart(3, '0')} ${word(n)}`,
    'what is not proven twice': (n) => `not proven twice ${2004 + (n % 22)}`,
    'selects without a word': (n) => `select -${word(n)}`,
    'terms and consent': (n) => `ask first ${2004 + (n % 22)}-0${1 + (n % 9)}`,
    'part of a name': (n) => `${String(100 + n * 37).padStart(4, '0')}`,
    'half a question': (n) => 'heron'.slice(0, 1 + (n % 5)) + ['', ' r', ' re', ' ree'][n % 4],
  };
  return [
    ...Object.entries(kinds).map(([name, text]) => ({
      what: `question, first 100: ${name}`,
      ask: (n) => `/shelf?question=${q(text(n))}&count=100`,
      target: 50,
    })),
    ...Object.entries(kinds).map(([name, text]) => ({
      what: `what it is made of: ${name}`,
      ask: (n) => `/shelf/made-of?question=${q(text(n))}`,
      target: 150,
    })),
    { what: 'what everything is made of', ask: () => '/shelf/made-of', target: 150 },
    { what: 'a page of the sheet, anywhere', ask: (n) => `/shelf?from=${(n * 7919 * 37) % total}&count=100`, target: 50 },
    {
      what: 'a page of the list by size, anywhere',
      ask: (n) => `/shelf?order=bytes&from=${(n * 7919 * 37) % total}&count=100`,
      target: 50,
    },
    { what: 'alike', ask: (n) => `/shelf/items/${ids[(n * 7) % ids.length]}/alike`, target: 100 },
    { what: 'figures by month', ask: (n) => `/figures?by=month&question=${q(word(n))}`, target: 150 },
    { what: 'figures of everything by assignment', ask: () => '/figures?by=assignment', target: 300 },
  ];
}

/** Wheels and jumps through the shelf from its newest on, while Chromium counts what its main thread does. */
async function scrolled(base) {
  const { chromium } = await import('@playwright/test');
  const browser = await chromium.launch(options);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${base}/sign-in`);
    await page.getByLabel('Name').fill('wren');
    await page.getByLabel('Password').fill(PASSWORD);
    await page.getByRole('button', { name: 'Sign in' }).click();
    await page.waitForURL('**/desk');
    await page.goto(`${base}/shelf`);
    await page.getByRole('option').nth(20).waitFor();
    const { cpu, frames, words } = await scroll(browser, page);
    return {
      ...{
        what: `tasks over 50 ms of CPU time in a hundred frames, scrolling ${OLD_HOUSE.items} items`,
        ratio: (cpu * 100) / frames,
        target: 1,
      },
      seconds: words,
    };
  } finally {
    await browser.close();
  }
}

const ZIPPED = 60;

/** A zip of originals of 10 MB against `cat` of the same through a pipe, neither kept; and what the process needs while it does. */
async function zipped(scratch) {
  const root = join(scratch, 'zipped');
  const card = join(root, 'card');
  makeNoisyCard(card, some(ZIPPED, 2));
  const cluster = await startCluster(join(root, 'db'));
  cluster.ensureDatabase('zipped');
  const filed = await openHouse(cluster.adminUrl('zipped'), join(root, 'house'), ['shared'], { photo: 'record only' }, card);
  try {
    await filed.carryOut();
    const { zipOf } = await import(join(ROOT, 'server/dist/shelf/fetching.js'));
    const { shelfNow } = await import(join(ROOT, 'server/dist/shelf/index.js'));
    const shelfOf = await shelfNow(filed.house);
    const ids = [...shelfOf.ordered()].map((slot) => shelfOf.id.at[slot]);
    const before = process.memoryUsage().rss;
    let most = before;
    const seconds = await race({
      zip: async () => {
        const watch = setInterval(() => (most = Math.max(most, process.memoryUsage().rss)), 50);
        await pipeline(zipOf(filed.house, ids, 'house'), createWriteStream('/dev/null'));
        clearInterval(watch);
      },
      cat: () => sh('find "$1" -name "*.jpg" -print0 | sort -z | xargs -0 cat | cat > /dev/null', join(root, 'house/shared')),
    });
    return [
      {
        ...{
          what: `a zip of ${ZIPPED} × 10 MB: speed ÷ cat of the same files`,
          ratio: seconds.cat / seconds.zip,
          target: 0.8,
          atLeast: true,
        },
        seconds: `${seconds.zip.toFixed(2)} s, ${seconds.cat.toFixed(2)} s, ${COLD}`,
      },
      { what: 'memory that it takes meanwhile, MB', ratio: (most - before) / 1e6, target: 100, seconds: 'most at any moment' },
    ];
  } finally {
    await filed.close();
    cluster.stop();
    removeCluster(join(root, 'db'));
  }
}
