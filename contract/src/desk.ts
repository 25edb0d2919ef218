import { z } from 'zod';
import { BackupsNow } from './backup.js';
import { IntakeSummary, KindSchema } from './intake.js';
import { HandedIn, Thing } from './lending.js';
import { Assignment } from './people.js';
import { PLACE_KINDS } from './place-kinds.js';

/** When a place gets its copies: while the card is read, or later, from another copy. */
export const PLACE_FILLS = ['with the card', 'later'] as const;
export type PlaceFill = (typeof PLACE_FILLS)[number];

export const PlaceView = z.object({
  id: z.string(),
  name: z.string(),
  kind: z.enum(PLACE_KINDS),
  root: z.string(),
  required: z.boolean(),
  fill: z.enum(PLACE_FILLS),
  /** What it must hold; null: everything. */
  holds: z.object({ kinds: z.array(KindSchema).nullable(), assignments: z.array(z.string()).nullable() }),
  online: z.boolean(),
  problem: z.string().nullable(),
  /** Its folder is there and carries another mark, or none: somebody may say that it is that drive. Null: nothing is asked. */
  asks: z.enum(['another mark', 'no mark']).nullable(),
  freeBytes: z.number().nullable(),
  totalBytes: z.number().nullable(),
  device: z.string().nullable(),
  copies: z.number().int(),
  bytes: z.number(),
  /** Copies it does not have yet, and for how many hours the oldest of that work has been at risk. */
  waiting: z.object({ copies: z.number().int(), bytes: z.number(), hoursAtRisk: z.number().int() }),
});
export type PlaceView = z.infer<typeof PlaceView>;

export const Desk = z.object({
  in: z.array(IntakeSummary),
  onTheDesk: z.array(IntakeSummary),
  toGiveBack: z.array(IntakeSummary),
  /** Cards in the tray *in* that were not read yet. */
  handedIn: z.array(HandedIn),
  /** What is lent, overdue first. */
  out: z.array(Thing),
  expected: z.array(Assignment),
  places: z.array(PlaceView),
  backups: BackupsNow,
  /** Is the logbook being rebuilt from the drive? */
  rebuilding: z.boolean(),
});
export type Desk = z.infer<typeof Desk>;
