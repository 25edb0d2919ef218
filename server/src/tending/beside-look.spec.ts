import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import sharp from 'sharp';
import { SECOND_FOLDER } from '@tally/core/drive';
import { CHAIN_FILE, CHECKSUM_FILE, HASH_LIST_FOLDER, readChain, writeChain } from '@tally/core/manifest';
import { extendHistory, readHistory } from '../drive/hash-lists.js';
import { recordOfFile } from '../drive/records-beside.js';
import { copiesOf } from '../filing/index.js';
import { writeManifests } from '../proving/index.js';
import { changeCredit } from '../slip/index.js';
import { noise, put } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { carryOutAll } from './carrying.js';
import { askCheck, placeHere, runCheck } from './checking.js';
import { followBeside } from './hand-moved.js';
import { beginMend, planMend, takeBack } from './mending.js';
import type { CheckHow } from './store/checks.js';
import { copiesOfFiled } from './store/known.js';
import { emptyTray } from './tray.js';

/* What we wrote beside filed files is looked at like the files: what is gone or spoilt is found, and written anew. */

let test: TestHouse;
let folder: string;
let intake: number;
let cards = 0;

beforeEach(async () => {
  test = await openHouse();
  ({ folder, intake } = await filed());
});
afterEach(() => test.end());

/** Two pictures with credit inside, and a raw with a sidecar. */
async function filed(): Promise<{ folder: string; intake: number }> {
  const card = join(test.folder, `card-${++cards}`);
  for (const n of [1, 2]) {
    const picture = sharp({ create: { width: 20 + n, height: 16, channels: 3, background: { r: cards, g: 9 * n, b: 90 } } });
    await put(join(card, `DCIM/100TEST/P_${n}.JPG`), await picture.jpeg().toBuffer());
  }
  await put(join(card, 'DCIM/100TEST/RAW_1.DNG'), noise(900, cards));
  const id = await bring(test, card);
  await fileNow(test.house, id);
  await writeManifests(test.house);
  const copies = await copiesOf(test.house.db, id);
  return { intake: id, folder: dirname(copies.find(({ to }) => to.endsWith('.dng'))!.to) };
}

const rows = <T>(sql: string, given: unknown[] = []) => test.house.db.query<T[]>(sql, given);
const at = (name: string) => join(test.second, folder, name);
const named = (test: RegExp, below = '') => readdirSync(at(below)).find((name) => test.test(name))!;
const recordName = () => named(/^intake-/);
const generation = () => `${HASH_LIST_FOLDER}/${named(/^0001_.*\.mhl$/, HASH_LIST_FOLDER)}`;

async function check(how: CheckHow = 'every byte', place = 'second'): Promise<[kind: string, path: string, what: string][]> {
  const id = await askCheck(test.house, place, { how, names: false, strict: false }, 'test');
  await runCheck(test.house, id, never);
  const found = await rows<{ kind: string; path: string; what: string }>(
    // The places of a test stand on one device.
    `select kind, path, what from drive_finding where place_id = $1 and kind <> 'only here' order by path`,
    [place],
  );
  return found.map(({ kind, path, what }) => [kind, path.replace(`${folder}/`, ''), what]);
}

/** Mends all that was found, to the end. @returns id of the mend, and what its plan says. */
async function mend(place = 'second'): Promise<{ id: number; also: readonly string[] }> {
  const found = await rows<{ id: number }>('select id from drive_finding where place_id = $1 order by id', [place]);
  const ask = { kind: 'findings' as const, ids: found.map(({ id }) => id) };
  const plan = await planMend(test.house, ask);
  expect(plan.faults).toEqual([]);
  const answer = await beginMend(test.house, ask, plan.seal, 'test');
  if (answer.outcome !== 'begun') throw new Error('not begun');
  await carryOutAll(test.house, never);
  await writeManifests(test.house);
  // A tray is called after its second.
  test.clock.now = new Date(test.clock.now.getTime() + 5000);
  return { id: answer.id, also: plan.also };
}

/** Flips a bit in the middle of a file, and leaves its time as it was: a disk that fails. */
function rot(name: string): void {
  const { atime, mtime } = statSync(at(name));
  const bytes = readFileSync(at(name));
  bytes[Math.floor(bytes.length / 2)]! ^= 1;
  writeFileSync(at(name), bytes);
  utimesSync(at(name), atime, mtime);
}

/** Outside check: xxHash's own tool. */
const listHolds = () => execFileSync('xxhsum', ['--quiet', '-c', CHECKSUM_FILE], { cwd: at(''), encoding: 'utf8' });

async function isWhole(): Promise<void> {
  expect(await check()).toEqual([]);
  listHolds();
  expect((await readHistory(at(''))).problems).toEqual([]);
  expect(readFileSync(at(`${SECOND_FOLDER}/${recordName()}`)).equals(readFileSync(at(recordName())))).toBe(true);
  expect(await rows('select * from beside_due')).toEqual([]);
}

describe('what stands beside the files', () => {
  it('is as it should be after filing, a card more, another credit and another name', async () => {
    await isWhole();
    await filed();
    await isWhole();
    const items = (await rows<{ id: number }>('select item_id as id from filed_item order by id')).map(({ id }) => id);
    await changeCredit(test.house, { itemIds: items, creditLine: 'Somebody else' }, 'test');
    await writeManifests(test.house);
    await isWhole();
    const ask = { kind: 'rename folder' as const, folder, to: `${dirname(folder)}/renamed` };
    await beginMend(test.house, ask, (await planMend(test.house, ask)).seal, 'test');
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    folder = ask.to;
    await isWhole();
    // Nothing is expected where it stood before.
    expect(await rows('select distinct folder from beside_written where folder not like $1', [`${dirname(folder)}/%`])).toEqual(
      [],
    );
    expect(existsSync(join(test.second, ask.folder))).toBe(false);
  });

  const KINDS: readonly (readonly [what: string, name: () => string])[] = [
    ['list', () => CHECKSUM_FILE],
    ['record', recordName],
    ['second of a record', () => `${SECOND_FOLDER}/${recordName()}`],
    ['hash list of its history', generation],
    ['chain of its history', () => `${HASH_LIST_FOLDER}/${CHAIN_FILE}`],
    ['sidecar', () => named(/\.xmp$/)],
  ];

  it.each(KINDS)('a %s whose bytes rot is found by a check of every byte, put aside and written anew', async (_what, name) => {
    const path = name();
    const before = readFileSync(at(path));
    rot(path);
    expect(await check('size and time')).toEqual([]);
    expect(await check()).toEqual([['spoilt list', path, 'it is not as we wrote it']]);
    const { id, also } = await mend();
    expect(also.join()).toMatch(/What explains a folder is written anew from the logbook\./);
    await isWhole();
    if (!path.startsWith(HASH_LIST_FOLDER)) expect(readFileSync(at(path)).equals(before)).toBe(true);
    // The spoilt one lies in the tray, and does not come back.
    const aside = existsSync(join(test.second, '_put-aside'))
      ? readdirSync(join(test.second, '_put-aside'), { recursive: true })
      : [];
    const isSecond = path.startsWith(SECOND_FOLDER);
    expect(aside.some((one) => String(one).endsWith(path))).toBe(!isSecond);
    await expect(takeBack(test.house, id, 'test')).rejects.toThrow('Nothing of this mend can be taken back.');
    test.clock.now = new Date(test.clock.now.getTime() + 40 * 86_400_000);
    expect((await emptyTray(test.house, 'test')).stays).toEqual([]);
    expect(existsSync(join(test.second, '_put-aside'))).toBe(false);
    await isWhole();
  });

  it.each(KINDS)('a %s that is gone, or shorter, is found by its size, and written anew', async (_what, name) => {
    const path = name();
    rmSync(at(path));
    expect(await check('size and time')).toEqual([['spoilt list', path, 'it is gone']]);
    await mend();
    await isWhole();
    // A history that was put aside has another name today.
    const now = path.endsWith('.mhl') ? generation() : path;
    truncateSync(at(now), 20);
    utimesSync(at(now), new Date(), new Date(Date.now() + 60_000));
    expect(await check('size and time')).toEqual([
      ['spoilt list', now, now.endsWith('.xmp') ? 'it is no sidecar any more' : 'it is not as we wrote it'],
    ]);
    await mend();
    await isWhole();
  });

  it('at a place that is away by now, nothing is begun: it is said', async () => {
    rmSync(at(recordName()));
    await check('size and time');
    renameSync(test.second, `${test.second}.gone`);
    const found = await rows<{ id: number }>('select id from drive_finding');
    const plan = await planMend(test.house, { kind: 'findings', ids: found.map(({ id }) => id) });
    expect(plan.faults.map(({ why }) => why)).toContain('Second copy is not here');
    renameSync(`${test.second}.gone`, test.second);
    await mend();
    await isWhole();
  });

  it('all of it deleted: all of it is found, and written anew in one mend', async () => {
    for (const [, name] of KINDS.filter(([what]) => !/history|second/.test(what))) rmSync(at(name()));
    for (const own of [HASH_LIST_FOLDER, SECOND_FOLDER]) rmSync(at(own), { recursive: true });
    expect((await check('size and time')).map(([kind]) => kind)).toEqual(Array.from({ length: 6 }, () => 'spoilt list'));
    await mend();
    await isWhole();
  });

  it('a list that cannot be read as one stays until it is mended: that is told, and nothing else waits for it', async () => {
    writeFileSync(at(CHECKSUM_FILE), 'gibberish\n');
    const items = (await rows<{ id: number }>('select item_id as id from filed_item order by id')).map(({ id }) => id);
    await changeCredit(test.house, { itemIds: items, creditLine: 'Somebody else' }, 'test');
    await writeManifests(test.house);
    expect(readFileSync(at(CHECKSUM_FILE), 'utf8')).toBe('gibberish\n');
    const [told] = await rows<{ text: string }>(`select text from event where kind = 'manifest' order by id desc limit 1`);
    expect(told!.text).toContain(`${CHECKSUM_FILE} is not as we wrote it: check this place, and have it written anew`);
    expect(readFileSync(at(recordName()), 'utf8')).toContain('Somebody else');
    expect(await check('size and time')).toEqual([['spoilt list', CHECKSUM_FILE, 'it is not as we wrote it']]);
    await mend();
    await isWhole();
  });

  it('is not missed while it is due to be written, nor where nothing is filed any more', async () => {
    rmSync(at(CHECKSUM_FILE));
    await rows('insert into beside_due (intake_id, folder, place_id) values ($1, $2, $3)', [intake, folder, 'second']);
    expect(await check()).toEqual([]);
    await writeManifests(test.house);
    await isWhole();
    const items = (await rows<{ id: number }>('select item_id as id from filed_item order by id')).map(({ id }) => id);
    const ask = { kind: 're-file' as const, itemIds: items, day: '2026-05-02' };
    await beginMend(test.house, ask, (await planMend(test.house, ask)).seal, 'test');
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    mkdirSync(at(''), { recursive: true });
    writeFileSync(at('note.pdf'), 'of somebody');
    expect((await check()).filter(([kind]) => kind === 'spoilt list')).toEqual([]);
  });
});

describe('what others move by hand on the shared drive', () => {
  const there = (name: string, of = folder) => join(test.shared, of, name);
  const holdsAt = (of: string) =>
    execFileSync('xxhsum', ['--quiet', '-c', CHECKSUM_FILE], { cwd: there('', of), encoding: 'utf8' });

  /** The house sees it, follows, and writes what is due. */
  async function follows(): Promise<void> {
    await check('size and time', 'shared');
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    expect(await check('every byte', 'shared')).toEqual([]);
    expect(await check()).toEqual([]);
    expect(await rows('select * from beside_due')).toEqual([]);
  }

  it('a file that is renamed alone gets its sidecar, and the list has its new name', async () => {
    const raw = named(/\.dng$/);
    const sidecar = readFileSync(there(`${raw}.xmp`));
    renameSync(there(raw), there('best of the reeds.dng'));
    await follows();
    expect(readFileSync(there('best of the reeds.dng.xmp')).equals(sidecar)).toBe(true);
    expect(existsSync(there(`${raw}.xmp`))).toBe(false);
    expect(readFileSync(there(CHECKSUM_FILE), 'utf8')).toContain('best of the reeds.dng.xmp');
    holdsAt(folder);
    listHolds();
  });

  it('one that is taken to another folder with its sidecar, and one that is all there was in its folder', async () => {
    const raw = named(/\.dng$/);
    mkdirSync(there('', 'elsewhere'));
    for (const name of [raw, `${raw}.xmp`]) renameSync(there(name), there(name, 'elsewhere'));
    await follows();
    holdsAt('elsewhere');
    holdsAt(folder);
    mkdirSync(there('', 'pictures'));
    for (const name of readdirSync(there('')).filter((one) => one.endsWith('.jpg')))
      renameSync(there(name), there(name, 'pictures'));
    await follows();
    holdsAt('pictures');
    for (const root of [test.shared, test.second]) expect(existsSync(join(root, folder))).toBe(false);
  });

  it('at a drive that goes away just then nothing is taken for gone', async () => {
    const place = await placeHere(test.house, 'shared');
    const raws = await rows<{ id: number }>(`select id from filed_item where name like '%.dng'`);
    const [row] = await copiesOfFiled(
      test.house.db,
      'shared',
      raws.map(({ id }) => id),
    );
    const known = () =>
      rows(`select place_id, folder, name from beside_written union all select place_id, '', version::text from credit_stands`);
    const before = await known();
    renameSync(test.shared, `${test.shared}.gone`);
    await followBeside(test.house, place, [{ row: { ...row!, listFolder: 'left' }, to: `${folder}/best.dng` }], never);
    renameSync(`${test.shared}.gone`, test.shared);
    expect(await known()).toEqual(before);
  });

  it('one whose sidecar is gone gets it anew; one in whose sidecar somebody wrote keeps that', async () => {
    const raw = named(/\.dng$/);
    const text = readFileSync(there(`${raw}.xmp`), 'utf8');
    rmSync(there(`${raw}.xmp`));
    renameSync(there(raw), there('alone.dng'));
    await follows();
    expect(readFileSync(there('alone.dng.xmp'), 'utf8')).toBe(text);
    writeFileSync(there('alone.dng.xmp'), text.replace(/(<\?xpacket end)/, '<!-- developed in the dark room -->$1'));
    renameSync(there('alone.dng'), there('developed.dng'));
    renameSync(there('alone.dng.xmp'), there('developed.dng.xmp'));
    await check('size and time', 'shared');
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    expect(readFileSync(there('developed.dng.xmp'), 'utf8')).toContain('developed in');
  });
});

describe('what others write there', () => {
  it('a sidecar that somebody wrote in is theirs; one that is no sidecar any more is found', async () => {
    const sidecar = named(/\.xmp$/);
    const text = readFileSync(at(sidecar), 'utf8');
    writeFileSync(at(sidecar), text.replace(/(<\?xpacket end)/, '<!-- developed in the dark room -->$1'));
    utimesSync(at(sidecar), new Date(), new Date(Date.now() + 60_000));
    expect(await check()).toEqual([]);
    writeFileSync(at(sidecar), '<rdf:broken');
    utimesSync(at(sidecar), new Date(), new Date(Date.now() + 90_000));
    expect(await check()).toEqual([['spoilt list', sidecar, 'it is no sidecar any more']]);
    await mend();
    expect(readFileSync(at(sidecar), 'utf8')).toBe(text);
  });

  it('a history that another program went on with is whole', async () => {
    const made = { createdAt: '2026-05-01T10:00:00Z', hostname: 'elsewhere', tool: { name: 'Other', version: '1' } };
    const file = { path: 'theirs.txt', bytes: 1, modifiedAt: made.createdAt, hashedAt: made.createdAt };
    const extended = await extendHistory(at(''), made, [{ ...file, hashes: { xxh128: '0'.repeat(32) } }], true);
    expect(extended.problems).toBeNull();
    expect((await check()).filter(([kind]) => kind === 'spoilt list')).toEqual([]);
    // What they wrote is theirs: that it is gone breaks the chain, which was ours.
    const { chain } = await readHistory(at(''));
    writeFileSync(at(`${HASH_LIST_FOLDER}/${CHAIN_FILE}`), writeChain(chain.slice(0, -1)));
    expect(readChain(readFileSync(at(`${HASH_LIST_FOLDER}/${CHAIN_FILE}`), 'utf8'))).toHaveLength(chain.length - 1);
    expect(await check()).toEqual([]);
  });
});

describe('a record', () => {
  it('is in the list, and stands a second time: without the one, the other says how the credit comes out', async () => {
    expect(readFileSync(at(CHECKSUM_FILE), 'utf8')).toContain(recordName());
    const picture = at(named(/\.jpg$/));
    const whole = await recordOfFile(picture, '');
    expect(whole?.inside?.undo).toBeDefined();
    const record = at(recordName());
    const text = readFileSync(record, 'utf8');
    writeFileSync(record, text.slice(0, -40));
    expect(await recordOfFile(picture, '')).toEqual(whole);
    rmSync(record);
    expect(await recordOfFile(picture, '')).toEqual(whole);
    writeFileSync(record, text);
    rmSync(at(SECOND_FOLDER), { recursive: true });
    expect(await recordOfFile(picture, '')).toEqual(whole);
  });

  it('goes with its second when nothing of its intake stands there any more', async () => {
    const first = recordName();
    await filed();
    expect(readdirSync(at(SECOND_FOLDER))).toHaveLength(2);
    const of = await rows<{ id: number }>('select item_id as id from filed_item where intake_id = $1 order by id', [intake]);
    const ask = { kind: 're-file' as const, itemIds: of.map(({ id }) => id), day: '2026-05-02' };
    await beginMend(test.house, ask, (await planMend(test.house, ask)).seal, 'test');
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    expect(existsSync(at(first))).toBe(false);
    expect(readdirSync(at(SECOND_FOLDER))).toEqual([recordName()]);
    await isWhole();
  });
});
