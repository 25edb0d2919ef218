/*
 * audit: what is recorded for whoever is answerable, and how the log is chained so that a change is seen.
 * In: events as they were told, and the hash before each.
 * Out: the text that is hashed; which links do not hold.
 * Follows: RFC 8785 (JSON canonicalization) for the text; a hash chain as in Haber and Stornetta 1991 (from memory).
 */
export { AUDITED, type Audited } from './audited.js';
export { GENESIS, eventText, linkText, type ChainedEvent } from './chain.js';
export { erasing, type Erased, type Telling } from './erasing.js';
export { headLine, readHeads, type Head } from './heads.js';
export { auditInPieces, type AuditLine } from './rows.js';
