import { z } from 'zod';
import { Day, Id, Instant, line, text } from './primitives.js';
import { Tray } from './intake.js';

/** What is lent beside cards. */
export const KIT_KINDS = ['reader', 'cable', 'camera', 'recorder', 'other'] as const;
export const THING_KINDS = ['card', ...KIT_KINDS] as const;
export const ThingKind = z.enum(THING_KINDS);
export type ThingKind = z.infer<typeof ThingKind>;

/** What stands on the tape of a card or of another thing. */
export const TapeLabel = line(24);

/** A thing of the house that is lent: named by kind and number. */
export const ThingKey = z.object({ kind: ThingKind, id: Id });
export type ThingKey = z.infer<typeof ThingKey>;

export const Loan = z.object({
  id: Id,
  to: z.object({ id: Id, code: z.string(), name: z.string() }),
  since: Instant,
  by: z.string(),
  due: Day.nullable(),
  standing: z.enum(['out', 'due today', 'overdue']),
  daysLate: z.number().int(),
  note: z.string(),
});
export type Loan = z.infer<typeof Loan>;

/** A thing on the lending list; its loan is null while it is here. */
export const Thing = ThingKey.extend({
  label: z.string().nullable(),
  name: z.string(),
  /** Where a card lies; other things are here or out. */
  tray: Tray.nullable(),
  loan: Loan.nullable(),
  /** How often it was lent before. */
  times: z.number().int(),
});
export type Thing = z.infer<typeof Thing>;

export const LendingList = z.object({ things: z.array(Thing) });
export type LendingList = z.infer<typeof LendingList>;

export const NewThing = z.strictObject({ kind: ThingKind, label: TapeLabel, name: text(120).default('') });
export type NewThing = z.infer<typeof NewThing>;

export const LendRequest = z.strictObject({
  things: z.array(ThingKey).min(1).max(100),
  contributorId: Id,
  due: Day.nullable(),
  note: text(200).default(''),
});
export type LendRequest = z.infer<typeof LendRequest>;

export const BackRequest = z.strictObject({
  things: z.array(ThingKey).min(1).max(100),
  /** Cards hold nothing new; else they are handed in. */
  unused: z.boolean().default(false),
});
export type BackRequest = z.infer<typeof BackRequest>;

export const MoveRequest = z.strictObject({ to: Tray });
export type MoveRequest = z.infer<typeof MoveRequest>;

/** Who had a thing before, newest first. */
export const LoanHistory = z.array(
  z.object({ to: line(120), since: Instant, by: z.string(), due: Day.nullable(), back: Instant.nullable(), note: z.string() }),
);
export type LoanHistory = z.infer<typeof LoanHistory>;

/** A card that was handed in and not read yet. */
export const HandedIn = z.object({
  cardId: Id,
  label: z.string().nullable(),
  since: Instant,
  /** Whole days it has lain there; then it counts as forgotten. */
  days: z.number().int(),
  from: z.object({ id: Id, code: z.string(), name: z.string() }).nullable(),
});
export type HandedIn = z.infer<typeof HandedIn>;

/** What the scan of a label means: a card to open, a card that was moved, another thing, or nothing known. */
/** A scanned label, and whether the scan moves its card or only opens it. */
export const ScanRequest = z.strictObject({ label: TapeLabel, move: z.boolean() });

export const ScanAnswer = z.object({
  what: z.enum(['open', 'moved', 'back', 'waits', 'thing', 'unknown']),
  label: z.string(),
  intakeId: Id.nullable(),
  cardId: Id.nullable(),
  from: Tray.nullable(),
  to: Tray.nullable(),
  /** One sentence for people. */
  says: z.string(),
});
export type ScanAnswer = z.infer<typeof ScanAnswer>;
