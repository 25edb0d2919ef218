import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { completionsOf, type Word, wordText } from '@tally/core/words';
import fc from 'fast-check';
import { openHouse, type TestHouse } from '../../testing/house.js';
import { completions, everyWord, usedNow, wordPage } from '../store/words.js';
import { addAgreement, changeAgreement, keepScan, readScan } from '../agreements.js';
import { changeAssignment, changeContributor } from '../correcting.js';
import { changeHouseCredit, houseCredit } from './house-credit.js';
import { addToList, correctInList, houseList, mergeInList } from './lists.js';
import { importSheet } from './sheets.js';
import { addWord, correctWord, mergeWords, retire } from './words.js';

let test: TestHouse;
beforeAll(async () => {
  test = await openHouse();
});
afterAll(() => test.end());

const label = (text: string, language = '', preferred = true) => ({ language, text, preferred });
const add = (labels: ReturnType<typeof label>[], broader: number[] = []) =>
  addWord(test.house, { labels, broader, listed: true, note: '' }, 'test');
const logged = async (kind: string) =>
  (await test.house.db.query<{ text: string }[]>('select text from event where kind = $1 order by id', [kind])).map(
    ({ text }) => text,
  );

describe('words', () => {
  it('are completed by the index as by a plain scan of the list (property)', async () => {
    const texts = [
      'salt marsh',
      'Marsh marigold',
      'márisco',
      'sea-lavender',
      'lavender',
      'redshank',
      'red deer',
      'caniço',
      'reed bed',
      'Bed 12',
    ];
    for (const [i, text] of texts.entries()) await add([label(text), label(`${text} ${i}x`, 'pt', false)]);
    const all: Word[] = [];
    for await (const word of everyWord(test.house.db)) all.push({ ...word, broader: [], usedAt: word.usedAt });
    await usedNow(test.house.db, [all[3]!.id], new Date('2026-04-20T10:00:00Z'));
    const now = all.map((word, i) => (i === 3 ? { ...word, usedAt: '2026-04-20T10:00:00.000Z' } : word));
    const typed = fc.oneof(
      fc.constantFrom('m', 'MAR', 'red', 'la', 'bed 1', 'ç', '%', '_', '\\', "'", '9x', 'sea'),
      fc.constantFrom(...texts).chain((text) => fc.nat(text.length).map((n) => text.slice(n))),
      fc.string({ maxLength: 3 }).filter((text) => !text.includes('\0')),
    );
    await fc.assert(
      fc.asyncProperty(typed, async (text) => {
        const found = await completions(test.house.db, text, 5);
        if (text.trim() === '') return;
        expect(found.map(({ id, by }) => ({ id, by }))).toEqual(completionsOf(now, text, 5).map(({ id, by }) => ({ id, by })));
      }),
      { numRuns: 60 },
    );
  });

  it('are read in pages by name, each once', async () => {
    for (let i = 0; i < 230; i++) await add([label(`page ${String(i).padStart(3, '0')}`)]);
    const seen: string[] = [];
    for (let after: string | null = ''; after !== null;) {
      const page = await wordPage(test.house.db, { after, typed: 'page', which: 'listed' });
      seen.push(...page.words.map((word) => wordText(word)));
      after = page.next;
    }
    expect(seen).toEqual(Array.from({ length: 230 }, (_, i) => `page ${String(i).padStart(3, '0')}`));
  });

  it('a word never stands under itself, by whatever way, two people at once', async () => {
    const [a, b] = [await add([label('upper')]), await add([label('lower')])];
    await correctWord(test.house, b, { labels: [label('lower')], broader: [a], listed: true, note: '' }, 'test');
    const circle = correctWord(test.house, a, { labels: [label('upper')], broader: [b], listed: true, note: '' }, 'test');
    await expect(circle).rejects.toThrow('upper would be broader than itself');
    await expect(add([label('Upper')])).rejects.toThrow(/is a word already/);
    const crossed = await Promise.allSettled([mergeWords(test.house, a, b, 'x'), mergeWords(test.house, b, a, 'y')]);
    expect(crossed.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await logged('words')).toContain(
      crossed[0].status === 'fulfilled' ? 'Word “upper” is lower now.' : 'Word “lower” is upper now.',
    );
  });

  it('that is retired is not offered, and comes back', async () => {
    const id = await add([label('zostera')]);
    await retire(test.house, id, true, 'test');
    expect(await completions(test.house.db, 'zost', 5)).toEqual([]);
    await retire(test.house, id, false, 'test');
    expect(await completions(test.house.db, 'zost', 5)).toHaveLength(1);
  });
});

it('a sheet of contributors says who is a minor; another word than yes or no is told, with its column', async () => {
  const take = (text: string) => importSheet(test.house, 'people', Buffer.from(text), true, 'Wren');
  const minors = async () =>
    (await test.house.db.query<{ code: string }[]>('select code from contributor where minor')).map(({ code }) => code);
  expect(await take('code,name,minor\nJUA,June Aldwin,Yes\nOLB,Ola Brandt,\n')).toMatchObject({ added: 2, faults: [] });
  expect(await minors()).toEqual(['JUA']);
  expect(await take('code,name,minor\nJUA,June Aldwin,yes\nOLB,Ola Brandt,\n')).toMatchObject({ changed: 0, same: 2 });
  expect((await take('code,name,minor\nJUA,June Aldwin,perhaps\n')).faults).toEqual([expect.objectContaining({ line: 2 })]);
  expect(await take('code,name,minor\nJUA,June Aldwin,no\n')).toMatchObject({ changed: 1 });
  expect(await minors()).toEqual([]);
});

describe('a sheet of words', () => {
  const take = (text: string) => importSheet(test.house, 'words', Buffer.from(text), true, 'Wren');

  it('comes in at once, in any order, whatever stands under what; the same sheet changes nothing', async () => {
    // More than go in one statement; half of the parents come later in the sheet, and ten are in no line.
    const name = (n: number) => `plant ${n}`;
    const parent = (n: number) => (n % 2 === 0 ? name(n / 2) : n % 100 === 1 ? `genus ${n}` : n + 2 < 1500 ? name(n + 2) : '');
    const lines = Array.from({ length: 1500 }, (_, n) => `${name(n)},${n ? parent(n) : ''},weed ${n} | herb ${n}`);
    const sheet = `word,broader,synonyms\n${lines.join('\n')}\n`;
    expect(await take(sheet)).toMatchObject({ added: 1500, faults: [], applied: true });
    expect(await take(sheet)).toMatchObject({ added: 0, changed: 0, same: 1500 });
    expect(await completions(test.house.db, 'weed 1499', 5)).toMatchObject([{ text: 'plant 1499', by: 'weed 1499' }]);
    expect((await logged('words')).at(-1)).toBe('Word list taken in: 1500 new.');
    const free = await wordPage(test.house.db, { after: '', typed: 'genus', which: 'free' });
    expect(free.words).toHaveLength(15);
    // A free word is taken into the list; nothing else is new.
    expect(await take('word,broader\ngenus 101,plant 1499\n')).toMatchObject({ added: 1 });
    expect((await logged('words')).at(-1)).toContain('“genus 101” now, in the list');
  });

  it('is refused by line, and nothing of it is taken in: a name twice, another name of a word, a circle', async () => {
    const before = (await wordPage(test.house.db, { after: '', typed: 'shrub', which: 'all' })).words.length;
    const twice = take('word,languages\nshrub 1,pt: arbusto\nshrub 2,pt: arbusto\n');
    await expect(twice).rejects.toThrow(/Line 3: “arbusto” is a word already/);
    await expect(take('word\nshrub 3\nweed 12\n')).rejects.toThrow(/Line 3: “weed 12” is another name of “plant 12”/);
    const circle = take('word,broader\nshrub 4,shrub 5\nshrub 5,shrub 6\nshrub 6,shrub 4\n');
    await expect(circle).rejects.toThrow(/Line 2: shrub 4 would be broader than itself/);
    expect((await wordPage(test.house.db, { after: '', typed: 'shrub', which: 'all' })).words).toHaveLength(before);
  });
});

describe('lists of the house', () => {
  it('what was changed stands in the log, from what to what, and whoever is late is asked to look again', async () => {
    const id = await addToList(test.house, 'terms', { name: 'Ask', stance: 'ask first', sentence: 'Ask us.' }, 'Wren');
    await correctInList(test.house, 'terms', id, { sentence: 'Ask the maker.', revision: 1 }, 'Wren');
    await expect(correctInList(test.house, 'terms', id, { sentence: 'Never.', revision: 1 }, 'Ada')).rejects.toThrow(
      /Look at it again/,
    );
    await expect(addToList(test.house, 'terms', { name: 'ASK', stance: 'ask first' }, 'Ada')).rejects.toThrow(
      /in the list already/,
    );
    await correctInList(test.house, 'terms', id, { retired: true }, 'Wren');
    await correctInList(test.house, 'terms', id, { retired: false }, 'Wren');
    expect(await logged('terms')).toEqual([
      'Terms Ask.',
      'Terms Ask: sentence from “Ask us.” to “Ask the maker.”.',
      'Terms Ask: retired.',
      'Terms Ask: put back.',
    ]);
  });

  it('two entries are one: what the house and habits say turns with them', async () => {
    const [a, b] = [
      await addToList(test.house, 'terms', { name: 'Free', stance: 'free for the house' }, 'test'),
      await addToList(test.house, 'terms', { name: 'Frei', stance: 'free for the house' }, 'test'),
    ];
    await changeHouseCredit(test.house, { termsId: b }, 'test');
    await addToList(test.house, 'habits', { name: 'H', belongs: 'house', of: '', answers: { termsId: b } }, 'test');
    await mergeInList(test.house, 'terms', b, a, 'Wren');
    expect((await houseCredit(test.house.db)).termsId).toBe(a);
    expect(await houseList(test.house.db, 'habits')).toMatchObject([{ name: 'H', answers: { termsId: a } }]);
    await expect(mergeInList(test.house, 'terms', a, a, 'test')).rejects.toThrow(/one already/);
  });
});

describe('the log', () => {
  it('names terms and locations, and says of retiring that nothing else changed', async () => {
    const at = await addToList(test.house, 'locations', { name: 'Quay' }, 'test');
    const terms = (await houseList(test.house.db, 'terms'))[0]!;
    await changeContributor(test.house, test.slip.contributorId, { termsId: terms.id }, 'Wren');
    await changeAssignment(test.house, test.slip.assignmentId, { locationId: at }, 'Wren');
    expect((await logged('contributor')).at(-1)).toBe(`Ines Barrow (IB) terms from nothing to “${terms.name}”.`);
    expect((await logged('assignment')).at(-1)).toContain('location from nothing to “Quay”');
    expect((await correctInList(test.house, 'locations', at, { retired: true }, 'Wren')).items).toBe(0);
  });
});

describe('agreements', () => {
  it('a scan is what its bytes say, whatever it claims to be, and comes back to the byte', async () => {
    const id = await addAgreement(
      test.house,
      test.slip.contributorId,
      { what: 'photographs', signedOn: '2026-01-02', until: null },
      'test',
    );
    await expect(keepScan(test.house, id, Buffer.from('<html>'), 'test')).rejects.toThrow(/a PDF, a JPEG or a PNG/);
    const pdf = Buffer.from('%PDF-1.7\nnot much of one');
    await keepScan(test.house, id, pdf, 'test');
    expect(await readScan(test.house, id)).toEqual({ type: 'application/pdf', scan: pdf });
    await changeAgreement(test.house, id, null, 'test');
    await expect(readScan(test.house, id)).rejects.toThrow(/No scan/);
    expect((await logged('agreement')).at(-1)).toBe('Agreement with Ines Barrow, photographs: taken out.');
  });
});
