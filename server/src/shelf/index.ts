/*
 * shelf: what is filed, looked through and found; bundles, figures, and the logbook.
 * In: queries and questions.
 * Out: pages, sums, exports, originals; bundles and standing questions.
 */
export { idsOf as askedIds } from './asking.js';
export { fillBundle, makeBundle } from './bundles.js';
export { filedByMonth } from './figures.js';
export { forgetChanges } from './store/kept.js';
export { shelfNow } from './kept-shelf.js';
export { logPage } from './logbook.js';
export { keepQuestion } from './standing.js';
export { shelfWork } from './work.js';
