import Papa from 'papaparse';

export interface Rename {
  /** Path on the card. */
  readonly from: string;
  /** Path on the drive. */
  readonly to: string;
}

const rows = (renames: readonly Rename[]) => ({ fields: ['old', 'new'], data: renames.map(({ from, to }) => [from, to]) });

/** Old and new names as CSV by RFC 4180. Text that a spreadsheet would run as a formula is quoted with '. */
export function renamesToCsv(renames: readonly Rename[]): string {
  return `${Papa.unparse(rows(renames), { newline: '\r\n', escapeFormulae: true })}\r\n`;
}

/** Old and new names as tab-separated text, for pasting into a spreadsheet. */
export function renamesToTsv(renames: readonly Rename[]): string {
  return Papa.unparse(rows(renames), { delimiter: '\t', newline: '\n', escapeFormulae: true });
}
