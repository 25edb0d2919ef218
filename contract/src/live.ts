import { z } from 'zod';
import { IntakeStateSchema } from './intake.js';
import { Id } from './primitives.js';

/** How far a filing is. Bytes count each byte read from the card once. */
export const Progress = z.object({
  intakeId: Id,
  items: z.number().int(),
  itemsDone: z.number().int(),
  bytes: z.number(),
  bytesDone: z.number(),
  bytesPerSecond: z.number(),
  msLeft: z.number().nullable(),
  /** Items whose copies all tally since the last message, and those with trouble. */
  tallied: z.array(Id),
  troubled: z.array(Id),
});
export type Progress = z.infer<typeof Progress>;

/** What the server-sent stream carries. Each says what to look at again; only progress carries figures. */
export const LiveEvent = z.discriminatedUnion('type', [
  /** Something may have been missed: look at everything again. */
  z.object({ type: z.literal('again') }),
  z.object({ type: z.literal('desk') }),
  /** Between stations: pictures are wanted of cards in that one's readers; one of them is there. Browsers hear nothing of it. */
  z.object({ type: z.literal('pictures wanted'), station: z.string() }),
  z.object({ type: z.literal('picture there'), itemId: Id }),
  /** A job of this kind waits for that station. */
  z.object({ type: z.literal('work'), kind: z.enum(['read', 'file', 'card']), station: z.string() }),
  z.object({ type: z.literal('people') }),
  /** Between stations: sessions of somebody ended. */
  z.object({ type: z.literal('sessions'), personId: Id }),
  /** What stands at a place, what was found, adopted or mended there. */
  z.object({ type: z.literal('drive'), placeId: z.string() }),
  /** Bundles or standing questions changed. */
  z.object({ type: z.literal('shelf') }),
  z.object({ type: z.literal('intake'), intakeId: Id, state: IntakeStateSchema.optional() }),
  z.object({ type: z.literal('items'), intakeId: Id }),
  /** What was due in and beside the files of an intake was written at a place, or could not be. */
  z.object({ type: z.literal('written'), intakeId: Id }),
  /** Somebody has the intake open, in a window with this key; or closed it. Said again and again while it is open. */
  z.object({ type: z.literal('here'), intakeId: Id, who: z.string(), key: z.string(), open: z.boolean() }),
  /** A card was put in at a station that is to be opened there by itself. */
  z.object({ type: z.literal('open'), intakeId: Id, station: z.string() }),
  z.object({ type: z.literal('progress'), progress: Progress }),
]);
export type LiveEvent = z.infer<typeof LiveEvent>;

/** Does an event concern stations only? */
export const isBetweenStations = ({ type }: LiveEvent): boolean =>
  type === 'pictures wanted' || type === 'picture there' || type === 'work' || type === 'sessions';
