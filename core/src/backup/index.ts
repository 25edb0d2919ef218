/*
 * backup: which backups of a house are kept.
 * In: when each was made, in the house's days.
 * Out: those that may go.
 * Practice followed: a number of days, weeks and months, of each the newest (grandfather, father, son; common practice, no source).
 */
export { type BackupKept, isOtherWeek, type KeepBackups, toThin } from './thinning.js';
