/*
 * rebuild: what do the records on several places say of an intake?
 * In: records as they were found, at which place, and whether they could be proven.
 * Out: the one that counts, each item with what stands where, and where places differ.
 * Practice followed: the newest proof wins, and nothing is merged field by field (common practice, no source).
 */
export { intakeTold, newestFirst, type Difference, type IntakeTold, type ItemTold, type RecordFound } from './told.js';
