import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { LabelsQuery } from '@tally/contract';
import pg from 'pg';
import { realPictures } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse } from '../testing/house.js';
import { tool } from '../testing/tools.js';
import { keptReceipt, keptReceipts, receiptOf } from './receipt.js';
import { proofsOf } from '../filing/index.js';
import { itemsOf, setTaken } from '../seeing/index.js';
import { eventsOf, theIntake } from '../house/index.js';
import { labelsFor, scanLabel } from '../counter/index.js';
import { addToList, houseList, correctInList } from '../people/index.js';
import { changeCredit, changeSlip } from '../slip/index.js';

let test: TestHouse;
let id: number;
beforeAll(async () => {
  test = await openHouse({}, [{ id: 'offsite', kind: 'off-site copy' }]);
  const path = join(test.folder, 'REAL');
  await realPictures(path, 9, 'jhead/normal-digicams');
  id = await bring(test, path);
  await changeSlip(test.house, id, { cardLabel: 'C-014' }, 'test');
  const last = (await itemsOf(test.house.db, id)).at(-1)!;
  await setTaken(test.house.db, id, [last.leader], false);
  await fileNow(test.house, id);
});
afterAll(() => test.end());

// Outside checks: poppler reads the PDF, zbar reads its codes, as a scanner does.
const textOf = (pdf: Buffer) => execFileSync('pdftotext', ['-layout', '-', '-'], { input: pdf, encoding: 'utf8' });
const infoOf = (pdf: Buffer) => execFileSync('pdfinfo', ['-'], { input: pdf, encoding: 'utf8' });
async function codesOf(pdf: Buffer, name: string): Promise<string[]> {
  const file = join(test.folder, `${name}.pdf`);
  await writeFile(file, pdf);
  tool('pdftoppm', '-r', '200', '-gray', '-png', file, join(test.folder, name));
  return tool('sh', '-c', `zbarimg -q --raw "$0"/${name}-*.png | sort`, test.folder).trim().split('\n');
}

describe('the receipt', () => {
  it('is kept with the intake; the same one is given again until something changes', async () => {
    const make = () => receiptOf(test.house, id, 'A4', 'http://desk.example', 'wren');
    const first = await make();
    test.clock.now = new Date(test.clock.now.getTime() + 90_000);
    expect((await make()).equals(first)).toBe(true);
    // The order in which rows lie in the database is nothing new.
    for (const place of ['offsite', 'shared'])
      await test.house.db.query('update copy set problem = problem where place_id = $1', [place]);
    const owner = new pg.Client({ connectionString: test.database.adminUrl });
    await owner.connect();
    await owner.query('analyze copy, filed_item').finally(() => owner.end());
    expect((await make()).equals(first)).toBe(true);
    const [kept, ...more] = await keptReceipts(test.house, id);
    expect(more).toEqual([]);
    expect(kept).toMatchObject({ at: '2026-04-21T17:42', paper: 'A4' });
    expect((await keptReceipt(test.house, id, kept!.name)).equals(first)).toBe(true);
    await test.house.db.query('update card set volume = $1 where volume = $2', ['OTHER', 'REAL']);
    expect(textOf(await make())).toContain('C-014, OTHER');
    await test.house.db.query('update card set volume = $1 where volume = $2', ['REAL', 'OTHER']);
    expect(await keptReceipts(test.house, id)).toHaveLength(2);
    const events = await eventsOf(test.house.db, id);
    expect(events.filter(({ kind }) => kind === 'receipt').map(({ who, text }) => [who, text])).toEqual([
      ['wren', 'Receipt made (A4).'],
      ['wren', 'Receipt made (A4).'],
    ]);
    await expect(keptReceipt(test.house, id, '2026-01-01T0000_A4_0000000000000000.pdf')).rejects.toThrow('no such receipt');
  });

  it.each(['A4', 'LETTER'] as const)('is one page of %s with all that proves the intake', async (paper) => {
    const pdf = await receiptOf(test.house, id, paper, 'http://desk.example', 'wren');
    expect(infoOf(pdf)).toMatch(/Pages:\s+1\n/);
    expect(infoOf(pdf)).toMatch(paper === 'A4' ? /595\.\d+ x 841/ : /612 x 792/);
    const text = textOf(pdf);
    const { number } = await theIntake(test.house, id);
    for (const words of [
      `Receipt ${number}`,
      'Ostrel Bay Tidelands Trust',
      'Ines Barrow (IB)',
      'C-014, REAL',
      'Reed planting day',
    ])
      expect(text).toContain(words);
    expect(text).toMatch(/8 items, .*: copies to follow/);
    expect(text).toMatch(/Shared drive\s+8 tally/);
    expect(text).toMatch(/offsite\s+0 tally, 8 to follow/);
    expect(text).toContain('read back past the page cache');
    expect(text).toMatch(/1: left/);
  });

  it('says what may be done with it, and that somebody must not be shown, but not who: it is given away', async () => {
    const [first, second] = (await itemsOf(test.house.db, id)).filter(({ filedAs }) => filedAs !== null);
    const now = async () => textOf(await receiptOf(test.house, id, 'A4', 'http://desk.example', 'wren'));
    expect(await now()).toMatch(/May be used\s+nothing agreed: ask first\n/);
    const termsId = await addToList(test.house, 'terms', { name: 'Free for us', stance: 'free for the house' }, 'test');
    await changeCredit(test.house, { itemIds: [first!.id], termsId, addPictured: ['Oriel Vance'] }, 'test');
    const person = (await houseList(test.house.db, 'pictured')).find(({ name }) => name === 'Oriel Vance')!;
    await correctInList(test.house, 'pictured', person.id, { consent: 'no' }, 'test');
    const text = await now();
    expect(text).toMatch(/May be used\s+7: nothing agreed: ask first; 1: Free for us/);
    expect(text).toMatch(/Not to be shown\s+somebody in one item/);
    expect(text).not.toContain('Oriel');
    await changeCredit(test.house, { itemIds: [first!.id, second!.id], addPictured: ['Oriel Vance'] }, 'test');
    expect(await now()).toMatch(/Not to be shown\s+somebody in 2 items/);
  });

  it('carries a hash of the list that anybody can compute again, and a code that opens its record', async () => {
    const pdf = await receiptOf(test.house, id, 'A4', 'http://desk.example', 'wren');
    const lines = [...(await proofsOf(test.house.db, id)).values()].map(({ path, hash }) => `${hash}  ${path}\n`).sort();
    expect(textOf(pdf)).toContain(createHash('sha256').update(lines.join('')).digest('hex'));
    expect(await codesOf(pdf, 'receipt')).toEqual([`http://desk.example/logbook/${id}`]);
  });
});

describe('labels', () => {
  const ask = (query: object) => labelsFor(test.house, LabelsQuery.parse(query));

  it('on a sheet are each read by a scanner, and begin where the sheet is free', async () => {
    const pdf = await ask({ count: '25', skip: '2' });
    expect(infoOf(pdf)).toMatch(/Pages:\s+2\n/);
    const wanted = Array.from({ length: 25 }, (_, i) => `C-${String(15 + i).padStart(3, '0')}`);
    expect(await codesOf(pdf, 'sheet')).toEqual(wanted);
    for (const label of wanted) expect(textOf(pdf)).toContain(label);
  });

  it('on tape are one a page', async () => {
    const pdf = await ask({ labels: 'C-014, Reader 2', form: 'tape' });
    expect(infoOf(pdf)).toMatch(/Pages:\s+2\n/);
    expect(await codesOf(pdf, 'tape')).toEqual(['C-014', 'Reader 2']);
  });

  it.each([
    {},
    { count: '0' },
    { labels: 'C-014', count: '1' },
    { labels: 'a\nb' },
    { labels: 'x'.repeat(40) },
    { form: 'round', count: '1' },
  ])('%j is refused', (query) => expect(LabelsQuery.safeParse(query).success).toBe(false));

  it('scanned, open the newest intake of their card', async () => {
    expect(await scanLabel(test.house, 'c-014', false, 'test')).toMatchObject({ what: 'open', intakeId: id });
    expect(await scanLabel(test.house, 'C-999', false, 'test')).toMatchObject({ what: 'unknown' });
  });
});
