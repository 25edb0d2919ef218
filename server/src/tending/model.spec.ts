import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { applyTo } from '@tally/core/fields';
import type { MendAsk } from '@tally/contract';
import { chance, pick, whole } from '../../../standins/src/chance.js';
import { compose, type Composition } from '../composition.js';
import { editOf, versionsOf } from '../crediting/index.js';
import { systemFiles } from '../drive/files.js';
import { hashFile } from '../drive/hashing.js';
import { beginFiling, carryOut, planOf } from '../filing/index.js';
import { Refusal, type House } from '../house/index.js';
import { fillPlace } from '../keeping/index.js';
import { makeAssignment } from '../people/index.js';
import { writeManifests } from '../proving/index.js';
import { changeCredit } from '../slip/index.js';
import { askAdopt, askCheck, beginMend, carryOutAll, planMend, runAdoption, runCheck, takeBack } from './index.js';
import { copiesOfFiled } from './store/known.js';
import { beingEmptied } from './store/mends.js';
import { emptyTray, goOnEmptying } from './tray.js';
import { noise, put } from '../testing/cards.js';
import { bring, never, openHouse, type TestHouse } from '../testing/house.js';
import { sharedReader } from '../testing/thorough.js';

/*
 * A model of the drive: what is filed is never lost, whatever is done in whatever order, by two houses at once, with a place
 * that comes and goes and processes that die. TALLY_MODEL_RUNS makes it longer than every test run can afford.
 */
const RUNS = Number(process.env['TALLY_MODEL_RUNS'] ?? 30);
const STEPS = 4;
/** Of the run of all tests: TALLY_SEED repeats one. */
const seed = Number(process.env['TALLY_SEED'] ?? 1);
const PLACES = ['shared', 'second', 'away'] as const;
const DAY_MS = 86_400_000;

let test: TestHouse;
/** The two processes of the house, each with its own connections; one that was killed is begun anew. */
let houses: Process[];
let assignments: number[];
const roll = chance(seed);
/** What was put on the drive by hand, so that every run has names of its own. */
let made = 0;

/** A process of the house that can be killed: from then on it does nothing, neither on the drive nor in the log. */
class Process {
  private dead = false;
  private constructor(private composed: Composition) {}

  static async begin(): Promise<Process> {
    return new Process(await compose(test.settings, { clock: () => test.clock.now, thorough: sharedReader() }));
  }

  get house(): House {
    const alive =
      <T extends unknown[], R>(run: (...given: T) => Promise<R>) =>
      async (...given: T): Promise<R> => {
        if (this.dead) throw new Killed();
        return run(...given);
      };
    const { open, link, rename, unlink } = systemFiles;
    const files = { open: alive(open), link: alive(link), rename: alive(rename), unlink: alive(unlink) };
    return { ...this.composed.house, files };
  }

  async kill(): Promise<void> {
    this.dead = true;
    await this.composed.close();
  }

  async end(): Promise<void> {
    if (!this.dead) await this.composed.close();
  }

  get isDead(): boolean {
    return this.dead;
  }
}

class Killed extends Error {}

beforeAll(async () => {
  test = await openHouse({ asideDays: 1 }, [{ id: 'away', kind: 'off-site copy', fill: 'later', required: false }]);
  houses = [await Process.begin(), await Process.begin()];
  const about = { code: '', from: '2026-04-18', to: '2026-04-18', place: '', expectedCards: 0, expectedContributorIds: [] };
  assignments = [
    test.slip.assignmentId,
    await makeAssignment(test.house, { ...about, title: 'Heron count', slug: 'heron-count' }, 'test'),
  ];
  for (let cards = 0; cards < 2; cards++) await file(test.house);
  await rest();
});
afterAll(async () => {
  for (const one of houses) await one.end();
  await test.end();
});

const rootOf = (placeId: string) => join(test.folder, placeId);
const isHere = (placeId: string) => existsSync(rootOf(placeId));
const rows = <T>(sql: string, given: unknown[] = []) => test.house.db.query<T[]>(sql, given);

/** A card of JPEGs, into which credit goes, and of others, beside which it goes. */
async function file(house: House): Promise<void> {
  const n = ++made;
  const card = join(test.folder, 'cards', String(n));
  for (let at = 0; at < 2; at++) {
    const colour = { r: n % 256, g: at * 40, b: Math.floor(roll() * 255) };
    const jpeg = await sharp({ create: { width: 24 + at, height: 16, channels: 3, background: colour } })
      .jpeg()
      .toBuffer();
    await put(join(card, `DCIM/100TEST/P_${n}_${at}.JPG`), jpeg);
  }
  await put(join(card, `DCIM/100TEST/R_${n}.DNG`), noise(700, n));
  const id = await bring({ ...test, house }, card);
  // Another card took the numbers that the plan had: it is looked at again, as whoever files it would.
  for (let begun = false; !begun;) {
    const answer = await beginFiling(house, id, (await planOf(house, id)).view.seal, 'test');
    begun = answer.outcome === 'begun';
  }
  await carryOut(house, id, never);
}

const filedItems = () =>
  rows<{ id: number; itemId: number; folder: string }>('select id, item_id as "itemId", folder from filed_item order by id');

async function begin(house: House, ask: MendAsk): Promise<void> {
  await beginMend(house, ask, (await planMend(house, ask)).seal, 'test');
}

/** What people and the house itself do. Each may be refused, none may lose anything. */
const DEEDS: Readonly<Record<string, (house: House) => Promise<unknown>>> = {
  file: async (house) => {
    if ((await filedItems()).length < 24) await file(house);
  },
  're-file': async (house) => {
    const some = (await filedItems()).filter(() => roll() < 0.3).map(({ itemId }) => itemId);
    if (some.length) await begin(house, { kind: 're-file', itemIds: some, assignmentId: pick(roll, assignments) });
  },
  'rename folder': async (house) => {
    const one = pick(roll, await filedItems());
    const to = `${one.folder.split('/')[0]}/renamed ${whole(roll, 1, 3)}`;
    await begin(house, { kind: 'rename folder', folder: one.folder, to });
  },
  'put aside': async (house) => {
    const all = await filedItems();
    if (all.length > 9) await begin(house, { kind: 'put aside', itemIds: [pick(roll, all).itemId], why: 'test' });
  },
  'take back': async (house) => {
    const [last] = await rows<{ id: number }>(
      'select id from mend m where takes_back is null and not exists (select from mend b where b.takes_back = m.id) order by id desc limit 1',
    );
    if (last) await takeBack(house, last.id, 'test');
  },
  carry: (house) => carryOutAll(house, never),
  check: async (house) => {
    const place = pick(roll, PLACES);
    const how = pick(roll, ['size and time', 'fast identity', 'every byte'] as const);
    const id = await askCheck(house, place, { how, names: false, strict: false }, 'test');
    await house.locks.hold('checking', place, never, (inner) => runCheck(house, id, inner));
  },
  fill: (house) => fillPlace(house, pick(roll, PLACES), never, false),
  credit: async (house) => {
    const some = (await filedItems()).filter(() => roll() < 0.5).map(({ itemId }) => itemId);
    if (some.length) await changeCredit(house, { itemIds: some, creditLine: `Said ${++made}` }, 'test');
  },
  write: (house) => writeManifests(house, never),
  adopt: async (house) => {
    if ((await filedItems()).length >= 24) return;
    const folder = `brought ${++made}`;
    mkdirSync(join(rootOf('shared'), folder));
    const path = join(rootOf('shared'), folder, `old ${made}.jpg`);
    writeFileSync(path, noise(400, made));
    utimesSync(path, 1e9, 1e9);
    const check = await askCheck(house, 'shared', { how: 'size and time', names: false, strict: false }, 'test');
    await house.locks.hold('checking', 'shared', never, (inner) => runCheck(house, check, inner));
    const id = await askAdopt(
      house,
      'shared',
      { folders: [{ folder, contributorId: null, assignmentId: assignments[0]!, title: null, day: null }] },
      'test',
    );
    await house.locks.hold('adopting', id, never, (inner) => runAdoption(house, id, inner));
  },
  'empty the tray': async (house) => {
    test.clock.now = new Date(test.clock.now.getTime() + 3 * DAY_MS);
    await emptyTray(house, 'test');
  },
};
/** What hands do to the place that is away at times. */
const HANDS: Readonly<Record<string, () => void>> = {
  'takes the box away': () => {
    if (isHere('away')) renameSync(rootOf('away'), `${rootOf('away')}.gone`);
  },
  'brings the box back': () => {
    if (!isHere('away')) renameSync(`${rootOf('away')}.gone`, rootOf('away'));
  },
};

/** Does something; that it is refused, or that its process was killed or its place taken away in the middle, is no fault. */
async function done(process: Process, name: string): Promise<void> {
  const away = isHere('away');
  try {
    await DEEDS[name]!(process.house);
  } catch (error) {
    const isOver = process.isDead || away !== isHere('away') || !isHere('away');
    if (!(error instanceof Refusal) && !isOver) throw new Error(`${name}: ${String((error as Error).stack)}`, { cause: error });
  }
}

/** All files of a place by the hash of their bytes. */
async function bytesAt(placeId: string): Promise<Map<string, string[]>> {
  const found = new Map<string, string[]>();
  for (const entry of readdirSync(rootOf(placeId), { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue;
    const path = join(entry.parentPath, entry.name);
    const hash = (await hashFile(path)).toString('hex');
    found.set(hash, [...(found.get(hash) ?? []), path.slice(rootOf(placeId).length + 1)]);
  }
  return found;
}

/**
 * What the log says of every copy at places that are here is so: it stands under its name with its bytes, or is on its way there,
 * or could not be moved and is told; and nothing was said to be lost or changed, since nobody else touched the drive.
 */
async function holds(story: string): Promise<void> {
  const ids = (await filedItems()).map(({ id }) => id);
  const known = new Map<number, Set<string>>();
  for (const { filedItemId, how, hash } of await versionsOf(test.house.db, ids))
    if (how === 'inside') known.set(filedItemId, (known.get(filedItemId) ?? new Set()).add(hash!.toString('hex')));
  const cards = new Map(
    (await rows<{ id: number; hash: Buffer }>('select id, hash from filed_item where hash is not null')).map(({ id, hash }) => [
      id,
      hash.toString('hex'),
    ]),
  );
  const emptying = new Set(await beingEmptied(test.house.db, ids));
  for (const placeId of PLACES.filter(isHere)) {
    const stands = await bytesAt(placeId);
    const folders = (
      await rows<{ to: string }>(
        `select to_path as "to" from mend_move where place_id = $1 and state = 'failed' and what = 'folder'`,
        [placeId],
      )
    ).map(({ to }) => to);
    const failed = new Set(
      (
        await rows<{ id: number }>(`select filed_item_id as id from mend_move where place_id = $1 and state = 'failed'`, [
          placeId,
        ])
      ).map(({ id }) => id),
    );
    for (const copy of await copiesOfFiled(test.house.db, placeId, ids)) {
      // What somebody began to remove for good is as it happens to be: that is written down, and ended by a sweep.
      if (emptying.has(copy.filedItemId)) continue;
      const told = `${story}: ${copy.folder}/${copy.name} at ${placeId} is ${copy.state}`;
      if (copy.state === 'waiting' || copy.state === 'copying') continue;
      if (copy.state !== 'tallied') {
        const events = await rows<{ text: string }>('select text from event order by id desc limit 12');
        throw new Error(`${told}. Last told: ${events.map(({ text }) => text).join(' < ')}`);
      }
      // A process that died between a name and saying so left one of those that are known.
      const may = new Set([copy.hash!.toString('hex'), cards.get(copy.filedItemId)!, ...(known.get(copy.filedItemId) ?? [])]);
      const where = [...may].flatMap((hash) => stands.get(hash) ?? []);
      const isThere = where.includes(copy.folder ? `${copy.folder}/${copy.name}` : copy.name);
      const couldNot = failed.has(copy.filedItemId) || folders.some((to) => `${copy.folder}/`.startsWith(`${to}/`));
      if (isThere || (where.length > 0 && (copy.moving || couldNot))) continue;
      throw new Error(`${told}, and its bytes stand at: ${where.join(', ') || 'no path'}`);
    }
  }
}

async function isAnythingDue(): Promise<boolean> {
  const [{ due }] = (await rows<{ due: boolean }>(
    `select exists (select from beside_due) or exists (select from mend_move where state = 'waiting') or exists (select from copy where state <> 'tallied')
       or exists (select from drive_check where state = 'going') or exists (select from adoption where state = 'going')
       or exists (select from mend where emptying_at is not null and emptied_at is null) as due`,
  )) as [{ due: boolean }];
  return due;
}

/** The house does all that waits, until nothing does. */
async function rest(): Promise<void> {
  HANDS['brings the box back']!();
  const { house } = test;
  for (let round = 0; round < 8; round++) {
    if (round > 0 && !(await isAnythingDue())) break;
    await goOnEmptying(house, never);
    await carryOutAll(house, never);
    for (const { id, place } of await rows<{ id: number; place: string }>(
      `select id, place_id as place from drive_check where state = 'going'`,
    ))
      await house.locks.hold('checking', place, never, (inner) => runCheck(house, id, inner));
    for (const { id } of await rows<{ id: number }>(`select id from adoption where state = 'going'`))
      await house.locks.hold('adopting', id, never, (inner) => runAdoption(house, id, inner));
    for (const place of PLACES) await fillPlace(house, place, never, false);
    await rows('update beside_due set due_at = now()');
    await writeManifests(house, never);
  }
}

/** When all rests: nothing is due, nothing half made stands about, all copies are whole, and every credit comes out to the byte. */
async function isWhole(story: string): Promise<void> {
  await holds(`${story}, at rest`);
  expect([story, await rows('select folder, place_id, problem from beside_due')]).toEqual([story, []]);
  expect([story, await rows(`select place_id, state from mend_move where state = 'waiting'`)]).toEqual([story, []]);
  expect([
    story,
    await rows(
      `select f.folder, f.name, c.place_id, c.state from copy c join filed_item f on f.id = c.filed_item_id where c.state <> 'tallied'`,
    ),
  ]).toEqual([story, []]);
  for (const placeId of PLACES) {
    const parts = readdirSync(rootOf(placeId), { recursive: true }).filter((name) => String(name).endsWith('.part'));
    expect([story, placeId, parts]).toEqual([story, placeId, []]);
    const id = await askCheck(test.house, placeId, { how: 'every byte', names: false, strict: false }, 'test');
    await runCheck(test.house, id, never);
    const found = await rows(
      `select kind, path, what from drive_finding where place_id = $1 and kind in ('missing', 'changed', 'unreadable', 'spoilt list', 'moved', 'leftover')`,
      [placeId],
    );
    expect([story, placeId, found]).toEqual([story, placeId, []]);
    const ids = (await filedItems()).map((one) => one.id);
    const undo = new Map(
      (
        await rows<{ id: number; undo: Parameters<typeof editOf>[0] }>(
          `select s.filed_item_id as id, w.undo from credit_stands s join credit_written w on w.filed_item_id = s.filed_item_id and w.version = s.version
         where s.place_id = $1 and w.how = 'inside'`,
          [placeId],
        )
      ).map((one) => [one.id, one.undo]),
    );
    const cards = new Map(
      (await rows<{ id: number; hash: Buffer }>('select id, hash from filed_item')).map((one) => [one.id, one.hash]),
    );
    for (const { filedItemId, folder, name } of await copiesOfFiled(test.house.db, placeId, ids)) {
      const bytes = readFileSync(join(rootOf(placeId), folder, name));
      const out = join(test.folder, 'came out');
      writeFileSync(out, undo.has(filedItemId) ? applyTo(bytes, editOf(undo.get(filedItemId)!)) : bytes);
      if (!(await hashFile(out)).equals(cards.get(filedItemId)!))
        throw new Error(`${story}: ${name} does not come out of ${placeId}`);
    }
  }
}

describe('a model of the drive', () => {
  it(
    `${RUNS} runs of random deeds, two at once: nothing filed is ever lost, and nothing is said that is not so`,
    async () => {
      for (let run = 0; run < RUNS; run++) {
        const told: string[] = [];
        for (let step = 0; step < STEPS; step++) {
          const [one, other] = [pick(roll, Object.keys(DEEDS)), pick(roll, Object.keys(DEEDS))];
          const hand = roll() < 0.25 ? pick(roll, Object.keys(HANDS)) : null;
          const killed = roll() < 0.2 ? whole(roll, 0, 1) : null;
          told.push([one, other, hand, killed !== null && `kills ${killed}`].filter(Boolean).join(' + '));
          const story = `run ${run} of seed ${seed}: ${told.join('; ')}`;
          const both = [done(houses[0]!, one), done(houses[1]!, other)];
          if (hand ?? killed !== null) await new Promise((resolve) => setTimeout(resolve, roll() * 60));
          if (hand) HANDS[hand]!();
          if (killed !== null) await houses[killed]!.kill();
          const ends = await Promise.allSettled(both);
          for (const end of ends) if (end.status === 'rejected') throw new Error(story, { cause: end.reason });
          if (killed !== null) houses[killed] = await Process.begin();
          await holds(story);
        }
        await rest();
        await isWhole(`run ${run} of seed ${seed}: ${told.join('; ')}`);
      }
    },
    RUNS * 60_000,
  );
});
