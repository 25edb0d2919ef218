/*
 * backing: the house backed up each night, and brought back.
 * In: the database as somebody who reads it, what of the data folder cannot be made again, where backups go.
 * Out: folders with a dump, files and checksums, read back and thinned; how the house stands with them. It alone writes which were made.
 */
export { BackupError } from './errors.js';
export { destinationsOf } from './destinations.js';
export { backUp } from './making.js';
export { backupsNow, healthOfBackups } from './standing.js';
export { backingWork } from './work.js';
