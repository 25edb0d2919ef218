import Papa from 'papaparse';

/** A table as somebody's spreadsheet gives it: each row with the line of the file where it begins. */
export interface SheetRead {
  readonly columns: readonly string[];
  readonly rows: readonly { readonly line: number; readonly cells: Readonly<Record<string, string>> }[];
  readonly faults: readonly { readonly line: number; readonly what: string }[];
  /** How it was understood: `UTF-8, parted by semicolons`. */
  readonly read: string;
}

/** So many lines tell how cells are parted. */
const GUESSED_BY = 50;
const SEPARATORS: Readonly<Record<string, string>> = { ',': 'commas', ';': 'semicolons', '\t': 'tabs', '|': 'bars' };

/**
 * Text of a file, whatever wrote it: a byte order mark decides (Unicode 15, section 23.8), else UTF-8 where it is valid,
 * else Windows-1252, which older spreadsheets write (WHATWG Encoding).
 */
export function decodeText(bytes: Uint8Array): { text: string; encoding: string } {
  const starts = (...mark: number[]) => mark.every((byte, i) => bytes[i] === byte);
  if (starts(0xef, 0xbb, 0xbf)) return { text: new TextDecoder('utf-8').decode(bytes), encoding: 'UTF-8' };
  if (starts(0xff, 0xfe)) return { text: new TextDecoder('utf-16le').decode(bytes), encoding: 'UTF-16' };
  if (starts(0xfe, 0xff)) return { text: new TextDecoder('utf-16be').decode(bytes), encoding: 'UTF-16' };
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(bytes), encoding: 'UTF-8' };
  } catch {
    return { text: new TextDecoder('windows-1252').decode(bytes), encoding: 'Windows-1252' };
  }
}

/** Reads a table with a header line (RFC 4180, and what spreadsheets make of it: other separators, a byte order mark). */
export function readSheet(bytes: Uint8Array): SheetRead {
  const { text, encoding } = decodeText(bytes);
  const faults: { line: number; what: string }[] = [];
  const plain = text.replace(/^\uFEFF/, '');
  // Guessed without the empty lines that files end with; read with them, so that lines are counted as they stand.
  const { delimiter } = Papa.parse(plain, { preview: GUESSED_BY, skipEmptyLines: 'greedy' }).meta;
  const parsed = Papa.parse<string[]>(plain, { skipEmptyLines: false, delimiter });
  const lineOf = lineStarts(parsed.data);
  for (const { code, row, message } of parsed.errors)
    if (code !== 'UndetectableDelimiter') faults.push({ line: lineOf(row ?? 0), what: message });
  const [head, ...body] = parsed.data;
  const columns = (head ?? []).map((column) => column.normalize('NFC').trim());
  const doubled = columns.find((column, i) => column !== '' && columns.indexOf(column) !== i);
  if (doubled !== undefined) faults.push({ line: 1, what: `two columns are called “${doubled}”` });
  const rows = body.flatMap((cells, i) => {
    if (cells.every((cell) => cell.trim() === '')) return [];
    const line = lineOf(i + 1);
    if (cells.length > columns.length) faults.push({ line, what: `has ${cells.length} cells, the header has ${columns.length}` });
    return [{ line, cells: Object.fromEntries(columns.map((column, at) => [column, unguarded(cells[at] ?? '')])) }];
  });
  return { columns, rows, faults, read: `${encoding}, parted by ${SEPARATORS[delimiter] ?? 'commas'}` };
}

/** Cells that could run as a formula were written with a ' before them: see `toCsv`. */
const unguarded = (cell: string) =>
  cell
    .replace(/^'(?=[\s]*[=+\-@\uff1d\uff0b\uff0d\uff20])/, '')
    .normalize('NFC')
    .trim();

/** Line of the file on which each row begins, counting line breaks inside cells. */
function lineStarts(rows: readonly (readonly string[])[]): (row: number) => number {
  let line = 1;
  const starts = rows.map((cells) => {
    const at = line;
    line += 1 + cells.reduce((breaks, cell) => breaks + (cell.match(/\r\n|\r|\n/g)?.length ?? 0), 0);
    return at;
  });
  return (row) => starts[row] ?? line;
}
