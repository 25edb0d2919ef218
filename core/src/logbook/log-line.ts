import Papa from 'papaparse';
import { inPieces, type Rows, toCsv, toTsv } from '../spreadsheet/index.js';

/** One intake as a line of the log, as people keep it in a spreadsheet of cards. */
export interface LogLine {
  readonly number: string;
  readonly date: string;
  readonly received: string;
  readonly receivedBy: string;
  readonly contributor: string;
  readonly card: string;
  readonly assignment: string;
  readonly camera: string;
  readonly items: number;
  readonly bytes: number;
  readonly photos: number;
  readonly raws: number;
  readonly videos: number;
  readonly sounds: number;
  readonly first: string;
  readonly last: string;
  readonly state: string;
}

/** What a line can have, in the order in which it has it unless somebody chooses. */
export const LOG_COLUMNS = [
  ...(['number', 'date', 'assignment', 'camera', 'contributor', 'card', 'bytes', 'first', 'last', 'items'] as const),
  ...(['photos', 'raws', 'videos', 'sounds', 'state', 'received', 'receivedBy'] as const),
] as const satisfies readonly (keyof LogLine)[];
export type LogColumn = (typeof LOG_COLUMNS)[number];

/** CSV to keep. Text that a spreadsheet would run as a formula is quoted with '. */
export const logToCsv = (lines: readonly LogLine[], columns: readonly LogColumn[] = LOG_COLUMNS): string =>
  toCsv(rowsOf(lines, columns));

/** Tab-separated text for pasting into a spreadsheet. */
export const logToTsv = (lines: readonly LogLine[], columns: readonly LogColumn[] = LOG_COLUMNS): string =>
  toTsv(rowsOf(lines, columns));

/**
 * The same in pieces, for a log that is too long to be held: each call writes some more lines, the first the header too.
 * Put together, the pieces are what `logToCsv` or `logToTsv` writes of all lines.
 */
export function logInPieces(
  form: 'csv' | 'tsv',
  columns: readonly LogColumn[] = LOG_COLUMNS,
): (lines: readonly LogLine[]) => string {
  const piece = inPieces(form, columns);
  return (lines) => piece(rowsOf(lines, columns).rows);
}

/** Reads a log written by `logToCsv` back. */
export function logFromCsv(csv: string): Record<string, string>[] {
  return Papa.parse<Record<string, string>>(csv, { header: true, skipEmptyLines: true }).data;
}

const rowsOf = (lines: readonly LogLine[], columns: readonly LogColumn[]): Rows => ({
  columns,
  rows: lines.map((line) => columns.map((column) => line[column])),
});

/** `2026-0412`: the year of reception and the number in it. */
export function intakeNumber(year: number, count: number): string {
  return `${year}-${String(count).padStart(4, '0')}`;
}
