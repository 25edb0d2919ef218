// The house at its size: every route on the old house, p50 and p95 in milliseconds against its target; what the server asks of
// the database while nobody does anything; and what of the already filed is recognised while an off-site place lags behind.
import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { freePort, removeCluster, startCluster } from '../tools/parts/cluster.mjs';
import { drawnOnce } from '../tools/parts/demo-house.mjs';
import { ROOT } from '../tools/parts/ready.mjs';
import { end } from '../tools/parts/run.mjs';
import { startServer } from '../tools/parts/serve.mjs';
import { makeOldHouse, OLD_HOUSE, OLD_HOUSE_NOW } from './old-house/made.mjs';
import { often, quiet, SHARE, some } from './measure.mjs';
import { makeCard } from './sheet.mjs';

const PASSWORD = 'hazel-and-reed';
const PLACES = [
  { id: 'shared', name: 'Shared drive', kind: 'shared drive', root: 'shared-drive' },
  { id: 'second', name: 'Second copy', kind: 'second copy', root: 'second-copy' },
  { id: 'offsite', name: 'Off-site copy', kind: 'off-site copy', root: 'off-site' },
];

export async function scale(scratch) {
  const size = oldHouseSize();
  const house = await openOldHouse(join(scratch, 'old'), size);
  const server = await startServer(house.settingsFile, house.port, { TALLY_ADMIN_NAME: 'wren', TALLY_ADMIN_PASSWORD: PASSWORD });
  try {
    const call = await signedIn(`http://127.0.0.1:${house.port}`);
    const rows = [{ what: `making ${OLD_HOUSE.items} items, seconds`, ratio: house.seconds, target: 180 * SHARE, seconds: '' }];
    rows.push(await idle(house));
    for (const { what, ask, target } of asks(size)) rows.push(await timed(call, what, ask, target));
    const intakeId = await putIn(house, call, scratch);
    rows.push(await timed(call, 'plan of a card of 1,000', () => `/intakes/${intakeId}/plan`, 150));
    rows.push(await timed(call, 'material of the rules, with a card of 1,000', () => '/rules/material', 100));
    rows.push(await begin(call, intakeId));
    rows.push(...(await alreadyFiled(house)));
    return rows;
  } finally {
    await end(server);
    house.cluster.stop();
    removeCluster(join(scratch, 'old/db'));
  }
}

/** How large the old house is at this share: as many years, with less in them. */
export const oldHouseSize = () =>
  Object.fromEntries(Object.entries(OLD_HOUSE).map(([what, count]) => [what, what === 'years' ? count : some(count, 10)]));

/** A migrated database with the old house in it, and the settings of a server that goes with it. */
export async function openOldHouse(folder, size) {
  for (const { root } of PLACES) mkdirSync(join(folder, root), { recursive: true });
  mkdirSync(join(folder, 'cards/reader'), { recursive: true });
  const cluster = await startCluster(join(folder, 'db'), { fills: true });
  cluster.ensureDatabase('tally');
  const port = await freePort();
  const settings = {
    ...{
      databaseUrl: cluster.appUrl('tally'),
      backup: 'by hand',
      databaseAdminUrl: cluster.adminUrl('tally'),
      port,
      dataDir: 'server',
      systemDisk: 'knowingly',
      places: PLACES,
    },
    ...{
      house: 'Ostrel Bay Tidelands Trust',
      zone: 'Europe/London',
      station: 'Station 2, Boathouse',
      readers: ['cards/reader/*'],
    },
    // Nobody looks at pictures: what is measured has the machine to itself.
    ...{ previews: { build: 'when looked at' } },
    ...{ log: 'error', clock: { startsAt: OLD_HOUSE_NOW, setAt: new Date().toISOString(), frozen: false } },
  };
  const settingsFile = join(folder, 'tally.json');
  writeFileSync(settingsFile, JSON.stringify(settings));
  const { compose } = await import(join(ROOT, 'server/dist/composition.js'));
  const { readSettings } = await import(join(ROOT, 'server/dist/settings.js'));
  await (await compose(readSettings({ TALLY_SETTINGS: settingsFile }, folder).settings)).close();
  const client = new pg.Client({ connectionString: settings.databaseAdminUrl });
  await client.connect();
  const began = Date.now();
  await makeOldHouse(
    client,
    PLACES.map(({ id }) => id),
    size,
  );
  const seconds = (Date.now() - began) / 1000;
  // The places are known and bear their marks; their files are not there.
  const { rows: marks } = await client.query('select id, mark from place');
  for (const { id, mark } of marks)
    writeFileSync(join(folder, PLACES.find((place) => place.id === id).root, '.tally-place.json'), JSON.stringify({ mark }));
  await client.end();
  return { cluster, settings, settingsFile, port, folder, seconds };
}

/** @returns a function that asks a route as somebody who is signed in. */
export async function signedIn(base) {
  const headers = { 'content-type': 'application/json' };
  const answer = await fetch(`${base}/api/session`, {
    ...{ method: 'POST', headers, body: JSON.stringify({ name: 'wren', password: PASSWORD }) },
  });
  if (!answer.ok) throw new Error(await answer.text());
  const cookie = answer.headers.getSetCookie()[0].split(';')[0];
  return async (path, method = 'GET', body = undefined) => {
    const said = await fetch(`${base}/api${path}`, {
      method,
      headers: { ...headers, cookie },
      body: body && JSON.stringify(body),
    });
    const text = await said.text();
    if (!said.ok) throw new Error(`${method} ${path}: ${said.status} ${text.slice(0, 300)}`);
    return text;
  };
}

/** A card of a thousand small pictures in the reader: its intake is what is planned and filed. */
async function putIn(house, call, scratch) {
  const card = makeCard(join(scratch, 'CARD'), join(drawnOnce(), 'box/HALDEN_M4/DCIM/100HALDN'), some(1000));
  renameSync(card, join(house.folder, 'cards/reader/CARD'));
  for (let tries = 0; tries < 1200; tries++) {
    const intake = JSON.parse(await call('/desk')).in.find((one) => one.card.volume === 'CARD');
    if (intake?.readThrough) {
      await call(`/intakes/${intake.id}/slip`, 'PATCH', { contributorId: 1, assignmentId: 1 });
      return intake.id;
    }
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error('The card was not read.');
}

/** Every page's routes, with the target of their p95 in milliseconds. */
function asks(size) {
  const middle = Math.round(size.intakes / 2);
  const orders = ['received', 'contributor', 'assignment', 'card', 'items', 'bytes', 'state'].flatMap((order) =>
    [true, false].map((descending) => ({
      what: `intakes by ${order}, ${descending ? 'down' : 'up'}`,
      ask: () => `/intakes?order=${order}&descending=${descending}`,
      target: 50,
    })),
  );
  return [
    { what: 'desk', ask: () => '/desk', target: 50 },
    { what: 'places', ask: () => '/places', target: 50 },
    { what: 'assignments, a page', ask: () => '/assignments', target: 50 },
    { what: 'contributors', ask: () => '/contributors', target: 50 },
    { what: 'a contributor', ask: (n) => `/contributors/${1 + (n % size.contributors)}`, target: 50 },
    { what: 'an assignment', ask: (n) => `/assignments/${1 + ((n * 37) % size.assignments)}`, target: 50 },
    { what: 'rules', ask: () => '/rules', target: 50 },
    { what: 'material of the rules, with an ordinary card', ask: () => '/rules/material', target: 100 },
    ...orders,
    { what: 'intakes, from the middle', ask: () => `/intakes?offset=${middle}`, target: 50 },
    { what: 'intakes, a word', ask: () => '/intakes?words=heron', target: 50 },
    { what: 'intakes, three words', ask: () => '/intakes?words=reed%20halden%20marsh', target: 50 },
    { what: 'intakes, part of a number', ask: (n) => `/intakes?words=C-0${100 + n}`, target: 50 },
    {
      what: 'intakes of a contributor',
      ask: (n) => `/intakes?contributor=A${(10 + n).toString(16).toUpperCase().padStart(3, '0')}`,
      target: 50,
    },
    { what: 'intakes for an assignment', ask: (n) => `/intakes?assignment=tide-survey-${1 + 8 * n}`, target: 50 },
    { what: 'intakes in a state', ask: () => '/intakes?state=tallied', target: 50 },
    { what: 'intakes of a year', ask: (n) => `/intakes?from=${2005 + (n % 20)}-01-01&to=${2005 + (n % 20)}-12-31`, target: 50 },
    { what: 'calendar of the logbook', ask: () => '/intakes/calendar', target: 100 },
    { what: 'export of all', ask: () => '/intakes/export.csv', target: 1000 },
    { what: 'an intake', ask: (n) => `/intakes/${1 + ((n * 101) % size.intakes)}`, target: 50 },
    { what: 'items of an intake', ask: (n) => `/intakes/${1 + ((n * 101) % size.intakes)}/items`, target: 150 },
    { what: 'credit of an intake', ask: (n) => `/intakes/${1 + ((n * 101) % size.intakes)}/credit`, target: 50 },
    { what: 'copies of an intake', ask: (n) => `/intakes/${1 + ((n * 101) % size.intakes)}/copies`, target: 150 },
    { what: 'events of an intake', ask: (n) => `/intakes/${1 + ((n * 101) % size.intakes)}/events`, target: 50 },
    { what: 'words, as they are typed', ask: () => '/words?typed=he', target: 50 },
    { what: 'words of the house, a page', ask: () => '/words/list', target: 50 },
    { what: 'choices of who hands in', ask: () => '/hand-in/choices', target: 50 },
    { what: 'pictured people', ask: () => '/lists/pictured', target: 50 },
    { what: 'things', ask: () => '/things', target: 50 },
    { what: 'next label', ask: () => '/labels/next', target: 50 },
  ];
}

export async function timed(call, what, ask, target, rounds = often(30, 2)) {
  for (let n = 0; n < often(2, 1); n++) await call(ask(n));
  const all = [];
  let bytes = 0;
  const until = Date.now() + 6000;
  for (let n = 0; n < rounds && (n < 5 || Date.now() < until); n++) {
    const began = process.hrtime.bigint();
    bytes = (await call(ask(n))).length;
    all.push(Number(process.hrtime.bigint() - began) / 1e6);
  }
  return row(what, all, target, `, ${(bytes / 1000).toFixed(0)} kB`);
}

function row(what, all, target, more = '') {
  const sorted = [...all].sort((a, b) => a - b);
  const [p50, p95] = [0.5, 0.95].map((share) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))]);
  return {
    what: `${what}: p95 in ms`,
    ratio: p95,
    target,
    seconds: `p50 ${p50.toFixed(1)}, slowest ${sorted.at(-1).toFixed(0)}${more}`,
  };
}

/** Beginning to file, refused at the end (the seal is another): all of it but keeping it. */
async function begin(call, intakeId) {
  const all = [];
  for (let n = 0; n < often(10, 2); n++) {
    const began = process.hrtime.bigint();
    await call(`/intakes/${intakeId}/file`, 'POST', { seal: 'another' }).catch((error) => {
      if (!String(error).includes('409')) throw error;
    });
    all.push(Number(process.hrtime.bigint() - began) / 1e6);
  }
  return row('begin to file a card of 1,000 (refused by its seal)', all, 250);
}

/** Queries a second while nobody does anything: the server's own count of transactions, without ours. */
async function idle(house) {
  const client = new pg.Client({ connectionString: house.settings.databaseAdminUrl });
  await client.connect();
  const done = async () =>
    Number(
      (await client.query(`select xact_commit + xact_rollback as n from pg_stat_database where datname = 'tally'`)).rows[0].n,
    );
  const ms = often(20_000, 1_000);
  await new Promise((resolve) => setTimeout(resolve, quiet(5_000)));
  const before = await done();
  await new Promise((resolve) => setTimeout(resolve, ms));
  const each = (await done()) - before - 1;
  await client.end();
  return { what: 'idle: queries a second', ratio: (each * 1000) / ms, target: 5, seconds: `${each} in ${ms / 1000} s` };
}

const WAITING = 20_000;

/** Items of an intake that were filed before, while many copies wait to go off-site. */
async function alreadyFiled(house) {
  const client = new pg.Client({ connectionString: house.settings.databaseAdminUrl });
  await client.connect();
  const { compose } = await import(join(ROOT, 'server/dist/composition.js'));
  const { readSettings } = await import(join(ROOT, 'server/dist/settings.js'));
  const { filedByIdentity } = await import(join(ROOT, 'server/dist/seeing/index.js'));
  const { house: own, close } = await compose(readSettings({ TALLY_SETTINGS: house.settingsFile }, house.folder).settings);
  const rows = [];
  for (const waiting of [0, WAITING]) {
    await client.query(
      `update copy set state = 'waiting' where place_id = 'offsite' and filed_item_id in (select id from filed_item order by id limit $1)`,
      [waiting && some(waiting)],
    );
    const all = [];
    for (let n = 0; n < often(10, 2); n++) {
      const { rows: filed } = await client.query(
        `select bytes, quick_hash as "quickHash" from filed_item where id > $1 order by id limit 1000`,
        [n * 1500],
      );
      const began = process.hrtime.bigint();
      await filedByIdentity(
        own.db,
        filed.map((one) => ({ ...one, bytes: Number(one.bytes) })),
      );
      all.push(Number(process.hrtime.bigint() - began) / 1e6);
    }
    rows.push(row(`already filed? 1,000 items, ${waiting} copies waiting off-site`, all, 100));
  }
  await client.end();
  await close();
  return rows;
}
