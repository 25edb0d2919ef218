import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { mkdir, readdir, rename, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { IntakeRecord, MovedRecord } from '@tally/contract';
import { CHAIN_FILE, CHECKSUM_FILE, HASH_LIST_FOLDER, readChain, readChecksums, writeChain } from '@tally/core/manifest';
import { MOVED_FILE, recordNumber, SECOND_FOLDER } from '@tally/core/drive';
import { printingTo } from '../cli/output.js';
import { readHistory } from '../drive/hash-lists.js';
import { makeCard, realPictures } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse } from '../testing/house.js';
import { writeManifests } from './manifests.js';
import { tallyCommand } from './tally-command.js';
import { eventsOf, theIntake } from '../house/index.js';
import { copiesOf, planOf } from '../filing/index.js';
import { judgeItems } from '../seeing/index.js';

let test: TestHouse;
let cards = 0;
beforeAll(async () => {
  test = await openHouse();
});
afterAll(() => test.end());

async function filed(files: Record<string, number>): Promise<{ id: number; folders: string[] }> {
  const path = join(test.folder, `CARD${++cards}`);
  await makeCard(path, files, cards * 1000);
  const id = await bring(test, path);
  await fileNow(test.house, id);
  await writeManifests(test.house);
  return { id, folders: [...new Set((await copiesOf(test.house.db, id)).map(({ to }) => dirname(to)))] };
}
const listOf = (root: string, folder: string) => readFileSync(join(root, folder, CHECKSUM_FILE), 'utf8');

describe('beside the files', () => {
  it('a checksum list stands at each place, which the hash tool of the system can check', async () => {
    const { id, folders } = await filed({ 'A/1.JPG': 1000, 'A/2.JPG': 70_000, 'A/2.DNG': 0 });
    for (const root of [test.shared, test.second]) {
      const list = listOf(root, folders[0]!);
      // Three files, the sidecar of each (noise is no JPEG that could carry credit inside), and the record of the intake.
      expect(readChecksums(list)).toHaveLength(7);
      // Outside check: xxHash's own tool.
      const told = execFileSync('xxhsum', ['-c', CHECKSUM_FILE], { cwd: join(root, folders[0]!), encoding: 'utf8' });
      expect(told.match(/: OK/g)).toHaveLength(7);
      expect((await readdir(join(root, folders[0]!))).filter((name) => name.endsWith('.part'))).toEqual([]);
    }
    const hashes = new Map((await copiesOf(test.house.db, id)).map(({ to, hash }) => [to, hash]));
    for (const { name, hash } of readChecksums(listOf(test.shared, folders[0]!))!.filter(
      (one) => !/[.](xmp|json)$/.test(one.name),
    ))
      expect(hashes.get(`${folders[0]!}/${name}`)).toBe(hash);
  });

  it('the list is extended when more is filed into the same folder, and what is written beside is no clash', async () => {
    const before = (await filed({ 'A/3.JPG': 1100 })).folders[0]!;
    const known = readChecksums(listOf(test.shared, before))!.length;
    const { folders } = await filed({ 'A/4.JPG': 1200, 'A/5.JPG': 1300 });
    expect(folders).toEqual([before]);
    expect(readChecksums(listOf(test.shared, before))).toHaveLength(known + 5);
  });

  it('two cards filed into one folder at once: the list holds both', async () => {
    const ids = await Promise.all(
      [1, 2].map(async (n) => {
        const path = join(test.folder, `TWIN${n}`);
        await makeCard(path, { [`A/${n}1.JPG`]: 400 + n, [`A/${n}2.JPG`]: 500 + n }, 9000 + n * 10);
        return bring(test, path);
      }),
    );
    // The other card may have taken the numbers in between: then the plan is another one, and is filed as it is now.
    const file = async (id: number, tries = 20): Promise<void> =>
      fileNow(test.house, id).catch((error: unknown) => (tries > 0 ? file(id, tries - 1) : Promise.reject(error as Error)));
    await Promise.all(ids.map((id) => file(id)));
    await Promise.all([writeManifests(test.house), writeManifests(test.house)]);
    const copies = (await Promise.all(ids.map((id) => copiesOf(test.house.db, id)))).flat();
    const listed = new Set(readChecksums(listOf(test.shared, dirname(copies[0]!.to)))!.map(({ name }) => name));
    expect(copies.every(({ to }) => listed.has(to.split('/').at(-1)!))).toBe(true);
  });

  it('what a former house said of files that went elsewhere stays, however often ours is written', async () => {
    const { id, folders } = await filed({ 'A/M1.JPG': 3100, 'A/M2.JPG': 3200 });
    const folder = folders[0]!;
    const file = join(test.shared, folder, MOVED_FILE);
    const entry = {
      name: 'OLD_0001.jpg',
      to: 'elsewhere/OLD_0001.jpg',
      until: '2020-01-01T00:00:00.000Z',
      xxh128: '0'.repeat(32),
    };
    const theirs = JSON.stringify({
      format: 'tally-stick-moved',
      version: 1,
      folder,
      houseId: '0190a000-0000-7000-8000-000000000000',
      files: [entry],
    });
    await writeFile(file, theirs);
    const writeAgain = async () => {
      await test.house.db.query('insert into beside_due (intake_id, folder, place_id) values ($1, $2, $3)', [
        id,
        folder,
        'shared',
      ]);
      await writeManifests(test.house);
      return readFileSync(file, 'utf8');
    };
    // Nothing of ours went anywhere: it is theirs, to the byte.
    expect([await writeAgain(), await writeAgain()]).toEqual([theirs, theirs]);
    const [one] = await copiesOf(test.house.db, id);
    await test.house.db.query(
      `insert into former_path (folded_path, path, folded_folder, filed_item_id, until, mend_id)
       select lower($1 || '/WAS.jpg'), $1 || '/WAS.jpg', f.folded_list_folder, f.id, now(), 0 from filed_item f where f.folder || '/' || f.name = $2`,
      [folder, one!.to],
    );
    for (let times = 0; times < 2; times++) {
      const said = MovedRecord.parse(JSON.parse(await writeAgain()));
      expect([said.files.map(({ name }) => name), said.before]).toEqual([['WAS.jpg'], [entry]]);
    }
    await test.house.db.query('delete from former_path');
    for (let times = 0; times < 2; times++)
      expect(MovedRecord.parse(JSON.parse(await writeAgain()))).toMatchObject({ files: [], before: [entry] });
    await rm(file);
  });

  it('a hash list in generations stands at each place, each named in its chain by its identity', async () => {
    const first = await filed({ 'A/6.JPG': 2100 });
    const folder = first.folders[0]!;
    const { lists, chain, problems } = await readHistory(join(test.second, folder));
    expect(problems).toEqual([]);
    expect(chain.map(({ number }) => number)).toEqual(lists.map((_list, index) => index + 1));
    // Each file came in by one generation only, and all that the checksum list has are there.
    const files = lists.flatMap(({ list }) => list.files.map(({ path }) => path)).sort();
    expect(files).toEqual(
      readChecksums(listOf(test.second, folder))!
        .map(({ name }) => name)
        .filter((name) => recordNumber(name) === null)
        .sort(),
    );
    // Outside check: C4 is SHA-512 in base 58; the digest by the system's tool, the base by BigInt's own arithmetic.
    const digest = execFileSync('sha512sum', [join(test.second, folder, HASH_LIST_FOLDER, chain[0]!.path)], { encoding: 'utf8' });
    const letters = '123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz';
    const number = Array.from(chain[0]!.c4.slice(2)).reduce((sum, letter) => sum * 58n + BigInt(letters.indexOf(letter)), 0n);
    expect(number.toString(16).padStart(128, '0')).toBe(digest.slice(0, 128));
  });

  it('a generation that a killed run wrote but did not name in the chain is named by the next', async () => {
    const { folders } = await filed({ 'A/7.JPG': 2200 });
    const chain = join(test.shared, folders[0]!, HASH_LIST_FOLDER, CHAIN_FILE);
    const before = readChain(readFileSync(chain, 'utf8'))!;
    await writeFile(chain, writeChain(before.slice(0, -1)));
    await filed({ 'A/8.JPG': 2300 });
    expect(readChain(readFileSync(chain, 'utf8'))!.map(({ number }) => number)).toEqual(
      [...before, before].map((_one, i) => i + 1),
    );
  });

  it('a history that somebody changed is not extended, and that is logged', async () => {
    const { folders } = await filed({ 'B/9.JPG': 2400 });
    const { lists } = await readHistory(join(test.shared, folders[0]!));
    const path = join(test.shared, folders[0]!, HASH_LIST_FOLDER, lists[0]!.name);
    await writeFile(path, lists[0]!.text.replace(/xxh128/g, 'xxh3'));
    const { id } = await filed({ 'B/10.JPG': 2500 });
    expect((await readHistory(join(test.shared, folders[0]!))).lists).toHaveLength(lists.length);
    expect((await eventsOf(test.house.db, id)).find(({ kind }) => kind === 'manifest')?.text).toContain(
      'is not what the chain says',
    );
    await writeFile(path, lists[0]!.text);
  });

  it('what is said of an item later is written, and what a place missed while it was away', async () => {
    const { id, folders } = await filed({ 'A/11.JPG': 2600 });
    const { number } = await theIntake(test.house, id);
    const recordAt = (root: string) =>
      IntakeRecord.parse(JSON.parse(readFileSync(join(root, folders[0]!, `intake-${number}.json`), 'utf8')));
    const [{ id: itemId }] = await test.house.db.query<[{ id: number }]>('select id from item where intake_id = $1', [id]);
    await rename(test.second, `${test.second}-away`);
    await judgeItems(test.house, id, { itemIds: [itemId], description: 'heron over the new creek' });
    await writeManifests(test.house);
    expect(recordAt(test.shared).items[0]!.description).toBe('heron over the new creek');
    await rename(`${test.second}-away`, test.second);
    expect(recordAt(test.second).items[0]!.description).toBe('');
    await writeManifests(test.house);
    expect(recordAt(test.second).items[0]!.description).toBe('heron over the new creek');
    expect(await writeManifests(test.house)).toBe(0);
  });

  it('a record says all that the logbook knows, without the database', async () => {
    const path = join(test.folder, 'REAL');
    await realPictures(path, 3, 'jhead/normal-digicams');
    const id = await bring(test, path);
    await fileNow(test.house, id);
    await writeManifests(test.house);
    const { number } = await theIntake(test.house, id);
    const [copy] = await copiesOf(test.house.db, id);
    const text = readFileSync(join(test.second, dirname(copy!.to), `intake-${number}.json`), 'utf8');
    const record = IntakeRecord.parse(JSON.parse(text));
    expect(record).toMatchObject({
      ...{ house: 'Ostrel Bay Tidelands Trust', intake: number, rule: 1 },
      ...{ contributor: { code: 'IB', name: 'Ines Barrow' }, assignment: { slug: 'reed-planting' } },
    });
    const item = record.items.find(({ from }) => from === copy!.from)!;
    expect(item).toMatchObject({ xxh128: copy!.hash, name: copy!.to.split('/').at(-1) });
    expect(item.captured.original).toMatch(/\d{4}/);
  });

  it('a record stands a second time, and `tally tally` says where the two are not alike', async () => {
    const { folders } = await filed({ 'A/12.JPG': 2700 });
    const folder = join(test.second, folders[0]!);
    const tally = () => printingTo({ out: () => undefined, err: () => undefined }, () => tallyCommand(folder, {}));
    expect(await tally()).toBe(0);
    const seconds = await readdir(join(folder, SECOND_FOLDER));
    expect(seconds.sort()).toEqual((await readdir(folder)).filter((name) => recordNumber(name) !== null).sort());
    const second = join(folder, SECOND_FOLDER, seconds[0]!);
    const text = readFileSync(second, 'utf8');
    await writeFile(second, text.replace('house', 'horse'));
    expect(await tally()).toBe(1);
    await writeFile(second, text);
    await writeFile(join(folder, seconds[0]!), text.replace('rule', 'role'));
    expect(await tally()).toBe(1);
    await writeFile(join(folder, seconds[0]!), text);
    expect(await tally()).toBe(0);
  });

  it("a stranger's file under these names is left alone, and that is logged", async () => {
    const path = join(test.folder, 'STRANGE');
    await makeCard(path, { 'A/8.JPG': 800 }, 77_000);
    const id = await bring(test, path, { ...test.slip });
    const { view } = await planOf(test.house, id);
    const folder = join(test.second, view.folders[0]!.path);
    await mkdir(folder, { recursive: true });
    await writeFile(join(folder, CHECKSUM_FILE), 'a shopping list\n');
    await fileNow(test.house, id);
    await writeManifests(test.house);
    expect(readFileSync(join(folder, CHECKSUM_FILE), 'utf8')).toBe('a shopping list\n');
    expect((await theIntake(test.house, id)).state).toBe('tallied');
    const told = (await eventsOf(test.house.db, id)).find(({ kind }) => kind === 'manifest');
    expect(told?.text).toContain(`${CHECKSUM_FILE} is not as we wrote it: check this place, and have it written anew`);
  });
});
