import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { spawn } from 'node:child_process';
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { freshDatabase } from '../../server/src/testing/database.js';
import { makeCard, put, realPictures } from '../../server/src/testing/cards.js';
import { compareAll } from '../../server/src/testing/tools.js';
import { tally as runTally } from '../../server/src/tally.js';
import { ROOT, RunningServer } from '../support/running-server.js';

/* Backups as a person makes them, and everything lost but one drive and the backup: on another PostgreSQL, killed on the way. */

let house: RunningServer;
let backups: string;

interface Ran {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

async function tally(settingsFile: string, ...args: string[]): Promise<Ran> {
  let [out, err] = ['', ''];
  const terminal = { out: (text: string) => void (out += text), err: (text: string) => void (err += text) };
  const outside = { env: process.env, cwd: house.folder, signal: new AbortController().signal, terminal };
  const code = await runTally(['--settings', settingsFile, ...args], outside);
  return { code, out, err };
}
const here = (...args: string[]) => tally(house.settingsFile, ...args);

/** Settings of the same house on another machine: its drives under the same paths, a database and a data folder of their own. */
function elsewhere(name: string, adminUrl: string, appUrl: string, change: object = {}): string {
  const settings = JSON.parse(readFileSync(house.settingsFile, 'utf8')) as object;
  const file = house.path(`${name}.json`);
  writeFileSync(
    file,
    JSON.stringify({ ...settings, databaseUrl: appUrl, databaseAdminUrl: adminUrl, dataDir: `data-${name}`, ...change }),
  );
  return file;
}

async function file(card: string, seed: number): Promise<void> {
  await realPictures(house.path(card), 2);
  await makeCard(
    house.path(card),
    { [`DCIM/100REAL/N${seed}.DNG`]: 3000 + seed, [`DCIM/100REAL/N${seed}.WAV`]: 900 + seed },
    seed,
  );
  expect(await here('file', house.path(card), '--contributor', 'IB', '--assignment', 'reed-planting')).toMatchObject({ code: 0 });
}

const newest = () => join(backups, readdirSync(backups).sort().at(-1)!);
/** Where each item of an intake stands, by its path on the card, as the logbook has it. */
async function filed(url: string): Promise<Map<string, string>> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    const { rows } = await client.query<{ number: string; path: string; at: string }>(
      `select n.number, i.path, f.folder || '/' || f.name as at from filed_item f join item i on i.id = f.item_id join intake n on n.id = i.intake_id`,
    );
    return new Map(rows.map(({ number, path, at }) => [`${number} ${path}`, at]));
  } finally {
    await client.end();
  }
}

beforeAll(async () => {
  house = await RunningServer.prepare();
  backups = house.path('backups');
  mkdirSync(backups);
  const assignment = { title: 'Reed planting', slug: 'reed-planting', from: '2026-04-18', to: '2026-04-18' };
  const story = { people: [], cameras: [], intakes: [], contributors: [{ name: 'Ines Barrow', code: 'IB' }] };
  await put(house.path('story.json'), JSON.stringify({ ...story, assignments: [{ assignment, expected: [] }] }));
  expect((await here('replay', house.path('story.json'))).code).toBe(0);
  await file('card-1', 1);
}, 120_000);
afterAll(() => house.stop());

describe('tally backup', () => {
  it('makes one where it is told to, and tries it', async () => {
    const { code, out, err } = await here('backup', '--to', backups, '--drill');
    expect([code, err]).toEqual([0, '']);
    expect(out).toMatch(
      /backups: .*\/backups\/\d{4}-\d\d-\d\d_\d{6}_[0-9a-f]{11} \(.*\), read back\nThe drill went well: \d+ tables/,
    );
    expect((await here('audit', '--kind', 'backup')).out).toMatch(/The house was backed up to .*backups/);
  });

  it('says where it could not, and ends with 1', async () => {
    const { code, out } = await here('backup', '--to', house.path('nowhere'), backups);
    expect(code).toBe(1);
    expect(out).toMatch(/nowhere is not there\n.*backups: .*read back/);
  });
});

describe('tally bring-back', () => {
  it('into a house that is not empty, or out of what is no backup, is wrong use, in words', async () => {
    expect(await here('bring-back', newest(), '--sure')).toMatchObject({
      code: 2,
      err: expect.stringMatching(/is not empty \(1 intakes/) as unknown,
    });
    expect(await here('bring-back', house.path('card-1'))).toMatchObject({
      code: 2,
      err: expect.stringMatching(/this is no backup/) as unknown,
    });
  });

  it('killed again and again it begins again, and ends as if it had not been', async () => {
    const database = await freshDatabase();
    const settings = elsewhere('killed', database.adminUrl, database.appUrl);
    try {
      // From before it reads anything to the middle of the database.
      for (const afterMs of [300, 700, 1_000, 1_300]) {
        const ran = await killedAfter(settings, afterMs);
        if (ran !== null) break;
        expect((await filed(database.adminUrl).catch(() => new Map())).size % 4).toBe(0);
      }
      const last = await tally(settings, 'bring-back', newest(), '--sure');
      // It had come to its end before, or does now.
      expect(last.code === 0 || last.err.includes('is not empty')).toBe(true);
      expect(await filed(database.adminUrl)).toEqual(await filed(house.database.adminUrl));
      expect((await tally(settings, 'log', '--verify')).code).toBe(0);
    } finally {
      await database.drop();
    }
  }, 120_000);

  it('everything lost but the shared drive and the backup: on another PostgreSQL it is the same house, and goes on', async () => {
    expect((await here('backup', '--to', backups)).code).toBe(0);
    const before = await filed(house.database.adminUrl);
    await file('card-2', 2);
    const { startCluster, removeCluster } = (await import(join(ROOT, 'tools/parts/cluster.mjs'))) as {
      startCluster: (folder: string, options: object) => Promise<Cluster>;
      removeCluster: (folder: string) => void;
    };
    const folder = await mkdtemp(join(tmpdir(), 'tally-another-'));
    const cluster = await startCluster(folder, { testing: true });
    try {
      cluster.ensureDatabase('tally');
      const drive = house.path('another-machine/shared');
      cpSync(house.path('shared'), drive, { recursive: true, preserveTimestamps: true });
      mkdirSync(house.path('another-machine/second'));
      const places = [
        { id: 'shared', name: 'Shared drive', kind: 'shared drive', root: drive },
        { id: 'second', name: 'Second copy', kind: 'second copy', root: house.path('another-machine/second') },
      ];
      const settings = elsewhere('another', cluster.adminUrl('tally'), cluster.appUrl('tally'), { places });
      const looked = await tally(settings, 'bring-back', newest());
      expect(looked).toMatchObject({
        code: 1,
        out: expect.stringMatching(/1 intakes, 4 filed items.*It is whole\.\nNothing was done/) as unknown,
      });
      const back = await tally(settings, 'bring-back', newest(), '--sure');
      // The card that was filed since stands there with its records, and is taken in again.
      expect([back.code, back.err]).toEqual([0, '']);
      expect(back.out).toContain('1 intake with 2 files is in the log again.');
      expect(await filed(cluster.adminUrl('tally'))).toEqual(await filed(house.database.adminUrl));
      // Transactions of this PostgreSQL are numbered anew: the log goes on all the same.
      for (let tries = 0; tries < 3; tries++) expect((await tally(settings, 'log', '--verify')).code).toBe(0);
      expect((await tally(settings, 'log', '--verify')).out).toMatch(/the house went on in another database/);
      // What it knows stands where it says; what came out of the drive is what was on the card.
      const pairs = [...before].map(([item, at]) => ({ at, from: house.path('card-1', item.slice(item.indexOf(' ') + 1)) }));
      for (const [n, { at }] of pairs.entries())
        expect((await tally(settings, 'original', join(drive, at), '--to', house.path(`out-${n}`))).code).toBe(0);
      compareAll(pairs.map(({ from }, n) => [from, house.path(`out-${n}`)]));
      // The next card draws a number above both.
      await realPictures(house.path('card-3'), 1);
      await makeCard(house.path('card-3'), { 'DCIM/100REAL/N3.DNG': 3333 }, 3);
      await tally(settings, 'drive', 'known', 'second');
      const next = await tally(settings, 'file', house.path('card-3'), '--contributor', 'IB', '--assignment', 'reed-planting');
      expect([next.code, next.err]).toEqual([0, '']);
      const numbers = new Set([...(await filed(cluster.adminUrl('tally'))).keys()].map((item) => item.slice(5, 9)));
      expect([...numbers].sort()).toEqual(['0001', '0002', '0003']);
    } finally {
      cluster.stop();
      removeCluster(folder);
      rmSync(folder, { recursive: true, force: true });
    }
  }, 180_000);
});

describe('tally rebuild', () => {
  it('everything lost but the drives: the same items stand at the same paths; said before, refused where the house holds anything', async () => {
    const fresh = await freshDatabase();
    try {
      const settings = elsewhere('rebuilt', fresh.adminUrl, fresh.appUrl);
      const dry = await tally(settings, 'rebuild', 'shared', 'second', '--dry');
      expect(dry).toMatchObject({ code: 0, err: '' });
      expect(dry.out).toMatch(/: 2 intakes, the last 2\d{3}-0002; with its lists of people, assignments and words\./);
      const done = await tally(settings, 'rebuild', 'shared', 'second', '--json');
      expect(done).toMatchObject({ code: 0, err: '' });
      expect(JSON.parse(done.out)).toEqual({ intakes: 2, items: 6, out: 0, missing: 0, refused: [], differences: [] });
      expect(await filed(fresh.adminUrl)).toEqual(await filed(house.database.adminUrl));
      const again = await tally(settings, 'rebuild', 'shared');
      expect([again.code, again.out]).toEqual([1, '']);
      expect(again.err).toContain('This house is not empty: it has intakes, contributors or assignments');
      expect(await tally(settings, 'rebuild', 'nowhere')).toMatchObject({ code: 1, out: '' });
    } finally {
      await fresh.drop();
    }
  }, 120_000);
});

interface Cluster {
  adminUrl(name: string): string;
  appUrl(name: string): string;
  ensureDatabase(name: string): void;
  stop(): void;
}

/** @returns its code where it had ended by then; null: it was killed */
function killedAfter(settings: string, afterMs: number): Promise<number | null> {
  return new Promise((resolve) => {
    const args = [join(ROOT, 'server/bin/tally.mjs'), '--settings', settings, 'bring-back', newest(), '--sure'];
    const child = spawn(process.execPath, args, { env: { ...process.env, NODE_OPTIONS: '' }, stdio: 'ignore' });
    const kill = setTimeout(() => child.kill('SIGKILL'), afterMs);
    child.once('close', (code) => {
      clearTimeout(kill);
      resolve(code);
    });
  });
}
