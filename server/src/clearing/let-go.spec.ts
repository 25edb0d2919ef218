import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { mkdir, mkdtemp, rename } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { readersCommand } from '../arriving/index.js';
import { printingTo } from '../cli/output.js';
import { compose, type Composition } from '../composition.js';
import { beginFiling, planOf } from '../filing/index.js';
import { eventsOf, intakesWhere, theIntake } from '../house/index.js';
import { changeSlip } from '../slip/index.js';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse, until, workerOf } from '../testing/house.js';
import type { Worker } from '../work/worker.js';
import { clearAt, letGoAt, pullingOfIntake } from './index.js';
import { pullCommand } from './pull-command.js';
import { addWork, endWork, workById } from './store/card-work.js';

/* A reader whose cards are let go by a command of the house: it takes the folder away from where cards appear. */

let desk: Composition;
let test: TestHouse;
let worker: Worker;
let cards = 0;
const slots = () => join(test.folder, 'slots');
beforeAll(async () => {
  const look = ['node', '-e', `console.log(JSON.stringify({ reader: 'Brackwater 4', slot: 'slot 2', capacityBytes: 32e9 }))`];
  const letGo = [
    'sh',
    '-c',
    'test ! -e "$1/BUSY.TXT" || { echo "target is busy" >&2; exit 1; }; mv "$1" "$(dirname "$1")/../slots/"',
    'let-go',
    '{folder}',
  ];
  const root = await mkdtemp(join(tmpdir(), 'tally-let-go-'));
  const place = (id: string, kind: string) => ({ id, name: id, kind, root: join(root, id), device: id });
  const places = [place('shared', 'shared drive'), place('second', 'second copy')] as never;
  test = await openHouse({ places, reader: { look, letGo }, letGoAfter: ['clearing'] });
  await mkdir(slots());
  const settings = { ...test.settings, station: 'Desk', readers: [], reader: {}, dataDir: join(test.folder, 'desk') };
  desk = await compose(settings, { clock: () => test.clock.now, intervals: test.house.intervals });
  worker = workerOf(test);
  await worker.start();
});
afterAll(async () => {
  await worker.stop();
  await desk.close();
  await test.end();
});

async function cardIn(extra: Record<string, number> = {}): Promise<{ id: number; path: string }> {
  const name = `CARD${++cards}`;
  const making = join(test.folder, 'making', name);
  await makeCard(making, { [`DCIM/${cards}A.JPG`]: 4000 + cards, [`DCIM/${cards}B.JPG`]: 5000 + cards, ...extra }, cards);
  const path = join(test.folder, 'reader', name);
  await rename(making, path);
  const found = await until(async () => (await intakesWhere(test.house.db, 'k.volume = $1 and i.read_through', [name]))[0]);
  return { id: found.id, path };
}
async function filedCard(): Promise<{ id: number; path: string }> {
  const card = await cardIn();
  await changeSlip(test.house, card.id, test.slip, 'wren');
  const { view } = await planOf(test.house, card.id);
  await beginFiling(test.house, card.id, view.seal, 'wren');
  await until(async () => (await theIntake(test.house, card.id)).state === 'tallied');
  return card;
}
const standing = async (id: number) => pullingOfIntake(await theIntake(test.house, id)).standing;
const kinds = async (id: number) => (await eventsOf(test.house.db, id)).map(({ kind }) => kind);
const backIn = (path: string) => rename(join(slots(), basename(path)), path);

describe('letting a card go', () => {
  it('is done when nothing needs it: then it may be pulled, until it is put in again', async () => {
    const { id, path } = await filedCard();
    expect((await theIntake(test.house, id)).reader).toMatchObject({ reader: 'Brackwater 4', capacityBytes: 32e9, letsGo: true });
    expect(await standing(id)).toBe('let it go');
    expect(await letGoAt(test.house, id, { anyway: false }, 'wren')).toEqual({
      intakeId: id,
      words: `${basename(path)} may be pulled.`,
    });
    expect(await theIntake(test.house, id)).toMatchObject({ present: false, letGo: 'done' });
    expect(await standing(id)).toBe('may be pulled');
    // That its folder went away is no surprise to anybody.
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(await kinds(id)).toContain('let go');
    expect(await kinds(id)).not.toContain('card gone');
    await backIn(path);
    await until(async () => (await theIntake(test.house, id)).present);
    expect(await theIntake(test.house, id)).toMatchObject({ letGo: null, state: 'tallied' });
  });

  it('is refused while something on it waits, and done all the same when a person says so', async () => {
    const { id } = await cardIn();
    await expect(letGoAt(test.house, id, { anyway: false }, 'wren')).rejects.toThrow('Not yet: 2 taken are not filed.');
    expect(await theIntake(test.house, id)).toMatchObject({ present: true, letGo: null });
    await letGoAt(test.house, id, { anyway: true }, 'wren');
    expect(await theIntake(test.house, id)).toMatchObject({ present: false, letGo: 'done', state: 'open' });
  });

  it('that fails leaves it in the reader, in use, and says why; nobody is stuck', async () => {
    const { id } = await cardIn({ 'BUSY.TXT': 3 });
    await expect(letGoAt(test.house, id, { anyway: true }, 'wren')).rejects.toThrow(
      'target is busy. It is still in use: do not pull it.',
    );
    expect(await theIntake(test.house, id)).toMatchObject({ present: true, letGo: null });
    await expect(letGoAt(test.house, id, { anyway: true }, 'wren')).rejects.toThrow('busy');
  });

  it('is asked of the station that has the card', async () => {
    const { id } = await filedCard();
    expect(await letGoAt(desk.house, id, { anyway: false }, 'wren')).toMatchObject({ intakeId: id });
    expect(await theIntake(desk.house, id)).toMatchObject({ present: false, letGo: 'done' });
    await expect(letGoAt(desk.house, id, { anyway: false }, 'wren')).rejects.toThrow('not in the reader');
  });

  it('by whoever was killed at it is found by a sweep: it is in the reader as before', async () => {
    const { id } = await filedCard();
    const work = {
      kind: 'let go',
      intakeId: id,
      ofIntakeId: id,
      station: 'Test station',
      ask: { anyway: false },
      who: 'wren',
    } as const;
    const workId = await test.house.locks
      .hold('card', id, new AbortController().signal, async () => {
        await test.house.db.query(`update intake set let_go = 'asked' where id = $1`, [id]);
      })
      .then(() => addWork(test.house.db, work, 'doing'));
    await until(async () => (await theIntake(test.house, id)).letGo === null);
    expect(await workById(test.house.db, workId)).toMatchObject({ state: 'refused' });
    expect(await standing(id)).toBe('let it go');
  });

  it('by whoever was killed when it was out already is told as let go, not as taken out', async () => {
    const { id, path } = await filedCard();
    const work = { intakeId: id, ofIntakeId: id, station: 'Test station', ask: { anyway: false }, who: 'wren' };
    let workId = 0;
    await test.house.locks.hold('card', id, new AbortController().signal, async () => {
      workId = await addWork(test.house.db, { ...work, kind: 'let go' }, 'doing');
      await test.house.db.query(`update intake set let_go = 'asked' where id = $1`, [id]);
      await rename(path, join(slots(), basename(path)));
      await until(async () => !(await theIntake(test.house, id)).present);
    });
    await until(async () => (await kinds(id)).includes('let go'));
    expect(await kinds(id)).not.toContain('card gone');
    expect(await workById(test.house.db, workId)).toMatchObject({ state: 'done', answer: { intakeId: id } });
    expect(await standing(id)).toBe('may be pulled');
    await backIn(path);
    await until(async () => (await theIntake(test.house, id)).present);
  });

  it('happens by itself after clearing, where the house says so', async () => {
    const { id } = await filedCard();
    await clearAt(test.house, id, { files: 2, letGo: false, keep: false, sure: false }, 'wren');
    await until(async () => (await theIntake(test.house, id)).letGo === 'done');
    expect((await eventsOf(test.house.db, id)).find(({ kind }) => kind === 'let go')).toMatchObject({ who: 'Test station' });
  });
});

describe('a card that is a plain folder', () => {
  it('needs no letting go: it may be pulled as soon as nothing needs it', async () => {
    const plain = await openHouse();
    const path = await makeCard(join(plain.folder, 'PLAIN'), { 'DCIM/1.JPG': 100 });
    const id = await bring(plain, path);
    await fileNow(plain.house, id);
    const intake = await theIntake(plain.house, id);
    expect([intake.reader?.letsGo, pullingOfIntake(intake).standing]).toEqual([false, 'may be pulled']);
    expect(await letGoAt(plain.house, id, { anyway: false }, 'wren')).toEqual({ intakeId: id, words: 'PLAIN may be pulled.' });
    expect(await theIntake(plain.house, id)).toMatchObject({ present: true, letGo: null });
    // Whatever is done to the card itself is known to whoever asks, also of one that was killed at it.
    const work = { intakeId: id, ofIntakeId: id, station: 'Test station', ask: {}, who: 'wren' };
    for (const [kind, why] of [
      ['clear', 'it is being cleared'],
      ['restore', 'files are put back on it'],
    ] as const) {
      const doing = await addWork(plain.house.db, { ...work, kind }, 'doing');
      expect(pullingOfIntake(await theIntake(plain.house, id))).toEqual({ standing: 'needed', why, waits: false });
      await expect(letGoAt(plain.house, id, { anyway: true }, 'wren')).rejects.toThrow(`Not yet: ${why}.`);
      await endWork(plain.house.db, doing, {});
    }
    await plain.end();
  });
});

describe('on the command line', () => {
  const printed = async (run: () => Promise<number>) => {
    const lines: string[] = [];
    const code = await printingTo(
      { out: (text: string) => void lines.push(text), err: (text: string) => void lines.push(text) },
      run,
    );
    return { code, text: lines.join('') };
  };

  it('tally readers: slots, capacity, state; also of what was let go', async () => {
    const { id, path } = await filedCard();
    const { text } = await printed(() => readersCommand(test.house, { json: true }));
    const lines = text
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Record<string, unknown>);
    expect(lines.find(({ folder }) => folder === path)).toMatchObject({
      ...{ reader: 'Brackwater 4', slot: 'slot 2', capacityBytes: 32e9, state: 'let it go', why: null },
    });
    await letGoAt(test.house, id, { anyway: false }, 'wren');
    const after = await printed(() => readersCommand(test.house, {}));
    expect(after.text).toMatch(new RegExp(`${basename(path)} .*may be pulled`));
  });

  it('tally pull: by its name or its folder; what is not there is said', async () => {
    const { path } = await filedCard();
    expect((await printed(() => pullCommand(test.house, basename(path), {}))).text).toBe(`${basename(path)} may be pulled.\n`);
    await expect(pullCommand(test.house, 'C-999', {})).rejects.toThrow('No card C-999 is in a reader.');
    const other = await filedCard();
    expect((await printed(() => pullCommand(test.house, other.path, {}))).text).toContain('may be pulled');
  });
});
