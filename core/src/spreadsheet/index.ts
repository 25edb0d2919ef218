/*
 * spreadsheet: rows as text that spreadsheets open, and never run.
 * In: column names and rows of values.
 * Out: CSV to keep, tab-separated text to paste.
 * Standard: RFC 4180 (CSV); what begins a formula: OWASP, "CSV Injection" (from memory).
 */
export { toCsv, toTsv, type Cell, type Rows } from './rows.js';
