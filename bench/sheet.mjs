// A card of thousands in the browser: how soon its pictures are there, and whether its sheet scrolls without long tasks,
// by Chromium's own trace. Also the sheet's previews against libvips' own tool, and hashing in the browser against the server's.
import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, renameSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { join } from 'node:path';
import options from '../tools/parts/chromium.json' with { type: 'json' };
import { removeCluster } from '../tools/parts/cluster.mjs';
import { openDemoHouse } from '../tools/parts/demo-house.mjs';
import { ROOT } from '../tools/parts/ready.mjs';
import { end, has } from '../tools/parts/run.mjs';
import { startServer } from '../tools/parts/serve.mjs';
import { COLD, median, often, quiet, race, some } from './measure.mjs';

const LONG_TASK_MS = 50;

const ITEMS = 10_000;
/** Pictures of which previews are made. */
const LARGE = 12;

export async function sheet(scratch) {
  const count = some(ITEMS);
  const { chromium } = await import('@playwright/test');
  const data = join(scratch, 'house');
  const house = await openDemoHouse(data, { frozen: true, testing: true, cards: [], past: 2 });
  const server = await startServer(house.settingsFile, house.settings.port);
  const browser = await chromium.launch(options);
  try {
    const card = makeCard(join(scratch, 'BIG'), join(house.reader, 'box/HALDEN_M4/DCIM/100HALDN'), count);
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const base = `http://127.0.0.1:${house.settings.port}`;
    const first = await firstPage(page, `${base}/sign-in`);
    await page.getByLabel('Name').fill('wren');
    await page.getByLabel('Password').fill('hazel-and-reed');
    await page.getByRole('button', { name: 'Sign in' }).click();
    await page.getByText('Still expected').waitFor();
    let planned = 0;
    page.on('request', (request) => (planned += request.url().endsWith('/plan') ? 1 : 0));
    const began = Date.now();
    renameSync(card, join(house.reader, 'reader/BIG'));
    await page.getByRole('link').filter({ hasText: 'BIG' }).first().click({ timeout: 60_000 });
    const onDesk = Date.now() - began;
    await page.locator('ts-tile img.there').nth(20).waitFor({ timeout: 60_000 });
    const firstPictures = Date.now() - began;
    await page.waitForFunction(
      (n) => fetch('/api/intakes?limit=1').then(async (r) => (await r.json()).intakes[0].read >= n),
      count,
      { timeout: 300_000, polling: 500 },
    );
    const allRead = Date.now() - began;
    const plansWhileReading = planned;
    const id = Number(new URL(page.url()).pathname.split('/').at(-1));
    // What is made ahead goes on for minutes: what follows is measured beside it, as a person meets it.
    await page.waitForTimeout(quiet(4_000));
    const asked = await answers(page, id);
    const takes = await takeOne(page);
    const all = await takeAll(page);
    const memory = { page: await heapOf(page), server: rssOf(server.pid) };
    const scrolled = await scroll(browser, page);
    const keys = await stepThrough(page);
    return [
      row('the first page, kB transferred', first.bytes / 1000, 200, `${first.requests} requests`),
      row('the first page can be used after, seconds', first.ms / 1000, 1.5, ''),
      row(`desk shows a card of ${ITEMS} after it is put in, seconds`, onDesk / 1000, 1.5, `${onDesk} ms`),
      row(
        `pictures of a card of ${ITEMS} on its sheet after it is put in, seconds`,
        firstPictures / 1000,
        2,
        `${firstPictures} ms`,
      ),
      row(`all of a card of ${ITEMS} is read, seconds`, allRead / 1000, 25, `${plansWhileReading} plans asked for meanwhile`),
      row(`its items are answered, ms`, asked.items.ms, 900, `${asked.items.kB} kB`),
      row(`its plan is answered, ms`, asked.plan.ms, 600, `${asked.plan.kB} kB`),
      row(`a take on a card of ${ITEMS} is on screen, ms`, takes.onScreen, 50, takes.words),
      row(`a take on a card of ${ITEMS} is answered, ms`, takes.answered, 150, takes.answers),
      row(`leave all and take all of ${ITEMS} are answered, ms: the slower`, all.answered, 500, all.words),
      row('memory of its page, MB', memory.page / 1e6, 150, ''),
      row('memory of the server, MB', memory.server / 1e6, 400, ''),
      row(`tasks over ${LONG_TASK_MS} ms while its sheet is scrolled through`, scrolled.long, 0, scrolled.words),
      row('a picture that was fetched ahead: frames from key to screen', keys.frames, 1, keys.words),
      ...(await previewsAgainstVips(scratch, join(house.reader, 'box/HALDEN_M4/DCIM/100HALDN'))),
      await hashing(scratch, browser),
    ];
  } finally {
    await browser.close();
    await end(server);
    house.cluster.stop();
    removeCluster(join(data, 'db'));
  }
}

const row = (what, ratio, target, seconds) => ({ what, ratio, target, seconds });

/** What the first page that a browser opens carries, compressed as it comes, and when it can be typed into. */
async function firstPage(page, url) {
  const session = await page.context().newCDPSession(page);
  await session.send('Network.enable');
  let [bytes, requests] = [0, 0];
  session.on('Network.loadingFinished', ({ encodedDataLength }) => {
    bytes += encodedDataLength;
    requests++;
  });
  const began = Date.now();
  await page.goto(url);
  await page.getByLabel('Name').click();
  const ms = Date.now() - began;
  await page.waitForTimeout(quiet(2_000));
  await session.detach();
  return { bytes, requests, ms };
}

/** How long its items and its plan take, and how much comes, to somebody who is signed in. */
function answers(page, id) {
  return page.evaluate(async (intake) => {
    const timed = async (path) => {
      const began = performance.now();
      const text = await (await fetch(path)).text();
      return { ms: Math.round(performance.now() - began), kB: Math.round(text.length / 1000) };
    };
    return { items: await timed(`/api/intakes/${intake}/items`), plan: await timed(`/api/intakes/${intake}/plan`) };
  }, id);
}

/** Takes and leaves the tile one is at, by its key: from the key until the tile shows it, and until the server answered. */
async function takeOne(page) {
  await page.getByRole('listbox').focus();
  await page.keyboard.press('Home');
  const [shown, answered] = [[], []];
  for (let i = 0; i < often(9, 3); i++) {
    const answer = page.waitForResponse((response) => response.url().endsWith('/taken'));
    const began = Date.now();
    const ms = await page.evaluate(async () => {
      const tile = document.querySelector('ts-tile.focus');
      const before = tile.getAttribute('aria-selected');
      const from = performance.now();
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: ' ', code: 'Space', bubbles: true }));
      while (document.querySelector('ts-tile.focus')?.getAttribute('aria-selected') === before) {
        if (performance.now() - from > 10_000) throw new Error('Nothing was taken.');
        await new Promise((resolve) => requestAnimationFrame(resolve));
      }
      return performance.now() - from;
    });
    shown.push(ms);
    const timing = (await answer).request().timing();
    answered.push(timing.responseEnd > 0 ? timing.responseEnd : Date.now() - began);
    await page.waitForTimeout(quiet(1_500));
  }
  const sorted = (all) => [...all].sort((a, b) => a - b);
  const words = (all) =>
    sorted(all)
      .map((one) => one.toFixed(0))
      .join(' ');
  return {
    ...{ onScreen: median(shown), answered: median(answered) },
    ...{ words: words(shown), answers: words(answered) },
  };
}

/** Leaves everything on the card, and takes it again: how long the server takes. */
async function takeAll(page) {
  const ms = await page.evaluate(async () => {
    const id = Number(location.pathname.split('/').at(-1));
    const { items } = await (await fetch(`/api/intakes/${id}/items`)).json();
    const itemIds = items.filter(({ setAside }) => setAside === null).map((item) => item.id);
    const times = [];
    for (const taken of [false, true]) {
      const began = performance.now();
      const answer = await fetch(`/api/intakes/${id}/taken`, {
        ...{ method: 'PATCH', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ itemIds, taken }) },
      });
      if (!answer.ok) throw new Error(await answer.text());
      times.push(performance.now() - began);
    }
    return times;
  });
  return { answered: Math.max(...ms), words: `leave all ${ms[0].toFixed(0)} ms, take all ${ms[1].toFixed(0)} ms` };
}

async function heapOf(page) {
  const session = await page.context().newCDPSession(page);
  await session.send('HeapProfiler.collectGarbage');
  const { usedSize } = await session.send('Runtime.getHeapUsage');
  return usedSize;
}

const rssOf = (pid) => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))[1]) * 1024;

/** A card of copies of the demo's pictures, each with its own bytes and a time of its own over two days. */
export function makeCard(folder, from, count) {
  const samples = readdirSync(from).map((name) => readFileSync(join(from, name)));
  mkdirSync(join(folder, 'DCIM'), { recursive: true });
  for (let i = 0; i < count; i++) {
    const inside = join(folder, 'DCIM', `${100 + Math.floor(i / 999)}BIGCD`);
    if (i % 999 === 0) mkdirSync(inside, { recursive: true });
    const picture = Buffer.concat([samples[i % samples.length], Buffer.from(`#${i}`)]);
    const at = new Date(Date.parse('2026-04-18T07:00:00Z') + i * 9_000 + Math.floor(i / 60) * 600_000);
    const text = at.toISOString().slice(0, 19).replaceAll('-', ':').replace('T', ' ');
    for (let where = picture.indexOf('2026:'); where > 0 && where < 65_536; where = picture.indexOf('2026:', where + 19))
      picture.write(text, where, 'latin1');
    const file = join(inside, `BIG_${String((i % 9999) + 1).padStart(4, '0')}.JPG`);
    writeFileSync(file, picture);
    utimesSync(file, at, at);
  }
  return folder;
}

/** Wheels through the whole sheet and jumps about in it, while Chromium traces its main thread. */
export async function scroll(browser, page) {
  await browser.startTracing(page, { categories: ['devtools.timeline', 'toplevel'] });
  const [wheels, jumps] = [often(240, 24), often(120, 12)];
  await page.evaluate(
    async ([down, about]) => {
      const box = document.querySelector('ts-sheet .scroll');
      const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
      const whole = box.scrollHeight - box.clientHeight;
      for (let i = 0; i < down; i++) {
        box.scrollTop += 160;
        await frame();
      }
      for (let i = 0; i <= about; i++) {
        box.scrollTop = (whole * i) / about;
        await frame();
      }
    },
    [wheels, jumps],
  );
  const trace = JSON.parse((await browser.stopTracing()).toString());
  const main = trace.traceEvents.find((event) => event.name === 'thread_name' && event.args.name === 'CrRendererMain');
  const tasks = trace.traceEvents.filter(
    (event) => event.name.endsWith('RunTask') && event.tid === main.tid && event.pid === main.pid && event.dur,
  );
  // By the clock, and by what the thread itself worked: others work on this machine, too.
  const cpu = tasks.filter((event) => (event.tdur ?? 0) / 1000 > LONG_TASK_MS).length;
  const ms = tasks.map((event) => event.dur / 1000).sort((a, b) => b - a);
  const long = ms.filter((one) => one > LONG_TASK_MS).length;
  const frames = wheels + jumps + 1;
  return {
    long,
    cpu,
    frames,
    words: `${frames} frames, longest task ${ms[0]?.toFixed(0)} ms, ${long} over ${LONG_TASK_MS} ms, ${cpu} by CPU time`,
  };
}

/** Looks closer and steps on: how long from a key until the next picture, fetched ahead, is complete on screen. */
export async function stepThrough(page) {
  await page.keyboard.press('Home');
  await page.locator('ts-sheet .scroll').evaluate((box) => (box.scrollTop = 0));
  await page.getByRole('listbox').focus();
  await page.keyboard.press('Enter');
  const picture = page.locator('ts-pane img').first();
  await picture.waitFor();
  const times = [];
  for (let i = 0; i < often(12, 2); i++) {
    await page.waitForTimeout(quiet(900));
    const ms = await page.evaluate(async () => {
      const before = document.querySelector('ts-pane img').src;
      const began = performance.now();
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', bubbles: true }));
      for (;;) {
        const image = document.querySelector('ts-pane img');
        if (image && image.src !== before && image.complete && image.naturalWidth) break;
        await new Promise((resolve) => requestAnimationFrame(resolve));
      }
      return performance.now() - began;
    });
    times.push(ms);
  }
  await page.keyboard.press('Escape');
  const middle = times.sort((a, b) => a - b)[times.length >> 1];
  return { frames: Math.round(middle / 16.7), words: `median ${middle.toFixed(0)} ms, slowest ${times.at(-1).toFixed(0)} ms` };
}

/** 256 MB hashed by the page's library, from a file as a browser has it, and by the server. */
async function hashing(scratch, browser) {
  const bytes = some(256) << 20;
  const file = join(scratch, 'hash.bin');
  writeFileSync(file, Buffer.alloc(bytes, 7));
  const { hashFile } = await import(join(ROOT, 'server/dist/drive/hashing.js'));
  const page = await browser.newPage();
  await page.addScriptTag({ path: join(ROOT, 'node_modules/hash-wasm/dist/xxhash128.umd.min.js') });
  await page.setContent('<input type="file">');
  await page.locator('input').setInputFiles(file);
  const inBrowser = () =>
    page.evaluate(async () => {
      const chosen = document.querySelector('input').files[0];
      const hasher = await globalThis.hashwasm.createXXHash128();
      hasher.init();
      for (let at = 0; at < chosen.size; at += 4 << 20)
        hasher.update(new Uint8Array(await chosen.slice(at, at + (4 << 20)).arrayBuffer()));
      return hasher.digest('hex');
    });
  const times = await race({ inBrowser, server: () => hashFile(file) }, { cold: false });
  await page.close();
  const rate = (seconds) => `${(bytes / 1e6 / seconds).toFixed(0)} MB/s`;
  return row(
    'hashing 256 MB in the browser ÷ in the server',
    times.inBrowser / times.server,
    3,
    `${rate(times.inBrowser)} / ${rate(times.server)} warm`,
  );
}

/** Both sizes from one decoding, as many lanes as cores, against libvips' own tool making the larger size only. */
export async function previewsAgainstVips(scratch, from) {
  const what = 'previews of 24 MP in both sizes, with sharpness and likeness: two vipsthumbnail 1280 alone ÷ ours, at least';
  // A row that is not there says nothing: this one says why.
  if (!has('vipsthumbnail'))
    return [{ what, ratio: 0, target: 0.9, atLeast: true, seconds: 'not measured: there is no vipsthumbnail (libvips-tools)' }];
  const { Previews } = await import(join(ROOT, 'server/dist/media/previews.js'));
  const big = join(scratch, 'large');
  mkdirSync(big, { recursive: true });
  const { default: sharp } = await import('sharp');
  const names = readdirSync(from).slice(0, some(LARGE, 2));
  for (const name of names)
    await sharp(join(from, name)).resize(6000, 4000, { fit: 'fill' }).jpeg({ quality: 92 }).toFile(join(big, name));
  let round = 0;
  const ours = async () => {
    const previews = new Previews(join(scratch, `previews-${round++}`), null);
    const made = names.map((name, i) =>
      previews.made(
        { itemId: i + 1, intakeId: 1, keptIn: '1', path: Buffer.from(join(big, name)), kind: 'photo', orientation: 1 },
        'closer',
      ),
    );
    await Promise.all(made);
    await previews.close();
  };
  const vips = () => {
    const out = join(scratch, 'vips');
    rmSync(out, { recursive: true, force: true });
    mkdirSync(out);
    execFileSync('sh', ['-c', `ls "$1"/* | xargs -P ${cpus().length} -n 3 vipsthumbnail -s 1280 -o "$2/%s.jpg"`, 'sh', big, out]);
  };
  const times = await race({ ours, vips });
  return [
    {
      what,
      ratio: times.vips / times.ours,
      target: 0.9,
      atLeast: true,
      seconds: `${(names.length / times.ours).toFixed(1)}/s ours, ${(names.length / times.vips).toFixed(1)}/s vips ${COLD}`,
    },
  ];
}
