import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { KINDS } from '../card/index.js';
import { foldText } from '../words/index.js';
import { explainQuestion, faultOfQuestion, printQuestion, readQuestion, STATES, type Names, type Piece } from './index.js';
import { spanInWords, spanTyped, writtenSpan } from './spans.js';

const NAMES: Names = {
  contributors: [
    { code: 'PL', name: 'Priya Lind' },
    { code: 'IB', name: 'Ines Barrow' },
  ],
  assignments: [
    { slug: 'heron-count', title: 'Heron count' },
    { slug: 'reed-planting', title: 'Reed planting day' },
  ],
  bundles: [{ id: 7, name: 'Annual report' }],
};
const TODAY = '2026-04-21';
const read = (typed: string) => readQuestion(typed, NAMES, TODAY);
const printed = (typed: string) => printQuestion(read(typed));
const sentence = (typed: string) => explainQuestion(read(typed), NAMES);

const day = fc
  .date({ min: new Date('1900-01-01'), max: new Date('2099-12-31'), noInvalidDate: true })
  .map((date) => date.toISOString().slice(0, 10));
const span = fc.tuple(day, day).map(([a, b]) => (a < b ? { from: a, to: b } : { from: b, to: a }));
const tidy = (text: string) =>
  text
    .replace(/[“”„«»]/g, '"')
    .replace(/[\p{Cc}\p{Zs}\p{Zl}\p{Zp}]+/gu, ' ')
    .trim();
const text = fc.string({ unit: 'grapheme', minLength: 1, maxLength: 24 }).map(tidy).filter(Boolean);
const word = text.map((one) => one.replace(/["\s]+/gu, '')).filter(Boolean);
const plainPiece: fc.Arbitrary<Piece> = fc.oneof(
  word.map((one): Piece => ({ is: 'word', text: one })),
  text
    .map((one) => one.replaceAll('"', ' ').trim())
    .filter(Boolean)
    .map((one): Piece => ({ is: 'exact', text: tidy(one) })),
  span.map((one): Piece => ({ is: 'taken', ...one })),
  span.map((one): Piece => ({ is: 'filed', ...one })),
  fc.constantFrom(...KINDS).map((kind): Piece => ({ is: 'kind', kind })),
  fc.constantFrom(...STATES).map((state): Piece => ({ is: 'state', state })),
  text.map((code): Piece => ({ is: 'by', code })),
  text.map((slug): Piece => ({ is: 'for', slug })),
  text.map((name): Piece => ({ is: 'camera', name })),
  text.map((name): Piece => ({ is: 'at', name })),
  text.map((name): Piece => ({ is: 'shows', name })),
  text.map((name): Piece => ({ is: 'terms', name })),
  text.map((number): Piece => ({ is: 'intake', number })),
  text
    .map((path) => path.replace(/^\/+|\/+$/g, ''))
    .filter(Boolean)
    .map((path): Piece => ({ is: 'folder', path })),
  fc.integer({ min: 1, max: 999_999 }).map((id): Piece => ({ is: 'bundle', id })),
);
const piece = fc.tuple(plainPiece, fc.boolean()).map(([one, not]): Piece => (not ? { ...one, not: true } : one));

describe('a question', () => {
  it('means, read from what was printed, what it meant before', () => {
    fc.assert(
      fc.property(fc.uniqueArray(piece, { maxLength: 8, selector: (one) => JSON.stringify(one) }), (question) => {
        const written = printQuestion(question);
        fc.pre(written.length <= 2_000);
        expect(readQuestion(written, NAMES, TODAY)).toEqual(question);
      }),
      { numRuns: 1_000 },
    );
  });

  it('is read from whatever is typed, and stays the same once it is read', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 120 }), (typed) => {
        const question = read(typed);
        fc.pre(printQuestion(question).length <= 2_000);
        expect(readQuestion(printQuestion(question), NAMES, TODAY)).toEqual(question);
        expect(explainQuestion(question, NAMES)).toBeTruthy();
      }),
      { numRuns: 1_000 },
    );
  });

  it('turns into pieces where it is meant so', () => {
    expect(read('heron Priya Lind spring 2025')).toEqual([
      { is: 'word', text: 'heron' },
      { is: 'by', code: 'PL' },
      { is: 'taken', from: '2025-03-01', to: '2025-05-31' },
    ]);
    expect(printed('taken by ines barrow for reed planting day')).toBe('by:IB for:reed-planting');
    expect(printed('raw not proven twice -reshoot')).toBe('kind:raw is:"not proven twice" -is:reshoot');
    expect(printed('IB with sound without credit')).toBe('by:IB is:"with sound" is:"without credit"');
    expect(printed('in bundle annual report 2026-0412')).toBe('bundle:7 intake:2026-0412');
    expect(printed('last week')).toBe('taken:2026-04-13..2026-04-19');
    // What could be anything stays a word; what stands in quotation marks is never understood.
    expect(printed('ib priya "spring 2025"')).toBe('word:ib word:priya "spring 2025"');
    expect(printed('by nobody-known')).toBe('word:by word:nobody-known');
  });

  it('is said in a sentence', () => {
    expect(sentence('')).toBe('Everything that is filed');
    expect(sentence('taken by priya lind heron spring 2025')).toBe('Everything by Priya Lind, “heron…”, from spring 2025');
    expect(sentence('raw for heron count -"grey seal"')).toBe('Raw pictures for Heron count, not exactly “grey seal”');
    expect(sentence('-with sound bundle:7')).toBe('Everything without sound, in bundle “Annual report”');
  });

  it.each([
    ['"never closed', '"never closed"'],
    ['-', 'word:-'],
    ['- heron', 'word:- word:heron'],
    ['--heron', '-word:-heron'],
    ['""', ''],
    ['^(a+)+$', 'word:^(a+)+$'],
    ['taken:yesterday', 'word:taken:yesterday'],
    ['“grey heron”', '"grey heron"'],
    ['أنس البحر', 'word:أنس word:البحر'],
    ['2024-13 2023-02-30', 'word:2024-13 word:2023-02-30'],
    ['bundle:0 bundle:x', 'word:bundle:0 word:bundle:x'],
  ])('makes the best of %s', (typed, expected) => expect(printed(typed)).toBe(expected));

  it('says when it is too long', () => {
    expect(faultOfQuestion('a'.repeat(10_000))).toContain('2000 characters');
    expect(faultOfQuestion('a '.repeat(60))).toContain('40 words');
    expect(faultOfQuestion('heron spring 2025')).toBeNull();
  });
});

describe('a span of days', () => {
  it.each([
    ['2024', '2024-01-01', '2024-12-31', '2024'],
    ['2024-02', '2024-02-01', '2024-02-29', 'February 2024'],
    ['may 2024', '2024-05-01', '2024-05-31', 'May 2024'],
    ['sept 2024', null, null, null],
    ['sep 2024', '2024-09-01', '2024-09-30', 'September 2024'],
    ['winter 2024', '2024-12-01', '2025-02-28', 'winter 2024'],
    ['18 may 2024', '2024-05-18', '2024-05-18', '18 May 2024'],
    ['may 18th 2024', '2024-05-18', '2024-05-18', '18 May 2024'],
    ['31 june 2024', null, null, null],
    ['2024-05..2024-07-03', '2024-05-01', '2024-07-03', '1 May 2024 to 3 July 2024'],
    ['2024..2023', null, null, null],
    ['yesterday', '2026-04-20', '2026-04-20', '20 April 2026'],
    ['last month', '2026-03-01', '2026-03-31', 'March 2026'],
    ['0412', null, null, null],
    ['1024', null, null, null],
  ])('is understood from %s', (typed, from, to, words) => {
    const found = spanTyped(typed, TODAY);
    expect(found).toEqual(from === null ? null : { from, to });
    if (found) expect(spanInWords(found)).toBe(words);
  });

  it('is written so that it is read again', () => {
    fc.assert(fc.property(span, (one) => expect(spanTyped(writtenSpan(one), TODAY)).toEqual(one)));
  });
});

describe('letters with and without accents', () => {
  // Checked against ICU's root collation at its first level (Unicode Technical Standard 10), as Node.js brings it.
  const collator = new Intl.Collator('und', { sensitivity: 'base' });
  const LETTERS = 'ÀÁÂÃÄÅÇÈÉÊËÌÍÎÏÑÒÓÔÕÖÙÚÛÜÝĀĂĄĆĈĊČĎĒĔĖĘĚĜĞĠĢĤĨĪĬĮİĴĶĹĻĽŃŅŇŌŎŐŔŖŘŚŜŞŠŢŤŨŪŬŮŰŲŴŶŸŹŻŽƠƯǍǏǑǓȘȚ';

  it('are the same to us where they are the same to ICU', () => {
    for (const letter of LETTERS) {
      const plain = letter.normalize('NFD')[0]!;
      expect([letter, collator.compare(letter, plain) === 0]).toEqual([letter, foldText(letter) === foldText(plain)]);
      for (const other of 'aeioucnsz')
        expect([letter, other, foldText(letter) === foldText(other)]).toEqual([
          letter,
          other,
          collator.compare(letter, other) === 0,
        ]);
    }
  });
});
