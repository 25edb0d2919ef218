/*
 * spreadsheet: rows as text that spreadsheets open, and never run.
 * In: column names and rows of values; files that somebody's spreadsheet wrote.
 * Out: CSV to keep, tab-separated text to paste; rows by line, and what they would change.
 * Standard: RFC 4180 (CSV); what begins a formula: OWASP, "CSV Injection" (from memory).
 */
export { compareSheet, type Compared, type LineDoes, type SheetKind } from './compare.js';
export { decodeText, readSheet, type SheetRead } from './read.js';
export { inPieces, toCsv, toTsv, type Cell, type Rows } from './rows.js';
