import { z } from 'zod';

/** Ids are positive 32-bit integers, as the database makes them. */
export const Id = z.coerce.number().int().positive().max(2_147_483_647);
export type Id = z.infer<typeof Id>;

// eslint-disable-next-line no-control-regex -- control characters are what is refused
const CONTROLS = /[\u0000-\u001f\u007f]/;

/** A line of text typed by a person: trimmed, NFC, no control characters. */
export const line = (max: number) =>
  z
    .string()
    .transform((text) => text.normalize('NFC').trim())
    .pipe(
      z
        .string()
        .min(1, 'must not be empty')
        .max(max)
        .refine((text) => !CONTROLS.test(text), 'must not hold control characters'),
    );

/** As `line`, and nothing at all is text too. */
export const text = (max: number) =>
  z
    .string()
    .transform((typed) => typed.normalize('NFC').trim())
    .pipe(
      z
        .string()
        .max(max)
        .refine((typed) => !CONTROLS.test(typed), 'must not hold control characters'),
    );

/** Text of others (a camera's, an older rule's) as it is, for comparing and keeping: only what no database holds is refused. */
export const foreignText = (max: number) =>
  z
    .string()
    .max(max)
    .refine((given) => !given.includes('\u0000'), 'must not hold the character NUL');

/** A whole number that is not negative and fits the database's integer (32 bits with a sign). */
export const Whole = z.number().int().min(0).max(2_147_483_647);

/** An instant, ISO 8601 in UTC. */
export const Instant = z.iso.datetime();
/** A calendar day, `yyyy-MM-dd`. */
export const Day = z.iso.date().refine((day) => day >= '0001-01-01', 'must lie in a year that calendars have');

/** RFC 9457 problem details, with the faults of a request where there are several. */
export const Problem = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number().int(),
  detail: z.string().optional(),
  faults: z.array(z.object({ where: z.string(), what: z.string() })).optional(),
  /** What is to be done or given first. */
  needs: z.string().optional(),
});
export type Problem = z.infer<typeof Problem>;
