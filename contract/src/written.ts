import { type Field, FIELDS, WRITINGS } from '@tally/core/fields';
import { z } from 'zod';

const FieldName = z.enum(FIELDS as [Field, ...Field[]]);

/** What stands in a file and beside it, and what will. */
export const WrittenView = z.object({
  /** Where the house has it written. */
  how: z.enum(WRITINGS),
  /** Why it is not there. */
  reason: z.string().nullable(),
  /** Property by property: what stands, in which blocks (XMP, IIM, Exif, sidecar), and what will where that is something else. */
  rows: z.array(
    z.object({ field: FieldName, name: z.string(), stands: z.string(), where: z.array(z.string()), will: z.string().nullable() }),
  ),
  /** Where the file says something else than the house; `standing`: which of the two stands. */
  questions: z.array(
    z.object({
      ...{ field: FieldName, name: z.string(), theirs: z.string(), ours: z.string() },
      standing: z.enum(['ours', 'theirs']).nullable(),
    }),
  ),
  /** Copies that tally, and whether they say already what the house says. */
  places: z.array(z.object({ place: z.string(), how: z.enum(['inside', 'beside', 'none']).nullable(), behind: z.boolean() })),
  /** What could not be read. */
  faults: z.array(z.string()),
});
export type WrittenView = z.infer<typeof WrittenView>;
