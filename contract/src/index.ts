/*
 * contract: the wire. Zod schemas of every request, response and live event; types are inferred from them.
 */
export * from './primitives.js';
export * from './session.js';
export * from './accounts.js';
export * from './audit.js';
export * from './backup.js';
export * from './credit.js';
export * from './people.js';
export * from './intake.js';
export * from './logbook.js';
export * from './desk.js';
export * from './place-kinds.js';
export * from './live.js';
export * from './hand-in.js';
export * from './rules.js';
export * from './clearance.js';
export * from './house-record.js';
export * from './rebuild.js';
export * from './record.js';
export * from './lending.js';
export * from './written.js';
export * from './shelf.js';
export * from './drive.js';
