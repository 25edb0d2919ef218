import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { existsSync } from 'node:fs';
import { mkdir, mkdtemp, readdir, rename, utimes } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { compose, type Composition } from '../composition.js';
import { beginFiling, copiesOf, planOf } from '../filing/index.js';
import { eventsOf, type House, intakesWhere, theIntake } from '../house/index.js';
import { changeSlip } from '../slip/index.js';
import { makeCard } from '../testing/cards.js';
import { openHouse, type TestHouse, until, workerOf } from '../testing/house.js';
import { tool } from '../testing/tools.js';
import type { Worker } from '../work/worker.js';
import { clearanceOf, clearAt, restoreAt } from './at-station.js';
import { clearCard } from './clear-card.js';
import { addWork, workById } from './store/card-work.js';

/** The desk has no reader; the boathouse has one, and works. */
let desk: Composition;
let boathouse: TestHouse;
let worker: Worker;
let cards = 0;
beforeAll(async () => {
  const root = await mkdtemp(join(tmpdir(), 'tally-devices-'));
  const place = (id: string, kind: string) => ({ id, name: id, kind, root: join(root, id), device: id });
  boathouse = await openHouse({ places: [place('shared', 'shared drive'), place('second', 'second copy')] as never });
  const settings = { ...boathouse.settings, station: 'Desk', readers: [], dataDir: join(boathouse.folder, 'desk') };
  desk = await compose(settings, { clock: () => boathouse.clock.now, intervals: boathouse.house.intervals });
  worker = workerOf(boathouse);
  await worker.start();
});
afterAll(async () => {
  await worker.stop();
  await desk.close();
  await boathouse.end();
});

/** Said at the desk, done by the boathouse. */
async function file(id: number): Promise<void> {
  const { view } = await planOf(desk.house, id);
  expect((await beginFiling(desk.house, id, view.seal, 'wren')).outcome).toBe('begun');
  await until(async () => (await theIntake(desk.house, id)).state === 'tallied');
}

/** A card in the boathouse's reader, filed from the desk. */
async function filedCard(
  files: Record<string, number> = { 'DCIM/1.JPG': 5000, 'DCIM/2.JPG': 6000 },
): Promise<{ id: number; path: string }> {
  const name = `CARD${++cards}`;
  await makeCard(join(boathouse.folder, 'making', name), files, cards * 100);
  // Cards are known by the names, sizes and times of their files: these are all different cards.
  const time = new Date(Date.parse('2026-04-18T09:00:00Z') + cards * 60_000);
  for (const file of Object.keys(files)) await utimes(join(boathouse.folder, 'making', name, file), time, time);
  const path = join(boathouse.folder, 'reader', name);
  await rename(join(boathouse.folder, 'making', name), path);
  const { id } = await until(async () => (await intakesWhere(desk.house.db, 'k.volume = $1 and i.read_through', [name]))[0]);
  await changeSlip(desk.house, id, boathouse.slip, 'wren');
  await file(id);
  return { id, path };
}
const ask = { files: 2, letGo: false, keep: false, sure: false };
const on = async (path: string) => (await readdir(path, { recursive: true })).filter((name) => name.endsWith('.JPG'));
const kinds = async (id: number) => (await eventsOf(desk.house.db, id)).map(({ kind }) => kind);

describe('a card in the reader of another station', () => {
  it('is looked at, cleared and restored from the desk; the station does it', async () => {
    const { id, path } = await filedCard();
    tool('cp', '-a', path, `${path}-before`.replace('reader', 'making'));
    expect(await clearanceOf(desk.house, id, true)).toMatchObject({ safe: true, files: 2, full: true });
    expect(await clearAt(desk.house, id, ask, 'wren')).toEqual({ removed: 2, bytes: 11_000, stayed: [] });
    expect(await on(path)).toEqual([]);
    expect((await eventsOf(desk.house.db, id)).find(({ kind }) => kind === 'cleared')).toMatchObject({ who: 'wren' });
    expect(await restoreAt(desk.house, id, id, 'wren')).toMatchObject({ restored: 2, failed: [] });
    expect(tool('diff', '-r', `${path}-before`.replace('reader', 'making'), path)).toBe('');
    expect(await intakesWhere(desk.house.db, 'i.source_path = $1', [path])).toHaveLength(1);
  });

  it('is refused in the words of the station', async () => {
    const { id, path } = await filedCard();
    await expect(clearAt(desk.house, id, { ...ask, files: 3 }, 'wren')).rejects.toThrow('There are 2 files to clear now, not 3');
    await mkdir(join(path, 'DCIM/NEW'));
    await makeCard(join(path, 'DCIM/NEW'), { '9.JPG': 10 }, 7);
    expect(await clearanceOf(desk.house, id, false)).toMatchObject({ safe: false });
    await expect(clearAt(desk.house, id, ask, 'wren')).rejects.toThrow('Not safe to clear: 1 file is new');
    await expect(clearAt(desk.house, id, { ...ask, items: [2_000_000_000] }, 'wren')).rejects.toThrow('There is no such item');
    expect(await on(path)).toHaveLength(3);
  });

  it('that is off is waited for ten seconds, and does nothing later', async () => {
    const { id, path } = await filedCard();
    await worker.stop();
    await expect(clearAt(desk.house, id, ask, 'wren')).rejects.toThrow(
      'Test station, which has the card in its reader, does not answer',
    );
    worker = workerOf(boathouse);
    await worker.start();
    await new Promise((resolve) => setTimeout(resolve, 1_500));
    expect(await on(path)).toHaveLength(2);
    expect(await kinds(id)).not.toContain('clearing');
  });

  it('two who ask at once, from two stations: one does it', async () => {
    const { id, path } = await filedCard();
    const outcomes = await Promise.allSettled([clearAt(desk.house, id, ask, 'wren'), clearAt(boathouse.house, id, ask, 'tomas')]);
    expect(outcomes.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await on(path)).toEqual([]);
    expect((await kinds(id)).filter((kind) => kind === 'cleared')).toHaveLength(1);
  });
});

describe('whoever is killed at it', () => {
  const work = (id: number, kind: 'clear' | 'restore' | 'look') => ({
    kind,
    intakeId: id,
    ofIntakeId: id,
    station: 'Test station',
    ask,
    who: 'wren',
  });

  it('while clearing: the rest stays, that is said, and the card is still the one it was', async () => {
    const { id, path } = await filedCard({ 'DCIM/1.JPG': 5000, 'DCIM/2.JPG': 6000, 'DCIM/3.JPG': 7000 });
    // What a process leaves behind that was killed after its first file: the card in nobody's hands, the work begun.
    await boathouse.house.locks.hold('card', id, new AbortController().signal, async () => {
      tool('rm', join(path, 'DCIM/1.JPG'));
      await addWork(desk.house.db, work(id, 'clear'), 'doing');
    });
    await until(async () => (await kinds(id)).includes('clearing interrupted'));
    expect(await on(path)).toHaveLength(2);
    const { witness, present } = await theIntake(desk.house, id);
    expect([present, existsSync(join(path, String(witness)))]).toEqual([true, true]);
    expect(await intakesWhere(desk.house.db, 'i.source_path = $1', [path])).toHaveLength(1);
    expect(await clearAt(desk.house, id, ask, 'wren')).toMatchObject({ removed: 2 });
  });

  it('while restoring: it goes on by itself', async () => {
    const { id, path } = await filedCard();
    await clearAt(desk.house, id, ask, 'wren');
    const workId = await addWork(desk.house.db, work(id, 'restore'), 'doing');
    await until(async () => (await workById(desk.house.db, workId))?.state === 'done');
    for (const { from, to } of await copiesOf(desk.house.db, id))
      tool('cmp', join(path, from), join(boathouse.settings.places[0]!.root, to));
  });

  it('while looking: whoever asked is told to look again', async () => {
    const { id } = await filedCard();
    const workId = await addWork(desk.house.db, work(id, 'look'), 'doing');
    await until(async () => (await workById(desk.house.db, workId))?.problem?.includes('Look again'));
  });
});

describe('a card that is being cleared', () => {
  const holding = (house: House, id: number, run: () => Promise<unknown>) =>
    house.locks.hold('card', id, new AbortController().signal, async () => {
      await run();
    });

  it('is not filed meanwhile, from whichever station', async () => {
    const { id, path } = await filedCard();
    await makeCard(join(path, 'DCIM/MORE'), { '9.JPG': 4321 }, 9);
    await rename(path, `${path}-b`);
    const again = await until(
      async () => (await intakesWhere(desk.house.db, 'i.source_path = $1 and i.read_through', [`${path}-b`]))[0],
    );
    expect(again.id).not.toBe(id);
    await changeSlip(desk.house, again.id, boathouse.slip, 'wren');
    await holding(boathouse.house, again.id, async () => {
      await expect(file(again.id)).rejects.toThrow('This card is being cleared or restored');
      await expect(clearCard(boathouse.house, again.id, ask, { who: 'wren' })).rejects.toThrow(
        'Somebody clears or restores this card',
      );
    });
    await file(again.id);
  });
});
