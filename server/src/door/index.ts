/*
 * door: who may come in, as whom, for how long.
 * In: names and passwords, codes, links; what an administrator says of people who sign in.
 * Out: who is there, with what this one is bound to; what was recorded of it. It alone writes people, sessions and links.
 */
export { Access } from './access.js';
export { addPerson, ensureAdministrator } from './accounts.js';
export { boundsOf, type Bounds } from './store/accounts.js';
export { doorWork } from './work.js';
export { endAllSessions } from './store/sessions.js';
