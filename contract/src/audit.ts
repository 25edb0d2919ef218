import { AUDITED } from '@tally/core/audit';
import { z } from 'zod';
import { Day, Id, Instant, text } from './primitives.js';

export const AuditQuery = z.strictObject({
  /** One kind of thing; else all that is audited. */
  kind: z.enum(AUDITED).optional(),
  who: text(80).optional(),
  from: Day.optional(),
  to: Day.optional(),
  /** The event that the page before ended with: older ones follow. */
  after: z.coerce.number().int().positive().max(Number.MAX_SAFE_INTEGER).optional(),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});
export type AuditQuery = z.infer<typeof AuditQuery>;

export const AuditEvent = z.object({
  id: z.number().int(),
  at: Instant,
  kind: z.string(),
  who: z.string().nullable(),
  text: z.string(),
  intakeId: Id.nullable(),
});
export type AuditEvent = z.infer<typeof AuditEvent>;

export const AuditPage = z.object({
  events: z.array(AuditEvent),
  /** Where the next page begins; null at the end. */
  next: z.number().int().nullable(),
  /** How far the log is chained, and when its head was written to the drive last. */
  chained: z.number().int(),
  headAt: Instant.nullable(),
});
export type AuditPage = z.infer<typeof AuditPage>;

/** What comparing the log with its chain, and the chain with the heads on the drive, gave. */
export const AuditVerdict = z.object({
  events: z.number().int(),
  chained: z.number().int(),
  /** Not chained yet: told in the last moments. */
  waiting: z.number().int(),
  heads: z.number().int(),
  /** Events from which a name was erased since they were told, each by an event that says so. */
  erased: z.number().int(),
  /** What is so and no fault: that the house went on in another database, and what was lost with the one before. */
  notes: z.array(z.string()),
  problems: z.array(z.string()),
});
export type AuditVerdict = z.infer<typeof AuditVerdict>;
