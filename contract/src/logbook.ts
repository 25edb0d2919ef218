import { z } from 'zod';
import { IntakeStateSchema, IntakeSummary } from './intake.js';
import { Day } from './primitives.js';

export const LOG_ORDERS = ['received', 'contributor', 'assignment', 'card', 'items', 'bytes', 'state'] as const;

export const LogQuery = z.strictObject({
  words: z.string().trim().max(200).default(''),
  state: IntakeStateSchema.optional(),
  contributor: z.string().max(4).optional(),
  assignment: z.string().max(60).optional(),
  from: Day.optional(),
  to: Day.optional(),
  order: z.enum(LOG_ORDERS).default('received'),
  descending: z.stringbool().default(true),
  limit: z.coerce.number().int().min(1).max(500).default(100),
  /** How many to skip: intakes number some thousands a decade. */
  offset: z.coerce.number().int().min(0).max(1_000_000).default(0),
});
export type LogQuery = z.infer<typeof LogQuery>;

export const LogPage = z.object({ intakes: z.array(IntakeSummary), total: z.number().int() });
export type LogPage = z.infer<typeof LogPage>;

export const CalendarDay = z.object({ day: Day, intakes: z.number().int(), items: z.number().int() });
export const LogCalendar = z.object({ days: z.array(CalendarDay) });
export type LogCalendar = z.infer<typeof LogCalendar>;
