/*
 * audit: the log, chained so that a change is seen, and what of it is for whoever is answerable.
 * In: events as every room records them.
 * Out: pages of what is audited, the chain and its heads on the drive, and whether they hold. It alone writes the chain, and
 * erases names from what was told.
 */
export { eraseFromLog, eraseWaiting, forgottenName } from './erasing.js';
export { tellExport } from './looking.js';
export { auditWork } from './work.js';
export { chainLog } from './chaining.js';
export { goOnHere } from './epoch.js';
export { verifyCommand } from './commands.js';
export { verifyLog } from './verifying.js';
export { writeHeads } from './heads.js';
