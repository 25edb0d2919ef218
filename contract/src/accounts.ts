import { z } from 'zod';
import { Role } from './session.js';
import { Id, Instant, line, text } from './primitives.js';

const Named = z.object({ id: Id, name: z.string() });

/** What whoever hands in is bound to, where that was said. */
const bounds = {
  contributorId: Id.nullable(),
  /** Contributors of this kind only, in the house's words: a class. */
  ofKind: line(60).nullable(),
  assignmentId: Id.nullable(),
  quotaBytes: z.number().int().min(1).max(1e15).nullable(),
  quotaFiles: z.number().int().min(1).max(1_000_000).nullable(),
};

const boundsView = {
  contributor: Named.nullable(),
  ofKind: z.string().nullable(),
  assignment: Named.nullable(),
  quotaBytes: z.number().nullable(),
  quotaFiles: z.number().nullable(),
};

/** Somebody who signs in. */
export const AccountView = z.object({
  id: Id,
  name: z.string(),
  role: Role,
  retired: z.boolean(),
  createdAt: Instant,
  hasPassword: z.boolean(),
  /** Until when a code is good by which a password is chosen. */
  codeUntil: Instant.nullable(),
  until: Instant.nullable(),
  ...boundsView,
  seesPersons: z.boolean(),
  secondFactor: z.boolean(),
  /** Does this one come by the house's directory? */
  byDirectory: z.boolean(),
  sessions: z.number().int(),
  lastSeen: Instant.nullable(),
});
export type AccountView = z.infer<typeof AccountView>;

export const NewAccount = z.strictObject({
  name: line(80),
  role: Role,
  until: Instant.nullable().default(null),
  contributorId: bounds.contributorId.default(null),
  ofKind: bounds.ofKind.default(null),
  assignmentId: bounds.assignmentId.default(null),
  quotaBytes: bounds.quotaBytes.default(null),
  quotaFiles: bounds.quotaFiles.default(null),
  seesPersons: z.boolean().default(false),
});
export type NewAccount = z.input<typeof NewAccount>;

export const AccountChange = z.strictObject({
  name: line(80).optional(),
  role: Role.optional(),
  retired: z.boolean().optional(),
  until: Instant.nullable().optional(),
  contributorId: bounds.contributorId.optional(),
  ofKind: bounds.ofKind.optional(),
  assignmentId: bounds.assignmentId.optional(),
  quotaBytes: bounds.quotaBytes.optional(),
  quotaFiles: bounds.quotaFiles.optional(),
  seesPersons: z.boolean().optional(),
  /** Takes away a second factor whose device is lost. */
  secondFactor: z.literal(false).optional(),
});
export type AccountChange = z.infer<typeof AccountChange>;

/** A code by which somebody chooses a password. Shown now, and never again. */
export const CodeView = z.object({ id: Id, code: z.string(), until: Instant });
export type CodeView = z.infer<typeof CodeView>;

export const NewHandInLink = z.strictObject({
  hours: z
    .number()
    .int()
    .min(1)
    .max(31 * 24)
    .default(24),
  /** What it is for, in somebody's words. */
  name: text(80).default(''),
  contributorId: bounds.contributorId.default(null),
  ofKind: bounds.ofKind.default(null),
  assignmentId: bounds.assignmentId.default(null),
  quotaBytes: bounds.quotaBytes.default(null),
  quotaFiles: bounds.quotaFiles.default(null),
});
export type NewHandInLink = z.input<typeof NewHandInLink>;

/** A link as it is made: its secret, the address that holds it and a code to scan. Shown now, and never again. */
export const HandInLinkView = z.object({
  id: Id,
  token: z.string(),
  address: z.string(),
  picture: z.string(),
  expiresAt: Instant,
});
export type HandInLinkView = z.infer<typeof HandInLinkView>;

/** A link as it is listed, and what came in by it. */
export const LinkView = z.object({
  id: Id,
  name: z.string(),
  madeBy: z.string(),
  madeAt: Instant,
  expiresAt: Instant,
  revokedAt: Instant.nullable(),
  ...boundsView,
  handIns: z.number().int(),
  files: z.number().int(),
  bytes: z.number(),
  sessions: z.number().int(),
});
export type LinkView = z.infer<typeof LinkView>;

export const OpenHandInLink = z.strictObject({
  token: z.string().min(20).max(100),
  /** Ends the session of somebody else in this browser, who was asked. */
  instead: z.boolean().default(false),
});
