/*
 * rule: what is it called and where does it go?
 * In: a house rule as lines of text with settings, and what is known of an item.
 * Out: folder and file name, legal everywhere; the five verdicts on a rule; the fields again from a name;
 *      errors that say what, where and what was meant.
 * Standards: Unicode LDML (UTS #35) date and number patterns; ISO 8601 weeks; NFC (UAX #15); grapheme clusters (UAX #29).
 */
export * from './line.js';
export * from './fields.js';
export { FIELD_WORDS } from './field-words.js';
export * from './settings.js';
export { checkFormat, slug, TEXT_FORMATS } from './formats.js';
export { LANGUAGES } from './date-pattern.js';
export * from './season.js';
export * from './legal-name.js';
export * from './paths.js';
export * from './house-rule.js';
export * from './render.js';
export * from './sequence.js';
export * from './filed-day.js';
export { alwaysNumbered, nameItems, type Named } from './numbering.js';
export * from './codes.js';
export * from './read-back.js';
export * from './verdicts.js';
export {
  NEEDED_VERDICTS,
  PATH_CHARS_MAX,
  VERDICTS,
  type KnownValues,
  type Trial,
  type Verdict,
  type VerdictName,
} from './verdict.js';
export * from './starters.js';
export * from './rename-list.js';
