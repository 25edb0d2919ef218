import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  formatBytes,
  formatDuration,
  intakeNumber,
  logFromCsv,
  logInPieces,
  logToCsv,
  LOG_COLUMNS,
  logToTsv,
  type LogLine,
} from './index.js';

const LINE: LogLine = {
  number: '2026-0412',
  date: '2026-04-21',
  received: '2026-04-21 17:42',
  receivedBy: 'wren',
  contributor: 'Ines Barrow',
  card: 'C-014',
  assignment: 'Reed planting day',
  camera: 'Halden M4',
  items: 118,
  bytes: 4_100_000_000,
  photos: 118,
  raws: 0,
  videos: 0,
  sounds: 0,
  first: 'HM4_0417.JPG',
  last: 'HM4_0534.JPG',
  state: 'tallied',
};

describe('the log as CSV', () => {
  // RFC 4180, section 2: CRLF ends each line (1); a header line (3); fields with comma, quote or break are quoted (6), quotes doubled (7).
  it('follows RFC 4180', () => {
    const csv = logToCsv([{ ...LINE, assignment: 'Planting, "big" day\nand after' }]);
    expect(csv.startsWith('number,date,assignment,camera,contributor,card,bytes,first,last,items,')).toBe(true);
    expect(csv).toContain('"Planting, ""big"" day\nand after"');
    expect(csv.endsWith('\r\n')).toBe(true);
    expect(csv.split('\r\n')).toHaveLength(3);
  });

  it('has the columns that were chosen, in that order', () => {
    expect(logToCsv([LINE], ['card', 'items']).split('\r\n')[0]).toBe('card,items');
    expect(logToTsv([LINE], ['items', 'card']).split('\n')[1]).toBe(`${LINE.items}\t${LINE.card}`);
  });

  it('in pieces it is what it is as a whole, however it is cut', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(3), { maxLength: 5 }), fc.constantFrom('csv' as const, 'tsv' as const), (sizes, form) => {
        let n = 0;
        const pieces = sizes.map((size) =>
          Array.from({ length: size }, () => ({ ...LINE, card: `C-${n++}`, first: 'a "b"\nc' })),
        );
        const piece = logInPieces(form);
        const whole = form === 'csv' ? logToCsv(pieces.flat()) : logToTsv(pieces.flat());
        expect((pieces.length ? pieces : [[]]).map((lines) => piece(lines)).join('')).toBe(whole);
      }),
    );
  });

  it('an empty log still has its header', () => expect(logToCsv([]).split('\r\n')[0]).toContain('number,date'));

  it('reads back whatever it writes', () => {
    // What could run as a formula is defused: see below.
    const isPlain = (value: string) => !/^\s|^[^\p{L}\p{N}]*[=+\-@\uff1d\uff0b\uff0d\uff20]/u.test(value);
    const text = fc.string({ unit: 'grapheme', maxLength: 20 }).filter(isPlain);
    fc.assert(
      fc.property(text, text, (contributor, assignment) => {
        const [row] = logFromCsv(logToCsv([{ ...LINE, contributor, assignment }]));
        expect(row).toMatchObject({ contributor, assignment, bytes: '4100000000' });
      }),
      { numRuns: 1000 },
    );
  });

  // OWASP, "CSV Injection" (from memory): a cell that begins with = + - @ runs as a formula.
  it('a name that a spreadsheet would run as a formula is defused', () => {
    expect(logToCsv([{ ...LINE, contributor: '=HYPERLINK("x")' }])).toContain(`"'=HYPERLINK(""x"")"`);
    expect(logToTsv([{ ...LINE, card: '@SUM(A1)' }])).toContain(`'@SUM(A1)`);
  });

  it.each(['=1+1\n', '@SUM(A1)\r\nx', '\t=1+1', ' =1+1', '\n=1+1', '+1\u2028', '\uff1d1+1', '\u0000=1+1'])(
    'nor does a line break, a space or a wide sign let %j through',
    (camera) => {
      const [row] = logFromCsv(logToCsv([{ ...LINE, camera }]));
      expect(row!['camera']).toMatch(/^'/);
      const [, line] = logToTsv([{ ...LINE, camera }]).split('\n');
      expect(line!.split('\t')[LOG_COLUMNS.indexOf('camera')]).toMatch(/^"?'/);
    },
  );

  it('pasted, an intake is one row, whatever a camera is called', () =>
    expect(logToTsv([{ ...LINE, camera: 'Halden\n=1+1\tX' }]).split('\n')).toHaveLength(2));

  it('tab-separated text has one line an intake', () => {
    expect(logToTsv([LINE, LINE]).split('\n')).toHaveLength(3);
    expect(logToTsv([LINE]).split('\n')[1]!.split('\t')).toContain('Reed planting day');
  });
});

it('numbers of intakes sort as text within a year', () => {
  expect(intakeNumber(2026, 412)).toBe('2026-0412');
  expect(intakeNumber(2026, 12_345)).toBe('2026-12345');
});

it.each([
  [0, '0 bytes'],
  [999, '999 bytes'],
  [1000, '1.00 kB'],
  [12_340_000, '12.3 MB'],
  [999_600, '1.00 MB'],
  [27_400_000_000, '27.4 GB'],
  [1_840_000_000_000, '1.84 TB'],
])('%d bytes are %s, decimal as card makers print it', (bytes, text) => expect(formatBytes(bytes)).toBe(text));

it.each([
  [40_000, '40 s'],
  [180_000, '3 min'],
  [4_800_000, '1 h 20 min'],
])('%d ms are %s', (ms, text) => expect(formatDuration(ms)).toBe(text));
