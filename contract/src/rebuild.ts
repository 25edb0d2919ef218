import { z } from 'zod';
import { PlaceId } from './drive.js';

/** Places whose records a logbook is rebuilt from. */
export const RebuildAsk = z.strictObject({ placeIds: z.array(PlaceId).min(1).max(20) });
export type RebuildAsk = z.infer<typeof RebuildAsk>;

/** What could be rebuilt. */
export const RebuildOffer = z.object({
  /** Does this house hold nothing yet? Only then it can be. */
  empty: z.boolean(),
  going: z.boolean(),
  /** What the house called itself that wrote these records; '' where no house record says so. */
  houseName: z.string(),
  intakes: z.number().int(),
  /** Number of the last intake. */
  newest: z.string().nullable(),
  /** Do lists of people, assignments and words stand there? */
  hasHouseRecord: z.boolean(),
  /** Intakes of other houses whose records stand there, too: they are not taken in. */
  others: z.number().int(),
});
export type RebuildOffer = z.infer<typeof RebuildOffer>;

/** What became of it. */
export const RebuildReport = z.object({
  intakes: z.number().int(),
  items: z.number().int(),
  /** Files that stay out, as another one has their name. */
  out: z.number().int(),
  /** Copies that are not where their records say, or have another size. */
  missing: z.number().int(),
  /** Records that cannot be taken in, and why: they stay as they are. */
  refused: z.array(z.object({ intake: z.string(), why: z.string() })),
  /** Where a place says something else than the record that counts. */
  differences: z.array(
    z.object({
      ...{ intake: z.string(), place: z.string(), path: z.string() },
      what: z.enum(['stands elsewhere', 'is no more', 'is not recorded']),
    }),
  ),
});
export type RebuildReport = z.infer<typeof RebuildReport>;
