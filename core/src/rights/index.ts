/*
 * rights: who may what, and what somebody is shown.
 * In: a person's role, and what is to be done or shown.
 * Out: yes or no; the same answer without what is not for them.
 * Follows: deny by default, one table, asked by every route and command (OWASP ASVS 4.0.3, 4.1.1 and 4.1.3, from memory).
 */
export { commonPasswords, isCommon, PASSWORD_LENGTHS, passwordFault } from './password.js';
export { DEEDS, deedsOf, may, MUSTS, ROLES, type Deed, type Role } from './rights.js';
export { veiled } from './veil.js';
export { withholding, type Withheld } from './withheld.js';
