import { CLEARANCE_REASONS } from '@tally/core/copies';
import { ASIDE_REASONS } from '@tally/core/life';
import { z } from 'zod';
import { Id, Whole } from './primitives.js';

/** May the card be cleared, as it is now? */
export const ClearanceView = z.object({
  safe: z.boolean(),
  reasons: z.array(
    z.object({
      kind: z.enum(CLEARANCE_REASONS),
      words: z.string(),
      items: z.number().int(),
      /** The first few paths it is about. */
      paths: z.array(z.string()),
    }),
  ),
  /** Files that stand in every required place, and their bytes: what clearing removes. */
  files: z.number().int(),
  bytes: z.number(),
  /** Files that were left and stand nowhere else. */
  left: z.number().int(),
  /** What a person set aside: the intake tallies without it. */
  aside: z.array(z.object({ path: z.string(), reason: z.enum(ASIDE_REASONS) })),
  /** Index and system files, which stay. */
  kept: z.number().int(),
  /** Sound and files of unknown kind are asked about once more. */
  askAgain: z.boolean(),
  /** Was every byte of the card read and compared, or both ends of each file? */
  full: z.boolean(),
  /** Each required place: its device (null: it is away), and how many files of the card stand there now. */
  places: z.array(z.object({ name: z.string(), device: z.string().nullable(), files: z.number().int() })),
});
export type ClearanceView = z.infer<typeof ClearanceView>;

/** Most items that are removed from a card by themselves in one act. */
const MOST_ITEMS = 500;

export const ClearanceQuery = z.strictObject({
  full: z.stringbool().default(false),
  /** Ids with commas between: these items alone, not the whole card. */
  items: z
    .string()
    .transform((text): unknown[] => text.split(','))
    .pipe(z.array(Id).min(1).max(MOST_ITEMS))
    .optional(),
});

export const ClearRequest = z
  .strictObject({
    /** How many files the person saw would go: another number now is another card. */
    files: Whole.min(1),
    /** These items alone, not the whole card. */
    items: z.array(Id).min(1).max(MOST_ITEMS).optional(),
    /** Let go of what was left and stands nowhere else. */
    letGo: z.boolean().default(false),
    /** Remove only what stands in all required places; everything else stays on the card. */
    keep: z.boolean().default(false),
    /** Sound and unknown files too. */
    sure: z.boolean().default(false),
  })
  .refine(({ letGo, keep }) => !(letGo && keep), { path: ['keep'], message: 'is the opposite of letting go' });
export type ClearRequest = z.infer<typeof ClearRequest>;

/** Files go back to the card of this intake, which lies in a reader of the station. */
export const RestoreRequest = z.strictObject({ cardOf: Id });
export type RestoreRequest = z.infer<typeof RestoreRequest>;

export const RestoreAnswer = z.object({
  restored: z.number().int(),
  bytes: z.number(),
  failed: z.array(z.object({ path: z.string(), why: z.string() })),
});
export type RestoreAnswer = z.infer<typeof RestoreAnswer>;

export const ClearAnswer = z.object({
  removed: z.number().int(),
  bytes: z.number(),
  /** Files that were not what they had been a moment before: they stay. */
  stayed: z.array(z.object({ path: z.string(), why: z.string() })),
});
export type ClearAnswer = z.infer<typeof ClearAnswer>;
