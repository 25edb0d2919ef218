/*
 * logbook: what happened?
 * In: intakes as lines.
 * Out: CSV and tab-separated text, intake numbers, amounts as people read them.
 * Standard: RFC 4180 (CSV).
 */
export * from './log-line.js';
export * from './amounts.js';
export * from './receipt.js';
export * from './part-names.js';
export * from './changes.js';
