/*
 * rule: what is it called and where does it go?
 * In: a house rule as two lines of text, and what is known of an item.
 * Out: folder and file name, legal on Windows, exFAT, macOS and Linux; errors that say what, where and what was meant.
 * Standards: Unicode LDML (UTS #35) date and number patterns; NFC (UAX #15); grapheme clusters (UAX #29).
 */
export * from './line.js';
export * from './fields.js';
export { checkFormat, slug } from './formats.js';
export * from './legal-name.js';
export * from './house-rule.js';
export * from './codes.js';
