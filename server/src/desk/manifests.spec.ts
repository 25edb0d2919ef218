import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { mkdir, readdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { IntakeRecord } from '@tally/contract';
import { CHECKSUM_FILE, readChecksums } from '@tally/core/manifest';
import { eventsOf } from '../store/events.js';
import { copiesOf } from '../store/filed.js';
import { makeCard, realPictures } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse } from '../testing/house.js';
import { planOf } from './plan.js';
import { theIntake } from './slip.js';

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
  return { id, folders: [...new Set((await copiesOf(test.house.db, id)).map(({ to }) => dirname(to)))] };
}
const listOf = (root: string, folder: string) => readFileSync(join(root, folder, CHECKSUM_FILE), 'utf8');

describe('beside the files', () => {
  it('a checksum list stands at each place, which the hash tool of the system can check', async () => {
    const { id, folders } = await filed({ 'A/1.JPG': 1000, 'A/2.JPG': 70_000, 'A/2.DNG': 0 });
    for (const root of [test.shared, test.second]) {
      const list = listOf(root, folders[0]!);
      expect(readChecksums(list)).toHaveLength(3);
      // Outside check: xxHash's own tool.
      const told = execFileSync('xxhsum', ['-c', CHECKSUM_FILE], { cwd: join(root, folders[0]!), encoding: 'utf8' });
      expect(told.match(/: OK/g)).toHaveLength(3);
      expect((await readdir(join(root, folders[0]!))).filter((name) => name.endsWith('.part'))).toEqual([]);
    }
    const hashes = new Map((await copiesOf(test.house.db, id)).map(({ to, hash }) => [to, hash]));
    for (const { name, hash } of readChecksums(listOf(test.shared, folders[0]!))!)
      expect(hashes.get(`${folders[0]!}/${name}`)).toBe(hash);
  });

  it('the list is extended when more is filed into the same folder, and what is written beside is no clash', async () => {
    const before = (await filed({ 'A/3.JPG': 1100 })).folders[0]!;
    const known = readChecksums(listOf(test.shared, before))!.length;
    const { folders } = await filed({ 'A/4.JPG': 1200, 'A/5.JPG': 1300 });
    expect(folders).toEqual([before]);
    expect(readChecksums(listOf(test.shared, before))).toHaveLength(known + 2);
  });

  it('two cards filed into one folder at once: the list holds both', async () => {
    const ids = await Promise.all(
      [1, 2].map(async (n) => {
        const path = join(test.folder, `TWIN${n}`);
        await makeCard(path, { [`A/${n}1.JPG`]: 400 + n, [`A/${n}2.JPG`]: 500 + n }, 9000 + n * 10);
        return bring(test, path);
      }),
    );
    const file = async (id: number): Promise<void> => fileNow(test.house, id).catch(() => file(id));
    await Promise.all(ids.map(file));
    const copies = (await Promise.all(ids.map((id) => copiesOf(test.house.db, id)))).flat();
    const listed = new Set(readChecksums(listOf(test.shared, dirname(copies[0]!.to)))!.map(({ name }) => name));
    expect(copies.every(({ to }) => listed.has(to.split('/').at(-1)!))).toBe(true);
  });

  it('a record says all that the logbook knows, without the database', async () => {
    const path = join(test.folder, 'REAL');
    await realPictures(path, 3, 'jhead/normal-digicams');
    const id = await bring(test, path);
    await fileNow(test.house, id);
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

  it("a stranger's file under these names is left alone, and that is logged", async () => {
    const path = join(test.folder, 'STRANGE');
    await makeCard(path, { 'A/8.JPG': 800 }, 77_000);
    const id = await bring(test, path, { ...test.slip });
    const { view } = await planOf(test.house, test.house.db, id, false);
    const folder = join(test.second, view.folders[0]!.path);
    await mkdir(folder, { recursive: true });
    await writeFile(join(folder, CHECKSUM_FILE), 'a shopping list\n');
    await fileNow(test.house, id);
    expect(readFileSync(join(folder, CHECKSUM_FILE), 'utf8')).toBe('a shopping list\n');
    expect((await theIntake(test.house, id)).state).toBe('tallied');
    const told = (await eventsOf(test.house.db, id)).find(({ kind }) => kind === 'manifest');
    expect(told?.text).toContain('is not ours');
  });
});
