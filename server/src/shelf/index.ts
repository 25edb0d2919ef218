/*
 * shelf: finding what is filed.
 * In: words, spans and filters.
 * Out: lines of the logbook, a year by day, exports.
 */
export { logPage } from './logbook.js';
