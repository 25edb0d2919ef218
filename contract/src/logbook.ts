import { LOG_COLUMNS } from '@tally/core/logbook';
import { z } from 'zod';
import { IntakeStateSchema, IntakeSummary } from './intake.js';
import { Day, Id, text } from './primitives.js';

export const LOG_ORDERS = ['received', 'contributor', 'assignment', 'card', 'items', 'bytes', 'state'] as const;

export const LogQuery = z.strictObject({
  words: text(200).default(''),
  state: IntakeStateSchema.optional(),
  contributor: text(4).optional(),
  assignment: text(60).optional(),
  from: Day.optional(),
  to: Day.optional(),
  order: z.enum(LOG_ORDERS).default('received'),
  descending: z.stringbool().default(true),
  limit: z.coerce.number().int().min(1).max(500).default(100),
  /** How many to skip, for whoever drags a list to its middle. */
  offset: z.coerce.number().int().min(0).max(1_000_000).default(0),
  /** The intake that the page before ended with (its `next`): what follows is found at once, however far down it is. */
  after: Id.optional(),
});
export type LogQuery = z.infer<typeof LogQuery>;

/** The log as a file: every line that is found, with these columns (names with commas between), or all. */
export const LogExport = LogQuery.extend({
  columns: z
    .string()
    .max(300)
    .transform((text) => text.split(',').filter(Boolean))
    .pipe(z.array(z.enum(LOG_COLUMNS)).min(1))
    .optional(),
});
export type LogExport = z.infer<typeof LogExport>;

export const PAPERS = ['A4', 'LETTER'] as const;
export const LABEL_FORMS = ['sheet', 'tape'] as const;
export type LabelForm = (typeof LABEL_FORMS)[number];

/** A label as a tape has it: letters, digits, hyphens, spaces; what a bar code and a keyboard have on every system. */
const Label = z
  .string()
  .trim()
  .regex(/^[A-Za-z0-9][A-Za-z0-9 .-]{0,23}$/, 'is letters, digits, spaces, points and hyphens, at most 24');

/** Labels to print: these (with commas between), or as many new ones. */
export const LabelsQuery = z
  .strictObject({
    labels: z
      .string()
      .max(6000)
      .transform((text) =>
        text
          .split(',')
          .map((label) => label.trim())
          .filter(Boolean),
      )
      .pipe(z.array(Label).min(1).max(240))
      .optional(),
    count: z.coerce.number().int().min(1).max(240).optional(),
    form: z.enum(LABEL_FORMS).default('sheet'),
    skip: z.coerce.number().int().min(0).max(23).default(0),
  })
  .refine(({ labels, count }) => (labels === undefined) !== (count === undefined), {
    message: 'Say labels or count, one of them.',
  });
export type LabelsQuery = z.infer<typeof LabelsQuery>;

export const ReceiptQuery = z.strictObject({ paper: z.enum(PAPERS).default('A4') });

/** File name of a kept receipt: when it was made, on what paper, what it says. */
export const ReceiptName = z.string().regex(/^\d{4}-\d\d-\d\dT\d{4}_[A-Z0-9]+_[0-9a-f]{16}\.pdf$/);

export const KeptReceipt = z.object({
  name: ReceiptName,
  /** Wall clock of the house. */
  at: z.string(),
  paper: z.string(),
});
export type KeptReceipt = z.infer<typeof KeptReceipt>;

export const LogPage = z.object({
  intakes: z.array(IntakeSummary),
  total: z.number().int(),
  /** What all that is found comes to, not only this page. */
  sums: z.object({ items: z.number().int(), filed: z.number().int(), bytes: z.number() }),
  /** The intake to go on after; null at the end. */
  next: Id.nullable(),
});
export type LogPage = z.infer<typeof LogPage>;

/** The days of a span; none given: a year back from today. */
export const CalendarQuery = z.strictObject({ from: Day.optional(), to: Day.optional() });

export const CalendarDay = z.object({ day: Day, intakes: z.number().int(), items: z.number().int() });
export const LogCalendar = z.object({ days: z.array(CalendarDay) });
export type LogCalendar = z.infer<typeof LogCalendar>;
