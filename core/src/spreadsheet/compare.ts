import type { SheetRead } from './read.js';

/** What a line of a sheet would do to the records there are. */
export interface LineDoes<T> {
  readonly line: number;
  readonly key: string;
  readonly does: 'add' | 'change' | 'nothing';
  /** What changes, in words. */
  readonly words: string;
  readonly said: T;
}

export interface Compared<T> {
  readonly lines: readonly LineDoes<T>[];
  readonly faults: readonly { readonly line: number; readonly what: string }[];
}

/** How a sheet's rows become records. */
export interface SheetKind<T> {
  /** What a record is known by; a sheet that has it twice says two things of one. */
  readonly key: string;
  /** Columns that are understood. */
  readonly columns: readonly string[];
  /** Reads the cells of a row that the sheet has. @returns words for what is wrong instead. */
  readonly read: (cells: Readonly<Record<string, string>>) => T | readonly string[];
  /** How a key is compared. */
  readonly fold: (key: string) => string;
  /** The record as cells, as an export has it; null when there is none. */
  readonly known: (key: string) => Readonly<Record<string, string>> | null;
}

/** Compares a sheet with the records there are, line by line. A cell that the sheet has not leaves its field alone. */
export function compareSheet<T>(sheet: SheetRead, kind: SheetKind<T>): Compared<T> {
  const faults = [...sheet.faults];
  if (!sheet.columns.includes(kind.key)) {
    const has = sheet.columns.filter(Boolean).join(', ') || 'nothing';
    faults.push({ line: 1, what: `has no column “${kind.key}”: it has ${has}` });
    return { lines: [], faults };
  }
  const unknown = sheet.columns.filter((column) => column !== '' && !kind.columns.includes(column));
  if (unknown.length)
    faults.push({
      line: 1,
      what: `knows no column ${unknown.map((name) => `“${name}”`).join(', ')}: there are ${kind.columns.join(', ')}`,
    });
  const seen = new Map<string, number>();
  const lines: LineDoes<T>[] = [];
  for (const { line, cells } of sheet.rows) {
    const key = cells[kind.key] ?? '';
    const folded = kind.fold(key);
    if (folded === '') {
      faults.push({ line, what: `says no ${kind.key}` });
      continue;
    }
    const before = seen.get(folded);
    if (before !== undefined) {
      faults.push({ line, what: `has the ${kind.key} “${key}” of line ${before} again` });
      continue;
    }
    seen.set(folded, line);
    const known = kind.known(key);
    // What the sheet does not speak of is as it was: nothing is filled in for it.
    const said = kind.read(known ? { ...known, ...cells } : cells);
    if (Array.isArray(said)) {
      faults.push(...(said as string[]).map((what) => ({ line, what })));
      continue;
    }
    const changes = known
      ? Object.keys(cells).filter(
          (column) => column !== kind.key && kind.columns.includes(column) && (known[column] ?? '') !== cells[column],
        )
      : [];
    const words = known ? changes.map((column) => `${column}: “${known[column] ?? ''}” → “${cells[column]}”`).join('; ') : 'new';
    lines.push({ line, key, does: known ? (changes.length ? 'change' : 'nothing') : 'add', words, said: said as T });
  }
  return { lines, faults: faults.sort((a, b) => a.line - b.line) };
}
