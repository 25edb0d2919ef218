import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { compareSheet, readSheet, type SheetKind, toCsv } from './index.js';

const bytes = (text: string) => new TextEncoder().encode(text);

describe('a sheet that somebody else wrote', () => {
  it.each([
    ['commas', 'code,name\r\nIB,Ines\r\n', 'UTF-8, parted by commas'],
    ['semicolons', 'code;name\nIB;Ines\n', 'UTF-8, parted by semicolons'],
    ['tabs', 'code\tname\nIB\tInes', 'UTF-8, parted by tabs'],
  ])('%s', (_what, text, read) => {
    expect(readSheet(bytes(text))).toMatchObject({ read, rows: [{ line: 2, cells: { code: 'IB', name: 'Ines' } }], faults: [] });
  });

  it('old and wide encodings', () => {
    const latin = Uint8Array.from([...bytes('code,name\nJS,Jos'), 0xe9, 0x0a]);
    expect(readSheet(latin)).toMatchObject({ read: 'Windows-1252, parted by commas', rows: [{ cells: { name: 'José' } }] });
    const wide = Uint8Array.from([
      0xff,
      0xfe,
      ...Array.from('code,name\nJS,Jé').flatMap((c) => [c.charCodeAt(0) & 255, c.charCodeAt(0) >> 8]),
    ]);
    expect(readSheet(wide)).toMatchObject({ read: 'UTF-16, parted by commas', rows: [{ cells: { name: 'Jé' } }] });
  });

  it('names the line of the file, line breaks in cells counted', () => {
    const sheet = readSheet(bytes('code,name\nA,"one\ntwo"\n\nB,x,too,many\n'));
    expect(sheet.rows.map(({ line }) => line)).toEqual([2, 5]);
    expect(sheet.faults).toEqual([{ line: 5, what: 'has 4 cells, the header has 2' }]);
  });

  it('reads what we write, formulas too (property)', () => {
    const cell = fc
      .string({ unit: 'grapheme', maxLength: 12 })
      .map((text) => text.normalize('NFC').trim())
      .filter((text) => !text.startsWith("'") && !/[\r]/.test(text));
    fc.assert(
      fc.property(fc.array(fc.tuple(cell, cell), { minLength: 1, maxLength: 6 }), (rows) => {
        const told = rows.filter((row) => row.some((one) => one.trim() !== ''));
        const sheet = readSheet(bytes(toCsv({ columns: ['a', 'b'], rows: told })));
        expect(sheet.rows.map(({ cells }) => [cells['a'], cells['b']])).toEqual(told);
      }),
    );
  });
});

describe('what a sheet would change', () => {
  const kind: SheetKind<{ name: string }> = {
    ...{ key: 'code', columns: ['code', 'name'], fold: (code) => code.toUpperCase() },
    read: (cells) => (cells['name'] === 'bad' ? ['name is bad'] : { name: cells['name'] ?? '' }),
    known: (code) => ({ IB: { code: 'IB', name: 'Ines' }, PL: { code: 'PL', name: 'Priya' } })[code.toUpperCase()] ?? null,
  };

  it('what is new, what changes, what stays', () => {
    const { lines, faults } = compareSheet(readSheet(bytes('code,name\nib,Ines\nPL,Priya Lind\nTR,Tomas\n')), kind);
    expect(faults).toEqual([]);
    expect(lines.map(({ key, does, words }) => [key, does, words])).toEqual([
      ['ib', 'nothing', ''],
      ['PL', 'change', 'name: “Priya” → “Priya Lind”'],
      ['TR', 'add', 'new'],
    ]);
  });

  it('a column that the sheet has not leaves its field as it was', () => {
    const whole = {
      ...kind,
      columns: ['code', 'name', 'kind'],
      read: (cells: Readonly<Record<string, string>>) => ({ name: cells['name'] ?? 'filled in' }),
    };
    const { lines } = compareSheet(readSheet(bytes('code,kind\nIB,pupil\n')), whole);
    expect(lines[0]).toMatchObject({ does: 'change', said: { name: 'Ines' }, words: 'kind: “” → “pupil”' });
  });

  it('doubled keys, missing keys, bad cells and unknown columns by line', () => {
    const { faults } = compareSheet(readSheet(bytes('code,name,shoe\nIB,x,1\nib,y,2\n,z,3\nTR,bad,4\n')), kind);
    expect(faults.map(({ line, what }) => `${line} ${what}`)).toEqual([
      '1 knows no column “shoe”: there are code, name',
      '3 has the code “ib” of line 2 again',
      '4 says no code',
      '5 name is bad',
    ]);
  });

  it('a file without the column that says who it is', () => {
    expect(compareSheet(readSheet(bytes('a,b\n1,2\n')), kind).faults[0]?.what).toBe('has no column “code”: it has a, b');
  });
});
