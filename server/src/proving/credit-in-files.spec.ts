import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { copyFile, mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { IntakeRecord } from '@tally/contract';
import { type Field, inWords, propertiesInSidecar, says } from '@tally/core/fields';
import { printingTo } from '../cli/output.js';
import { saidIn } from '../drive/said-in.js';
import { flakyFiles, type Fault } from '../../../standins/src/flaky-files.js';
import { readIntake, receiveCard } from '../arriving/index.js';
import { clearanceNow, restoreIntake } from '../clearing/index.js';
import { copiesOf } from '../filing/index.js';
import { eventsOf } from '../house/index.js';
import { fillPlace } from '../keeping/index.js';
import { changeContributor, changeHouseCredit } from '../people/index.js';
import { itemsOf, itemViews } from '../seeing/index.js';
import { changeCredit } from '../slip/index.js';
import { FIXTURES, makeCard } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { compareAll, tool } from '../testing/tools.js';
import { writeManifests } from './manifests.js';
import { whatIsWritten } from './written.js';
import { originalCommand } from './original-command.js';
import { tallyCommand } from './tally-command.js';

/* Credit in filed files, at real places, read by exiftool; what comes out is compared with the card by cmp. */

let test: TestHouse;
const faults: Fault[] = [];
beforeAll(async () => {
  test = await openHouse({}, [{ id: 'attic', kind: 'off-site copy', fill: 'later', required: false }], {
    open: (path, flags, mode) => flakyFiles(faults).open(path, flags, mode),
  });
});
afterAll(() => test.end());

let cards = 0;
/** A card of two real pictures, one that is none, and a raw picture. */
async function filedCard(): Promise<{ id: number; card: string; files: Map<string, string> }> {
  const card = join(test.folder, `WORDS_${++cards}`);
  const dcim = join(card, 'DCIM/100REAL');
  await mkdir(dcim, { recursive: true });
  const real = (await readdir(join(FIXTURES, 'goexif'))).filter((name) => name.endsWith('.jpg'));
  for (const name of real.slice(0, 2)) {
    await copyFile(join(FIXTURES, 'goexif', name), join(dcim, name));
    // Another picture each time, by a comment at its end.
    await writeFile(join(dcim, name), Buffer.concat([await readFile(join(dcim, name)), Buffer.from(`card ${cards}`)]));
  }
  await makeCard(card, { 'DCIM/100REAL/NOISE.JPG': 3000, 'DCIM/100REAL/RAW.DNG': 4000 }, 7000 + cards);
  const id = await bring(test, card);
  await fileNow(test.house, id);
  await writeManifests(test.house);
  return { id, card, files: await filesOf(id) };
}

/** Where each file of a card is filed, by its name on the card. */
const filesOf = async (id: number) =>
  new Map((await copiesOf(test.house.db, id)).map(({ from, to }) => [from.split('/').at(-1)!, to]));
const itemIdsOf = async (id: number) =>
  (await test.house.db.query<{ id: number }[]>('select id from item where intake_id = $1 order by id', [id])).map(
    (one) => one.id,
  );
const roots = () => [test.shared, test.second];
/** One property of a file or sidecar, as our own reader has it; that others read the same is tested elsewhere. */
const tag = async (path: string, name: Field): Promise<string> => {
  const { said } = await saidIn(path);
  const properties = path.endsWith('.xmp')
    ? propertiesInSidecar(await readFile(path))
    : said.find(([, one]) => says(one, name))?.[1];
  return properties && typeof properties !== 'string' ? inWords(properties, name) : '';
};
/** The same by exiftool. */
const outside = (path: string, name: string) => tool('exiftool', '-s3', `-${name}`, path).trim();
const tags = (paths: readonly string[], name: Field) => Promise.all(paths.map((path) => tag(path, name)));
/** The files that say it: JPEGs themselves, sidecars of all else. */
const speaking = (root: string, files: Map<string, string>) =>
  [...files].map(([name, to]) => join(root, isReal(name) ? to : `${to}.xmp`));
const isReal = (name: string) => !['NOISE.JPG', 'RAW.DNG'].includes(name);

/** Every file of a card comes back as it was, out of the records on the drive alone. */
async function comesBack(card: string, files: Map<string, string>, root: string): Promise<void> {
  for (const [name, to] of files) {
    const out = join(test.folder, 'out.bin');
    await rm(out, { force: true });
    expect(await quietly(() => originalCommand(join(root, to), out))).toBe(0);
    expect((await readFile(out)).equals(await readFile(join(card, 'DCIM/100REAL', name)))).toBe(true);
  }
}
const quietly = <T>(run: () => T): T => printingTo({ out: () => undefined, err: () => undefined }, run);
/** What speaks against clearing, besides that all places of a test lie on one disk. */
const against = async (id: number, full: boolean) =>
  (await clearanceNow(test.house, id, full)).reasons.filter(({ kind }) => kind !== 'devices');
const tallies = async (root: string) => expect(await quietly(() => tallyCommand(root, {}))).toBe(0);
const partsIn = async (root: string) => (await readdir(root, { recursive: true })).filter((name) => name.endsWith('.part'));

describe('credit in the files', () => {
  it('goes into JPEGs with the filing and beside all else; the card can be cleared, and comes back to the byte', async () => {
    const { id, card, files } = await filedCard();
    for (const root of roots()) {
      const said = speaking(root, files);
      expect(new Set(await tags(said, 'creator'))).toEqual(new Set(['Ines Barrow']));
      expect(new Set(await tags(said, 'headline'))).toEqual(new Set(['Reed planting day']));
      expect(await tags(said, 'preservedFileName')).toEqual([...files.keys()]);
      expect(outside(said[0]!, 'XMP-dc:Creator')).toBe('Ines Barrow');
      await comesBack(card, files, root);
      await tallies(root);
    }
    expect(await against(id, true)).toEqual([]);
    const back = join(test.folder, `BACK_${id}`);
    expect(await restoreIntake(test.house, id, back, 'test')).toMatchObject({ restored: 4, failed: [] });
    tool('diff', '-r', join(card, 'DCIM'), join(back, 'DCIM'));
  });

  it('a picture of no bytes, as cameras leave some, keeps no other from its credit', async () => {
    const { card } = await filedCard();
    const with0 = join(test.folder, 'WITH_EMPTY');
    await makeCard(with0, { 'DCIM/100REAL/NOISE.JPG': 3000, 'DCIM/100REAL/RAW.DNG': 4000, 'DCIM/100REAL/EMPTY.JPG': 0 }, 8123);
    const real = (await readdir(join(card, 'DCIM/100REAL'))).find(isReal)!;
    const picture = Buffer.concat([await readFile(join(card, 'DCIM/100REAL', real)), Buffer.from('another')]);
    await writeFile(join(with0, 'DCIM/100REAL', real), picture);
    const id = await bring(test, with0);
    await fileNow(test.house, id);
    await writeManifests(test.house);
    const files = await filesOf(id);
    const troubles = () =>
      test.house.db.query<unknown[]>(`select text from event where kind = 'manifest' and intake_id = $1`, [id]);
    for (const creditLine of ['First', 'Second']) {
      await changeCredit(test.house, { itemIds: await itemIdsOf(id), creditLine }, 'Wren');
      await writeManifests(test.house);
      expect(await troubles()).toEqual([]);
      for (const root of roots()) {
        expect(
          new Set(await tags(speaking(root, new Map([...files].filter(([name]) => name !== 'EMPTY.JPG'))), 'creditLine')),
        ).toEqual(new Set([creditLine]));
        expect(await tag(join(root, `${files.get('EMPTY.JPG')}.xmp`), 'creditLine')).toBe(creditLine);
        expect((await readFile(join(root, files.get('EMPTY.JPG')!))).length).toBe(0);
      }
    }
    expect(await test.house.db.query('select 1 from beside_due where intake_id = $1', [id])).toEqual([]);
  });

  it('one file that cannot be written keeps no other waiting, and is tried again', async () => {
    const { id, files } = await filedCard();
    const [sick] = [...files].filter(([name]) => isReal(name)).map(([, to]) => to);
    faults.push({ path: `shared/${sick}`, unreadableAt: 10 });
    await changeCredit(test.house, { itemIds: await itemIdsOf(id), creditLine: 'Third' }, 'Wren');
    await writeManifests(test.house);
    faults.length = 0;
    const well = speaking(test.shared, files).filter((path) => path !== join(test.shared, sick!));
    expect(new Set(await tags(well, 'creditLine'))).toEqual(new Set(['Third']));
    const due = await test.house.db.query<{ problem: string }[]>('select problem from beside_due where intake_id = $1', [id]);
    expect(due).toHaveLength(1);
    await test.house.db.query('update beside_due set due_at = now() where intake_id = $1', [id]);
    await writeManifests(test.house);
    expect(await tag(join(test.shared, sick!), 'creditLine')).toBe('Third');
    expect(await test.house.db.query('select 1 from beside_due where intake_id = $1', [id])).toEqual([]);
  });

  it('a correction follows in every file at every place, and again, and back', async () => {
    const { card, files } = await filedCard();
    const said = async (name: string) => {
      await changeContributor(test.house, test.slip.contributorId, { name }, 'Wren');
      await writeManifests(test.house);
      for (const root of roots()) expect(new Set(await tags(speaking(root, files), 'creator'))).toEqual(new Set([name]));
    };
    for (const name of ['Inês Barrow', 'Inês Barrow-Lind, of the eastern dyke', 'Ines Barrow']) await said(name);
    for (const root of roots()) {
      await comesBack(card, files, root);
      await tallies(root);
      expect(await partsIn(root)).toEqual([]);
    }
  });

  it('a place that was away lags behind, tallies all the same, and follows when it is back', async () => {
    const { id, card, files } = await filedCard();
    await rename(test.second, `${test.second}-away`);
    await changeContributor(test.house, test.slip.contributorId, { name: 'Wren Ashby' }, 'Wren');
    await writeManifests(test.house);
    const [real] = [...files].find(([name]) => isReal(name))!;
    expect(await tag(join(test.shared, files.get(real)!), 'creator')).toBe('Wren Ashby');
    await rename(`${test.second}-away`, test.second);
    expect(await tag(join(test.second, files.get(real)!), 'creator')).toBe('Ines Barrow');
    expect(await against(id, false)).toEqual([]);
    await tallies(test.second);
    await writeManifests(test.house);
    expect(await tag(join(test.second, files.get(real)!), 'creator')).toBe('Wren Ashby');
    await changeContributor(test.house, test.slip.contributorId, { name: 'Ines Barrow' }, 'Wren');
    await writeManifests(test.house);
    await comesBack(card, files, test.second);
  });

  it('a place that is filled later gets what the other copies have', async () => {
    const { card, files } = await filedCard();
    await fillPlace(test.house, 'attic', never, false);
    await writeManifests(test.house);
    const attic = join(test.folder, 'attic');
    compareAll([...files.values()].map((to) => [join(test.shared, to), join(attic, to)]));
    await comesBack(card, files, attic);
    await tallies(attic);
  });

  it('whoever brings a filed file back, credit and all, is told that it is filed; that card may be cleared', async () => {
    const { files } = await filedCard();
    const again = join(test.folder, 'AGAIN');
    await mkdir(join(again, 'DCIM'), { recursive: true });
    for (const [name, to] of files) if (isReal(name)) await copyFile(join(test.shared, to), join(again, 'DCIM', name));
    const id = await receiveCard(test.house, again, 'test');
    await readIntake(test.house, id, never);
    const items = await itemViews(test.house, id);
    expect(items.map(({ alreadyFiled }) => alreadyFiled?.confirmed)).toEqual([true, true]);
    expect(await against(id, true)).toEqual([]);
  });

  it('a sidecar that somebody else changed keeps what they wrote, and gets what the house says', async () => {
    const { id, files } = await filedCard();
    const sidecar = join(test.shared, `${files.get('RAW.DNG')!}.xmp`);
    tool(
      'exiftool',
      '-overwrite_original',
      '-XMP-photoshop:Headline=Theirs',
      '-XMP-xmp:Rating=4',
      '-XMP-dc:Subject+=dusk',
      sidecar,
    );
    const itemIds = (await itemsOf(test.house.db, id)).map((item) => item.id);
    await changeCredit(test.house, { itemIds, creditLine: 'Ours', addWords: ['reeds'] }, 'Wren');
    await writeManifests(test.house);
    expect(await tag(sidecar, 'headline')).toBe('Theirs');
    expect(await readFile(sidecar, 'utf8')).toMatch(/Rating(="|>)4/);
    expect(await tag(sidecar, 'creditLine')).toBe('Ours');
    expect((await tag(sidecar, 'words')).split(', ').sort()).toEqual(['dusk', 'reeds']);
    await tallies(test.shared);
  });

  it('a sidecar that a person made beside a file stays as it is', async () => {
    const card = join(test.folder, 'MADE');
    await makeCard(card, { 'DCIM/1.DNG': 900 }, 881);
    const id = await bring(test, card);
    await fileNow(test.house, id);
    const [to] = [...(await filesOf(id)).values()];
    const path = join(test.shared, `${to!}.xmp`);
    await writeFile(path, 'mine');
    await writeManifests(test.house);
    expect(await readFile(path, 'utf8')).toBe('mine');
    expect(await tag(join(test.second, `${to!}.xmp`), 'creator')).toBe('Ines Barrow');
    expect(
      (await eventsOf(test.house.db, id)).some(({ text }) => text.includes('a sidecar that somebody made stands there')),
    ).toBe(true);
  });

  it('where the file came with another name in it, it stays until somebody says which stands', async () => {
    const card = join(test.folder, 'NAMED');
    const dcim = join(card, 'DCIM');
    await mkdir(dcim, { recursive: true });
    const [name] = (await readdir(join(FIXTURES, 'goexif'))).filter((one) => one.endsWith('.jpg')).slice(3);
    await copyFile(join(FIXTURES, 'goexif', name!), join(dcim, name!));
    tool(
      'exiftool',
      '-overwrite_original',
      '-XMP-dc:Creator=Ada Reed',
      '-IPTC:By-line=Ada Reed',
      '-XMP-dc:Subject=heron',
      join(dcim, name!),
    );
    const id = await bring(test, card);
    await fileNow(test.house, id);
    const [to] = [...(await filesOf(id)).values()];
    const path = join(test.shared, to!);
    expect([await tag(path, 'creator'), outside(path, 'IPTC:By-line'), await tag(path, 'words')]).toEqual([
      'Ada Reed',
      'Ada Reed',
      'heron',
    ]);
    expect(await tag(path, 'headline')).toBe('Reed planting day');
    const itemIds = (await itemsOf(test.house.db, id)).map((item) => item.id);
    await changeCredit(test.house, { itemIds, standing: { creator: 'ours' } }, 'Wren');
    await writeManifests(test.house);
    expect([await tag(path, 'creator'), outside(path, 'IPTC:By-line'), await tag(path, 'words')]).toEqual([
      'Ines Barrow',
      'Ines Barrow',
      'heron',
    ]);
    // Whoever looks again is told what it came with, not what stands there now.
    expect((await whatIsWritten(test.house, itemIds[0]!)).questions).toEqual([
      { field: 'creator', name: 'Creator', theirs: 'Ada Reed', ours: 'Ines Barrow', standing: 'ours' },
    ]);
    await changeCredit(test.house, { itemIds, standing: { creator: 'theirs' } }, 'Wren');
    await writeManifests(test.house);
    expect(await tag(path, 'creator')).toBe('Ada Reed');
    await comesBack(card, new Map(), test.shared);
  });

  it('the house may have it beside only, or not at all; what was inside comes out', async () => {
    const { card, files } = await filedCard();
    const [real, to] = [...files].find(([name]) => isReal(name))!;
    const source = join(card, 'DCIM/100REAL', real);
    await changeHouseCredit(test.house, { writing: { photo: 'beside', raw: 'record only' } }, 'Wren');
    await writeManifests(test.house);
    const followed = async () => {
      await test.house.db.query('select explain_intakes(array_agg(id)) from intake');
      await writeManifests(test.house);
    };
    await followed();
    for (const root of roots()) {
      tool('cmp', source, join(root, to));
      expect(await tag(join(root, `${to}.xmp`), 'creator')).toBe('Ines Barrow');
      expect(await readdir(join(root, files.get('RAW.DNG')!, '..'))).not.toContain(
        `${files.get('RAW.DNG')!.split('/').at(-1)!}.xmp`,
      );
      await tallies(root);
    }
    await changeHouseCredit(test.house, { writing: {} }, 'Wren');
    await followed();
    expect(await tag(join(test.shared, to), 'creator')).toBe('Ines Barrow');
    expect(await readdir(join(test.shared, to, '..'))).not.toContain(`${to.split('/').at(-1)!}.xmp`);
    await comesBack(card, files, test.shared);
  });
});

describe('a change of credit that is cut short', () => {
  it('leaves the old or the new whole file at every write and read that fails, and ends like any other', async () => {
    const { id, card, files } = await filedCard();
    const itemIds = (await itemsOf(test.house.db, id)).map((item) => item.id);
    const [real, to] = [...files].find(([name]) => isReal(name))!;
    const path = join(test.shared, to);
    let before = 'Ines Barrow / Ostrel Bay Tidelands Trust';
    const steps: Omit<Fault, 'path'>[] = [
      ...[{ writeFails: { byte: 100, code: 'ENOSPC' } }, { writeFails: { byte: 0, code: 'EROFS' } }],
      ...[{ flipsBitAt: 300 }, { losesFrom: 700 }, { unreadableAt: 10 }],
    ];
    for (const [n, step] of steps.entries()) {
      faults.push({ path: '.tally-credit-', ...step });
      await changeCredit(test.house, { itemIds, creditLine: `Try ${n}` }, 'Wren');
      await writeManifests(test.house);
      expect(await tag(path, 'creditLine')).toBe(before);
      faults.length = 0;
      await test.house.db.query('update beside_due set due_at = now()');
      await writeManifests(test.house);
      expect(await tag(path, 'creditLine')).toBe(`Try ${n}`);
      before = `Try ${n}`;
    }
    expect(await partsIn(test.shared)).toEqual([]);
    await comesBack(card, files, test.shared);
    expect(real).not.toBe('');
  });

  it('a run that died between the new name and the database is understood', async () => {
    const { id, card, files } = await filedCard();
    const [, to] = [...files].find(([name]) => isReal(name))!;
    const stands = await test.house.db.query<{ filed_item_id: number }[]>(
      'select s.* from credit_stands s join filed_item f on f.id = s.filed_item_id where f.intake_id = $1',
      [id],
    );
    const itemIds = (await itemsOf(test.house.db, id)).map((item) => item.id);
    // What the files say by then is what nobody wrote down.
    await test.house.db.query(
      `delete from credit_stands s using filed_item f where f.id = s.filed_item_id and f.intake_id = $1 and s.place_id = 'shared'`,
      [id],
    );
    expect(stands.length).toBeGreaterThan(0);
    await changeCredit(test.house, { itemIds, creditLine: 'Later' }, 'Wren');
    await writeManifests(test.house);
    expect(await tag(join(test.shared, to), 'creditLine')).toBe('Later');
    await comesBack(card, files, test.shared);
    await tallies(test.shared);
  });

  it('records beside the files know how everything comes out', async () => {
    const { files } = await filedCard();
    const recorded = async (name: string) => {
      const folder = join(test.shared, files.get(name)!, '..');
      const names = (await readdir(folder)).filter((one) => one.startsWith('intake-')).sort();
      const record = IntakeRecord.parse(JSON.parse(readFileSync(join(folder, names.at(-1)!), 'utf8')));
      return record.items.find(({ from }) => from.endsWith(name))!;
    };
    const real = await recorded([...files.keys()].find(isReal)!);
    expect(real.inside).toMatchObject({ bytes: expect.any(Number), undo: expect.any(Array) });
    expect((real.inside!.bytes - real.bytes) % 4096).toBe(0);
    expect((await recorded('RAW.DNG')).beside!.name).toMatch(/\.dng\.xmp$/);
  });
});

describe('what other hands did', () => {
  it('what somebody else did to a file is left alone and said; the other copies go on', async () => {
    const { id, files } = await filedCard();
    const [real] = [...files].find(([name]) => isReal(name))!;
    const path = join(test.shared, files.get(real)!);
    tool('exiftool', '-overwrite_original', '-XMP-photoshop:Headline=Mine', path);
    const theirs = await readFile(path);
    await changeCredit(
      test.house,
      { itemIds: (await itemsOf(test.house.db, id)).map((item) => item.id), creditLine: 'New' },
      'Wren',
    );
    await writeManifests(test.house);
    expect((await readFile(path)).equals(theirs)).toBe(true);
    expect(await tag(join(test.second, files.get(real)!), 'creditLine')).toBe('New');
    const copies = (await copiesOf(test.house.db, id)).find(({ to }) => to === files.get(real))!.copies;
    expect(copies.find(({ place }) => place === 'shared')).toMatchObject({ state: 'differs' });
    expect((await eventsOf(test.house.db, id)).some(({ text }) => text.includes('changed by somebody else'))).toBe(true);
  });
});
