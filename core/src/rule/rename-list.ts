import { type Rows, toCsv, toTsv } from '../spreadsheet/index.js';

export interface Rename {
  /** Path on the card. */
  readonly from: string;
  /** Path on the drive. */
  readonly to: string;
}

const rowsOf = (renames: readonly Rename[]): Rows => ({
  columns: ['old', 'new'],
  rows: renames.map(({ from, to }) => [from, to]),
});

/** Old and new names as CSV. Text that a spreadsheet would run as a formula is quoted with '. */
export const renamesToCsv = (renames: readonly Rename[]): string => toCsv(rowsOf(renames));

/** Old and new names as tab-separated text, for pasting into a spreadsheet. */
export const renamesToTsv = (renames: readonly Rename[]): string => toTsv(rowsOf(renames));
