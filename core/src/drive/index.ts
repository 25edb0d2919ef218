/*
 * drive: what stands there against what should, and which mend follows?
 * In: files as they stand at a place, copies as the logbook has them, the house rule, names that somebody gave by hand.
 * Out: findings with their mends, likely moves, what names say, new names, the steps of a mend in their order.
 * Practice followed: common practice where no source is named beside a table; names legal everywhere as in `rule`.
 */
export { compareFolder, isSameTime, nameFindings, type Compared, type KnownCopy, type Stood } from './compare.js';
export { finding, FINDING_KINDS, FINDINGS, MENDS, type Finding, type FindingKind, type MendName } from './finding.js';
export { isHalfName, leftoverFolder, leftoverReason } from './leftovers.js';
export { maybeMoved, type MaybeMoved } from './moves.js';
export { isSmallerOf, type Pictured } from './near-twin.js';
export { nameVerdict, rightPath, type Judged } from './name-verdict.js';
export {
  ASIDE_FOLDER,
  BY_HAND_FOLDER,
  explainedBy,
  houseRecordName,
  isAside,
  isHouseRecord,
  isHalfMade,
  isOurs,
  isOwnFolder,
  LOG_HEADS_FILE,
  isTemporary,
  MOVED_FILE,
  BACKUP_FOLDER,
  recordName,
  recordNumber,
  SECOND_FOLDER,
  temporaryName,
} from './ours.js';
export { dayOf, findDay, readByPattern, type DayParts } from './read-date.js';
export { folderSays, NameReader, type FolderSays, type HouseLists, type PathSays, type Reader } from './read-names.js';
export { refile, refileFolders, refileScopes, type Refiled, type RefileView, type Refiling } from './refile.js';
export { asFolders, faultsOf, foldersOf, inTurn, legalPath, type FolderStep, type Step, type StepFault } from './steps.js';
