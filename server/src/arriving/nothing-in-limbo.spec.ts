import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { cp, mkdir, mkdtemp, readdir, rename, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { setTimeout as sleep } from 'node:timers/promises';
import { clearanceNow, clearCard, restoreAt } from '../clearing/index.js';
import { compose } from '../composition.js';
import { giveBack } from '../counter/index.js';
import { beginFiling, planOf } from '../filing/index.js';
import { eventsOf, intakesWhere, theIntake } from '../house/index.js';
import { itemsOf, markAlreadyFiled, pictureAhead } from '../seeing/index.js';
import { changeSlip } from '../slip/index.js';
import { makeCard, realPictures } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, until, workerOf, type TestHouse } from '../testing/house.js';
import { tool } from '../testing/tools.js';
import { readIntake } from './read-items.js';
import { receiveCard } from './receive.js';

let test: TestHouse;
let cards = 0;
/** The same with places that stand on two devices, as a card needs that shall be cleared. */
let devices: TestHouse;
beforeAll(async () => {
  test = await openHouse();
  const folder = await mkdtemp(join(tmpdir(), 'tally-devices-'));
  const place = (id: string, kind: string) => ({ id, name: id, kind, root: join(folder, id), device: id });
  devices = await openHouse({ places: [place('shared', 'shared drive'), place('second', 'second copy')] as never });
});
afterAll(async () => {
  await test.end();
  await devices.end();
});

const card = (name = `CARD${++cards}`) => join(test.folder, 'cards', name);
const itemsByPath = async (id: number) => new Map((await itemsOf(test.house.db, id)).map((item) => [item.path, item]));

/** A card that was filed, and the same bytes under other names on another one. */
async function filedUnderOtherNames(files: Record<string, number>): Promise<string> {
  const first = await makeCard(card(), files, cards + 40);
  await fileNow(test.house, await bring(test, first));
  const again = card();
  await mkdir(join(again, 'DCIM'), { recursive: true });
  for (const name of Object.keys(files)) await cp(join(first, name), join(again, 'DCIM', `AGAIN_${name}`));
  return again;
}

/** What a reading that was killed right after marking leaves behind. */
async function marked(path: string): Promise<number> {
  const id = await receiveCard(test.house, path, 'test');
  await changeSlip(test.house, id, test.slip, 'test');
  const aborted = new AbortController();
  // Reads the metadata, then is killed before anything is compared.
  const reader = { ...test.house.reader, read: test.house.reader.read.bind(test.house.reader) };
  await readIntake({ ...test.house, reader }, id, aborted.signal, () => Promise.reject(new Error('killed'))).catch(
    () => undefined,
  );
  await test.house.db.query('update item set already_confirmed = false, already_filed_id = null where intake_id = $1', [id]);
  await test.house.db.query('update intake set read_through = false where id = $1', [id]);
  expect(await markAlreadyFiled(test.house.db, id)).toBeGreaterThan(0);
  return id;
}

describe('what looks filed is not filed until it is proven', () => {
  it('after a kill in the middle of comparing it stays in sight, is not filed twice, and the next reading proves it', async () => {
    const id = await marked(await filedUnderOtherNames({ '1.JPG': 70_000, '2.JPG': 80_000 }));
    const { view } = await planOf(test.house, id);
    expect(view.placements).toEqual([]);
    expect(view.left.map(({ reason }) => reason)).toEqual([
      expect.stringMatching(/^looks like 2026\/.* which is filed: being compared$/),
      expect.stringMatching(/being compared$/),
    ]);
    await readIntake(test.house, id, never);
    expect([...(await itemsByPath(id)).values()].map(({ alreadyFiled }) => alreadyFiled?.confirmed)).toEqual([true, true]);
    expect(await theIntake(test.house, id)).toMatchObject({ alreadyFiled: 2, comparing: 0, taken: 0, readThrough: true });
  });

  it('a card is not given back while it is being compared', async () => {
    const id = await marked(await filedUnderOtherNames({ '1.JPG': 71_000, '2.JPG': 81_000 }));
    const { refreshTotals } = await import('../seeing/index.js');
    await refreshTotals(test.house.db, id);
    await expect(giveBack(test.house, id, 'wren')).rejects.toThrow('2 are still being compared with what is filed');
    await readIntake(test.house, id, never);
    await giveBack(test.house, id, 'wren');
  });

  it('one file that cannot be read is not taken for filed: it goes into the plan; the others are settled', async () => {
    const path = await filedUnderOtherNames({ '1.JPG': 72_000, '2.JPG': 82_000, '3.JPG': 92_000 });
    const id = await marked(path);
    await rm(join(path, 'DCIM/AGAIN_2.JPG'));
    await mkdir(join(path, 'DCIM/AGAIN_2.JPG'));
    await readIntake(test.house, id, never);
    const items = await itemsByPath(id);
    expect(['1', '2', '3'].map((n) => items.get(`DCIM/AGAIN_${n}.JPG`)!.alreadyFiled?.confirmed ?? null)).toEqual([
      true,
      null,
      true,
    ]);
    const { view } = await planOf(test.house, id);
    expect(view.left.map(({ from }) => from)).not.toContain('DCIM/AGAIN_2.JPG');
    expect(view.placements.map(({ from }) => from)).toEqual(['DCIM/AGAIN_2.JPG']);
  });

  it('the same ends with another middle is another file', async () => {
    const path = await filedUnderOtherNames({ '1.JPG': 400_000 });
    tool(
      'dd',
      'if=/dev/urandom',
      `of=${join(path, 'DCIM/AGAIN_1.JPG')}`,
      'bs=1',
      'seek=200000',
      'count=8',
      'conv=notrunc',
      'status=none',
    );
    const id = await bring(test, path);
    expect((await itemsByPath(id)).get('DCIM/AGAIN_1.JPG')!.alreadyFiled).toBeNull();
    expect((await planOf(test.house, id)).view.placements).toHaveLength(1);
    expect(await theIntake(test.house, id)).toMatchObject({ readThrough: true });
  });
});

describe('every kind of work is found by a sweep', () => {
  const lossy = () => ({
    ...test.house,
    jobs: { read: () => Promise.resolve(), file: () => Promise.resolve(), card: () => Promise.resolve() },
  });

  it('a reading whose job was lost, and one that was killed half way, are finished', async () => {
    const lost = await receiveCard(lossy(), await makeCard(card(), { '1.JPG': 5000 }, 90), 'test');
    const path = await filedUnderOtherNames({ '1.JPG': 73_000, '2.JPG': 83_000 });
    const killed = await marked(path);
    const worker = workerOf(test, false);
    await worker.start();
    for (const id of [lost, killed]) await until(async () => (await theIntake(test.house, id)).readThrough);
    await worker.stop();
    expect(await theIntake(test.house, lost)).toMatchObject({ read: 1 });
    expect(await theIntake(test.house, killed)).toMatchObject({ alreadyFiled: 2, comparing: 0 });
  });

  it('a card pulled while its pictures are made gets them when it is back', async () => {
    const path = card();
    await realPictures(path, 3, 'jhead/normal-digicams');
    const id = await bring(test, path);
    const pocket = join(test.folder, 'pocket');
    await rename(path, pocket);
    while ((await pictureAhead(test.house)) > 0);
    const pictured = async () =>
      (
        await test.house.db.query<[{ n: number }]>('select count(*)::int as n from item where intake_id = $1 and pictured', [id])
      )[0].n;
    expect(await pictured()).toBe(0);
    await rename(pocket, path);
    while ((await pictureAhead(test.house)) > 0);
    expect(await pictured()).toBe(3);
    expect([...(await itemsByPath(id)).values()].every(({ look }) => look !== null)).toBe(true);
  });
});

describe('a card that is cleared while its station watches', () => {
  it('stays the card it was, with nothing on it: it is neither gone nor a new one', async () => {
    const path = join(test.folder, 'reader', 'CLEARED');
    const making = await makeCard(
      join(test.folder, 'making', 'CLEARED'),
      Object.fromEntries(Array.from({ length: 300 }, (_, n) => [`DCIM/${n}.JPG`, 4000 + n])),
      95,
    );
    const worker = workerOf(devices);
    await worker.start();
    await mkdir(join(devices.folder, 'reader'), { recursive: true });
    const here = path.replace(test.folder, devices.folder);
    await rename(making, here);
    const { id } = await until(
      async () => (await intakesWhere(devices.house.db, `k.volume = 'CLEARED' and i.read_through`, []))[0],
    );
    await changeSlip(devices.house, id, devices.slip, 'test');
    const { view } = await planOf(devices.house, id);
    await beginFiling(devices.house, id, view.seal, 'test');
    await until(async () => (await theIntake(devices.house, id)).state === 'tallied');
    expect(
      await clearCard(devices.house, id, { files: 300, letGo: false, keep: false, sure: false }, { who: 'wren' }),
    ).toMatchObject({
      removed: 300,
    });
    await sleep(6 * devices.house.intervals.readersMs);
    expect(await intakesWhere(devices.house.db, `k.volume = 'CLEARED'`, [])).toHaveLength(1);
    expect(await theIntake(devices.house, id)).toMatchObject({ present: true, witness: null });

    // Nor is it another one while it is restored, with half of its files there.
    expect(await restoreAt(devices.house, id, id, 'wren')).toMatchObject({ restored: 300, failed: [] });
    await sleep(6 * devices.house.intervals.readersMs);
    expect(await intakesWhere(devices.house.db, `k.volume = 'CLEARED'`, [])).toHaveLength(1);
    expect(await theIntake(devices.house, id)).toMatchObject({ present: true });
    await worker.stop();
  });
});

describe('a card that could not be received at first', () => {
  it('is received at a later look', async () => {
    const worker = workerOf(test);
    await worker.start();
    const owner = new pg.Client({ connectionString: test.database.adminUrl });
    await owner.connect();
    // For a moment nothing can be written down of a card.
    await owner.query('alter table intake add constraint closed_for_a_moment check (id < 0) not valid');
    await makeCard(join(test.folder, 'making', 'LATE'), { '1.JPG': 5100 }, 94);
    await mkdir(join(test.folder, 'reader'), { recursive: true });
    await rename(join(test.folder, 'making', 'LATE'), join(test.folder, 'reader', 'LATE'));
    await sleep(400);
    expect(await intakesWhere(test.house.db, `k.volume = 'LATE'`, [])).toEqual([]);
    await owner.query('alter table intake drop constraint closed_for_a_moment');
    await owner.end();
    await until(async () => (await intakesWhere(test.house.db, `k.volume = 'LATE' and i.read_through`, []))[0]);
    await worker.stop();
  });
});

describe('one card, one intake', () => {
  it('received by six at once, in two processes', async () => {
    const other = await compose(test.settings, { clock: () => test.clock.now });
    const path = await makeCard(card(), { '1.JPG': 6000, '2.JPG': 7000 }, 91);
    const ids = await Promise.all(
      [test.house, other.house, test.house, other.house, test.house, other.house].map((house) =>
        receiveCard(house, path, 'test'),
      ),
    );
    await other.close();
    expect(new Set(ids).size).toBe(1);
    expect(await intakesWhere(test.house.db, 'i.source_path = $1', [path])).toHaveLength(1);
    expect((await eventsOf(test.house.db, ids[0]!)).filter(({ kind }) => kind === 'received')).toHaveLength(1);
  });
});

describe('an empty mount point is not the card', () => {
  /** Mounts a memory file system where that is allowed; else moves the content away, which leaves the folder as bare. */
  const reader = () => join(test.folder, 'reader', 'MOUNTED');
  const mayMount = process.getuid?.() === 0 && tryMount();
  function tryMount(): boolean {
    try {
      tool('unshare', '--mount', 'mount', '-t', 'tmpfs', 'none', '/mnt');
      return true;
    } catch {
      return false;
    }
  }
  const pocket = () => join(test.folder, 'in-a-pocket');
  const put = async () => {
    await mkdir(reader(), { recursive: true });
    if (mayMount) tool('mount', '--bind', pocket(), reader());
    else for (const name of await readdir(pocket())) await rename(join(pocket(), name), join(reader(), name));
  };
  const take = async () => {
    if (mayMount) tool('umount', reader());
    else for (const name of await readdir(reader())) await rename(join(reader(), name), join(pocket(), name));
  };

  it('gone is gone, back is back, work goes on; what is left behind is never safe to clear', async () => {
    await makeCard(pocket(), { 'DCIM/1.JPG': 8_000, 'DCIM/2.JPG': 9_000 }, 92);
    const worker = workerOf(test);
    await worker.start();
    try {
      await sleep(200);
      await put();
      const { id } = await until(
        async () => (await intakesWhere(test.house.db, `k.volume = 'MOUNTED' and i.read_through`, []))[0],
      );
      await take();
      await until(async () => !(await theIntake(test.house, id)).present);
      expect(await readdir(reader())).toEqual([]);
      await expect(clearanceNow(test.house, id, false)).rejects.toThrow('not in the reader');
      const emptied = await clearanceNow(test.house, id, false, null, reader());
      expect(emptied).toMatchObject({ safe: false, files: 0 });
      expect(emptied.reasons[0]).toMatchObject({ kind: 'empty' });
      // The folder that stays is no card of its own, however often it is looked at.
      await sleep(500);
      expect(await intakesWhere(test.house.db, `k.volume = 'MOUNTED'`, [])).toHaveLength(1);
      await put();
      await until(async () => (await theIntake(test.house, id)).present);
      expect((await eventsOf(test.house.db, id)).map(({ kind }) => kind)).toEqual(
        expect.arrayContaining(['card gone', 'card back']),
      );
      expect([...(await itemsByPath(id)).values()].map(({ remark }) => remark?.includes('ENOENT') ?? false)).toEqual([
        false,
        false,
      ]);
    } finally {
      await take().catch(() => undefined);
      await worker.stop();
    }
  });

  it('unmounted in the middle of filing: nothing becomes unreadable, and it goes on by itself when the card is back', async () => {
    const path = await makeCard(
      card(),
      Object.fromEntries(Array.from({ length: 12 }, (_, n) => [`A/${n}.JPG`, 900_000 + n])),
      93,
    );
    const id = await bring(test, path);
    const away = join(test.folder, 'away');
    await mkdir(away);
    let reads = 0;
    const leave = async () => {
      if (++reads === 5) await rename(join(path, 'A'), join(away, 'A'));
    };
    const { flakyFiles } = await import('../../../standins/src/flaky-files.js');
    await fileNow({ ...test.house, files: flakyFiles([{ path: path, onRead: leave }]) }, id);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'needs attention', present: false });
    const { copiesOf } = await import('../filing/index.js');
    const states = (await copiesOf(test.house.db, id)).flatMap(({ copies }) => copies.map(({ state }) => state));
    expect(states).not.toContain('unreadable');
    await rename(join(away, 'A'), join(path, 'A'));
    const worker = workerOf(test);
    await worker.start();
    expect(await receiveCard(test.house, path, 'test')).toBe(id);
    await until(async () => (await theIntake(test.house, id)).state === 'tallied');
    await worker.stop();
  });
});
