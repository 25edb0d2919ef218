/*
 * proving: what explains filed files without this program, and receipts.
 * In: what tallies.
 * Out: checksum lists, hash lists (ASC MHL), intake records, receipts.
 */
export { writeHouseRecord } from './house-record.js';
export { writeManifests } from './manifests.js';
export { originalCommand } from './original-command.js';
export { receiptOf } from './receipt.js';
export { provingWork } from './work.js';
export { folderDue } from './store.js';
export { type BesideWritten, dueIn, forgetWritten, forgetWrittenBelow, writtenIn } from './store/beside-written.js';
