import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { execFile } from 'node:child_process';
import { createWriteStream } from 'node:fs';
import { mkdir, readdir, readFile, readlink, rename, rm, truncate } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { promisify } from 'node:util';
import { ShelfQuery } from '@tally/contract';
import { carryOut, beginFiling, planOf } from '../filing/index.js';
import { addToList, changeContributor, makeContributor } from '../people/index.js';
import { itemsOf, judgeItems, takeItems } from '../seeing/index.js';
import { changeCredit, changeSlip } from '../slip/index.js';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse, until } from '../testing/house.js';
import { shelfPage, understood, whatItIsMadeOf } from './asking.js';
import { changeBundle, emptyBundle, endBundle, fillBundle, makeBundle, moveInBundle, sayBundles } from './bundles.js';
import { beforeFetching, zipOf } from './fetching.js';
import { figuresFor } from './figures.js';
import { exportList } from './listed.js';
import { whereIs } from './looking.js';
import { changeStanding, endStanding, keepQuestion, lookAtStanding, standingViews } from './standing.js';
import { shelfNow } from './kept-shelf.js';

const run = promisify(execFile);

let test: TestHouse;
let first: number;
let ids: number[];
beforeAll(async () => {
  test = await openHouse();
  const card = await makeCard(join(test.folder, 'ONE'), { '1.JPG': 4001, '2.JPG': 4002, '3.JPG': 4003, 'NOTES.WAV': 900 });
  first = await bring(test, card);
  ids = (await itemsOf(test.house.db, first)).map(({ id }) => id);
});
afterAll(() => test.end());

const page = (question: string, more: object = {}) => shelfPage(test.house, ShelfQuery.parse({ question, ...more }));
const found = async (question: string) => (await page(question)).items.map(({ path }) => path.split('/').at(-1)).sort();

describe('the shelf', () => {
  it('is empty before anything is filed, and has what is filed at once', async () => {
    expect((await page('')).total).toBe(0);
    const { view } = await planOf(test.house, first);
    await beginFiling(test.house, first, view.seal, 'wren');
    // Promised is not filed.
    expect((await page('')).total).toBe(0);
    await carryOut(test.house, first, never);
    const all = await page('');
    expect(all).toMatchObject({ total: 4, bytes: 4001 + 4002 + 4003 + 900, from: 0 });
    expect(all.items[0]).toMatchObject({
      intake: { id: first },
      contributor: { code: 'IB' },
      assignment: { slug: 'reed-planting' },
      away: null,
      terms: { mark: 'ask' },
    });
  });

  it('answers by what is said of items, slips and records, at once when it changes', async () => {
    await judgeItems(test.house, first, { itemIds: [ids[0]!], verdict: 'select', description: 'Grey heron at the sluice' });
    expect(await found('select heron')).toHaveLength(1);
    expect(await found('by:IB -select')).toHaveLength(3);
    await changeCredit(test.house, { itemIds: [ids[1]!], addWords: ['eelgrass'] }, 'wren');
    expect(await found('eelg')).toHaveLength(1);
    const priya = await makeContributor(test.house, { name: 'Priya Lind', code: 'PL' }, 'test');
    await changeCredit(test.house, { itemIds: ids, contributorId: priya }, 'wren');
    expect(await found('priya lind')).toHaveLength(4);
    expect(await found('IB word:nobody')).toHaveLength(0);
    await changeContributor(test.house, priya, { name: 'Priya Solberg', revision: 1 }, 'wren');
    expect(await found('solb')).toHaveLength(4);
    expect(await found('lind')).toHaveLength(0);
    await changeSlip(test.house, first, { addWords: ['saltmarsh'] }, 'wren');
    expect(await found('saltmarsh')).toHaveLength(4);
    await changeCredit(test.house, { itemIds: ids, contributorId: null }, 'wren');
  });

  it('says what an answer is made of, and leaves as a list', async () => {
    const made = await whatItIsMadeOf(test.house, 'heron');
    expect(made).toMatchObject({ total: 1, contributors: [{ words: 'Ines Barrow', text: 'by:IB', items: 1 }] });
    let csv = '';
    const list = {
      question: 'heron',
      order: 'taken',
      descending: true,
      columns: ['name', 'contributor', 'description'],
    } as const;
    for await (const piece of exportList(test.house, { ...list, columns: [...list.columns] }, 'csv')) csv += piece;
    expect(csv).toMatch(/^name,contributor,description\r\n[^,]+,Ines Barrow,Grey heron at the sluice\r\n$/);
  });

  it('has at once what twelve people said one after the other and beside each other', async () => {
    await Promise.all(
      Array.from({ length: 12 }, async (_, turn) => {
        // Three items of four people each: what the last of them said stands.
        await judgeItems(test.house, first, { itemIds: [ids[turn % 3]!], description: `turn number ${turn}` });
        await page(`"number ${turn}"`);
      }),
    );
    for (const { id, description } of (await itemsOf(test.house.db, first)).slice(0, 3))
      expect((await page(`"${description}"`)).items.map((item) => item.id)).toEqual([id]);
    await judgeItems(test.house, first, { itemIds: [ids[0]!], description: 'Grey heron at the sluice' });
  });

  it('knows no minor by name where whoever asks may not see persons', async () => {
    const { house } = test;
    const totals = async (question: string) => {
      const query = ShelfQuery.parse({ question });
      return [(await shelfPage(house, query)).total, (await shelfPage(house, query, true)).total];
    };
    const [seen, blind] = await totals('"Ines Barrow"');
    expect([seen! > 0, blind]).toEqual([true, seen]);
    await changeContributor(house, test.slip.contributorId, { minor: true }, 'test');
    expect(await totals('"Ines Barrow"')).toEqual([seen, 0]);
    expect(await totals('by:IB')).toEqual([seen, seen]);
    expect((await understood(house, 'by:IB', true)).view.sentence).not.toContain('Barrow');
    expect((await figuresFor(house, { question: '', by: 'contributor' }, true)).figures.length).toBeGreaterThan(0);
    await changeContributor(house, test.slip.contributorId, { minor: false }, 'test');
  });

  it('does not wait for a transaction that is open: it has what ends before it, and what it changed when it ends', async () => {
    const other = await bring(test, await makeCard(join(test.folder, 'OTHER'), { '9.JPG': 7001 }, 6));
    await fileNow(test.house, other);
    const [later] = await itemsOf(test.house.db, other);
    await test.house.db.transaction(async (tx) => {
      await judgeItems({ ...test.house, db: tx }, first, { itemIds: [ids[2]!], description: 'half said' });
      expect((await page('"half said"')).total).toBe(0);
      // Begun later and over sooner.
      await judgeItems(test.house, other, { itemIds: [later!.id], description: 'said meanwhile' });
      expect((await page('"said meanwhile"')).total).toBe(1);
    });
    expect((await page('"half said"')).total).toBe(1);
    expect((await page('"said meanwhile"')).total).toBe(1);
    await judgeItems(test.house, other, { itemIds: [later!.id], description: '' });
  });

  it('knows where an item is, and shows what is away', async () => {
    const where = await whereIs(test.house, ids[0]!);
    expect(where).toMatchObject({ intake: { id: first }, contributor: { code: 'IB' }, bundles: [] });
    expect(where.places.map(({ name, online, state }) => [name, online, state])).toEqual([
      ['Shared drive', true, 'tallied'],
      ['Second copy', true, 'tallied'],
    ]);
    await rename(test.shared, `${test.shared}.away`);
    await rename(test.second, `${test.second}.away`);
    try {
      const [item] = (await page('heron')).items;
      expect(item!.away).toEqual(['Shared drive', 'Second copy']);
      expect((await beforeFetching(test.house, ids)).away).toBe(4);
    } finally {
      // What was made in its place, if anything was.
      await rm(test.shared, { recursive: true, force: true });
      await rm(test.second, { recursive: true, force: true });
      await rename(`${test.shared}.away`, test.shared);
      await rename(`${test.second}.away`, test.second);
    }
    expect((await page('heron')).items[0]!.away).toBeNull();
  });
});

describe('a bundle', () => {
  it('holds items in its own order, and losing it loses none', async () => {
    const { id } = await makeBundle(test.house, { name: 'Annual report', parentId: null, note: '' }, 'wren');
    expect(await fillBundle(test.house, id, { itemIds: ids.slice(0, 3) }, 'wren')).toMatchObject({
      changed: 3,
      bundle: { items: 3 },
    });
    // Once in it is in it.
    expect(await fillBundle(test.house, id, { question: 'intake:2026-0001 photos' }, 'wren')).toMatchObject({ changed: 0 });
    await moveInBundle(test.house, id, { itemIds: [ids[2]!], before: ids[0]! }, 'wren');
    expect((await page(`bundle:${id}`)).items.map((item) => item.id)).toEqual([ids[2], ids[0], ids[1]]);
    expect(await emptyBundle(test.house, id, [ids[1]!], 'wren')).toMatchObject({ changed: 1, bundle: { items: 2 } });
    const { id: inner } = await makeBundle(test.house, { name: 'Cover', parentId: id, note: '' }, 'wren');
    await fillBundle(test.house, inner, { itemIds: [ids[3]!] }, 'wren');
    expect((await page(`bundle:${id}`)).total).toBe(3);
    expect((await page('in bundle annual report')).total).toBe(3);
    expect((await whereIs(test.house, ids[3]!)).bundles).toEqual([{ id: inner, name: 'Cover' }]);
    await endBundle(test.house, id, 'wren');
    expect((await page(`bundle:${inner}`)).total).toBe(1);
    expect((await page('')).total).toBe(5);
  });

  it('cannot stand in itself, however far inside', async () => {
    const chain: number[] = [];
    for (const name of ['a', 'b', 'c'])
      chain.push((await makeBundle(test.house, { name, parentId: chain.at(-1) ?? null, note: '' }, 'wren')).id);
    await expect(changeBundle(test.house, chain[0]!, { parentId: chain[2]!, revision: 1 }, 'wren')).rejects.toThrow('in itself');
    await expect(changeBundle(test.house, chain[0]!, { parentId: chain[0]!, revision: 1 }, 'wren')).rejects.toThrow('in itself');
    // Two who each put one into the other's: one of them is refused.
    const [d, e] = [
      await makeBundle(test.house, { name: 'd', parentId: null, note: '' }, 'wren'),
      await makeBundle(test.house, { name: 'e', parentId: null, note: '' }, 'wren'),
    ];
    const both = await Promise.allSettled([
      changeBundle(test.house, d.id, { parentId: e.id, revision: 1 }, 'wren'),
      changeBundle(test.house, e.id, { parentId: d.id, revision: 1 }, 'finch'),
    ]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  });

  it('is written by ten people at once, and counts them all', async () => {
    const { id } = await makeBundle(test.house, { name: 'Everybody', parentId: null, note: '' }, 'wren');
    await Promise.all(
      Array.from({ length: 10 }, (_, person) =>
        person % 2
          ? fillBundle(test.house, id, { itemIds: [ids[person % 4]!, ids[(person + 1) % 4]!] }, `p${person}`)
          : fillBundle(test.house, id, { itemIds: ids }, `p${person}`),
      ),
    );
    const { total, items } = await page(`bundle:${id}`);
    expect([total, new Set(items.map((item) => item.id)).size]).toEqual([4, 4]);
    await expect(makeBundle(test.house, { name: 'everybody', parentId: null, note: '' }, 'wren')).rejects.toThrow('already');
  });

  it('is filled while filing, by a clause of the slip', async () => {
    const { id } = await makeBundle(test.house, { name: 'Spring letter', parentId: null, note: '' }, 'wren');
    const next = await bring(
      test,
      await makeCard(join(test.folder, 'LETTER'), { '4.JPG': 5001, '5.JPG': 5002, '6.JPG': 5003 }, 2),
    );
    await sayBundles(test.house, next, [id], 'wren');
    const [left] = await itemsOf(test.house.db, next);
    await takeItems(test.house, next, { itemIds: [left!.id], taken: false });
    expect((await page(`bundle:${id}`)).total).toBe(0);
    await fileNow(test.house, next);
    expect((await page(`bundle:${id}`)).total).toBe(2);
    // Said afterwards, it goes in at once.
    const { id: later } = await makeBundle(test.house, { name: 'Later', parentId: null, note: '' }, 'wren');
    expect(await sayBundles(test.house, next, [id, later], 'wren')).toHaveLength(2);
    expect((await page(`bundle:${later}`)).total).toBe(2);
  });
});

describe('a standing question', () => {
  it('counts what answers it, and what is new until somebody looks', async () => {
    test.clock.now = new Date('2026-04-22T09:00:00Z');
    const kept = await keepQuestion(test.house, { name: 'Reeds', question: 'for reed planting day photos', tells: true }, 'wren');
    expect(kept).toMatchObject({ fresh: 0, question: { text: 'for:reed-planting kind:photo' } });
    const next = await bring(test, await makeCard(join(test.folder, 'REEDS'), { '7.JPG': 6001, '8.JPG': 6002 }, 4));
    await fileNow(test.house, next);
    expect((await standingViews(test.house)).find(({ id }) => id === kept.id)).toMatchObject({ fresh: 2, items: kept.items + 2 });
    expect(await lookAtStanding(test.house, kept.id)).toMatchObject({ fresh: 0 });
    await changeStanding(test.house, kept.id, { tells: false, revision: 1 }, 'wren');
    await expect(changeStanding(test.house, kept.id, { tells: true, revision: 1 }, 'finch')).rejects.toThrow('Somebody else');
    await endStanding(test.house, kept.id, 'wren');
    expect(await standingViews(test.house)).toEqual([]);
  });
});

describe('originals that go out', () => {
  const zipped = async (stream: Readable, name: string) => {
    const file = join(test.folder, name);
    await pipeline(stream, createWriteStream(file));
    return file;
  };

  // Checked against Info-ZIP's unzip and libarchive's bsdtar, which read the zip by themselves.
  it('are the bytes of the card, named by the house or as on the card', async () => {
    const file = await zipped(zipOf(test.house, ids, 'house'), 'house.zip');
    expect((await run('unzip', ['-t', file])).stdout).toContain('No errors detected');
    const out = join(test.folder, 'out');
    await mkdir(out);
    await run('bsdtar', ['-xf', file, '-C', out]);
    for (const { filedAs, path } of (await page('', { count: 400 })).items.filter(({ id }) => ids.includes(id))) {
      const original = await readFile(join(test.folder, 'ONE', path));
      expect((await readFile(join(out, filedAs!))).equals(original)).toBe(true);
    }
    const onCard = await zipped(zipOf(test.house, ids, 'card'), 'card.zip');
    const names = (await run('unzip', ['-Z1', onCard])).stdout.trim().split('\n');
    expect(names).toHaveLength(4);
    for (const name of names) expect(name).toMatch(/^2026-\d{4}\/[\w.]+$/);
  });

  it('without what cannot be read: that is named in the zip', async () => {
    const { filedAs } = (await page('heron')).items[0]!;
    for (const place of [test.shared, test.second]) await rename(join(place, filedAs!), join(place, 'elsewhere'));
    try {
      const file = await zipped(zipOf(test.house, ids, 'house'), 'less.zip');
      expect((await run('unzip', ['-t', file])).stdout).toContain('No errors detected');
      expect((await run('unzip', ['-p', file, 'NOT FETCHED.txt'])).stdout).toContain(filedAs!);
      expect((await run('unzip', ['-Z1', file])).stdout.trim().split('\n')).toHaveLength(4);
    } finally {
      for (const place of [test.shared, test.second]) await rename(join(place, 'elsewhere'), join(place, filedAs!));
    }
  });

  it('stop when their reader goes away, and the house goes on', async () => {
    const stream = zipOf(test.house, ids, 'house');
    await new Promise((resolve) => stream.once('readable', resolve));
    stream.destroy();
    expect((await page('')).total).toBeGreaterThan(3);
  });

  it('break off when a file becomes shorter while it is read, and the house goes on', async () => {
    const next = await bring(test, await makeCard(join(test.folder, 'LONG'), { '1.JPG': 24_000_000 }, 8));
    await fileNow(test.house, next);
    const [item] = await itemsOf(test.house.db, next);
    const stream = zipOf(test.house, [item!.id], 'house');
    // Some of it is read by now, and not all: more is not held.
    await new Promise((resolve) => stream.once('readable', resolve));
    await truncate(join(test.shared, item!.filedAs!), 12_000_000);
    await expect(zipped(stream, 'short.zip')).rejects.toThrow('unexpected number of bytes');
    expect((await page('')).total).toBeGreaterThan(3);
  });

  it('name what is not filed any more, and end when nobody reads', async () => {
    const file = await zipped(zipOf(test.house, [ids[0]!, 999_999], 'house'), 'gone.zip');
    expect((await run('unzip', ['-p', file, 'NOT FETCHED.txt'])).stdout).toContain('item 999999: is not filed any more.');
    const left = zipOf(test.house, ids, 'house');
    left.destroy();
    // Nothing waits for it: the file that was being opened is closed.
    await until(async () => {
      const open = await readdir('/proc/self/fd');
      const targets = await Promise.all(open.map((fd) => readlink(`/proc/self/fd/${fd}`).catch(() => '')));
      return !targets.some((target) => target.startsWith(test.shared));
    });
  });

  it('say first what must not be shown and what has to be asked for', async () => {
    const before = await beforeFetching(test.house, ids);
    expect(before).toMatchObject({ items: 4, away: 0, no: [], ask: [{ items: 4, words: 'nothing agreed: ask first' }] });
    await addToList(test.house, 'pictured', { name: 'Corin Reeve', consent: 'no' }, 'test');
    await changeCredit(test.house, { itemIds: [ids[0]!], addPictured: ['Corin Reeve'] }, 'wren');
    expect(await beforeFetching(test.house, ids)).toMatchObject({
      no: [{ items: 1, words: 'Corin Reeve must not be shown' }],
      ask: [{ items: 3 }],
    });
    expect((await page('not to be shown')).items.map(({ id }) => id)).toEqual([ids[0]]);
  });
});

it('another process that begins later has the same shelf', async () => {
  const [here, settings] = [await shelfNow(test.house), test.settings];
  const { compose } = await import('../composition.js');
  const elsewhere = await compose({ ...settings, station: 'Another' });
  try {
    const there = await shelfNow(elsewhere.house);
    expect([...there.ordered()].map((slot) => there.id.at[slot])).toEqual([...here.ordered()].map((slot) => here.id.at[slot]));
  } finally {
    await elsewhere.close();
  }
});
