import { CAPTURE_SOURCES, CORRECTION_KINDS, MOST_SHIFT_S } from '@tally/core/capture';
import { KINDS, OBJECT_ROLES, STRUCTURE_NAMES } from '@tally/core/card';
import { COPY_STATES, INTAKE_STATES } from '@tally/core/copies';
import { ASIDE_REASONS } from '@tally/core/life';
import { TRAYS } from '@tally/core/trays';
import { z } from 'zod';
import { EmbeddedView, ItemCreditView, SlipCreditFields } from './credit.js';
import { foreignText, Id, Instant, line, text, Whole } from './primitives.js';

export const KindSchema = z.enum(KINDS);
export const IntakeStateSchema = z.enum(INTAKE_STATES);
export const CopyStateSchema = z.enum(COPY_STATES);
export { TRAYS };
export const Tray = z.enum(TRAYS);
export type Tray = z.infer<typeof Tray>;

/** What happens by itself when a card is put in. */
export const ON_INSERT = ['show', 'open', 'take all new', 'file all new'] as const;
export const OnInsert = z.enum(ON_INSERT);
export type OnInsert = z.infer<typeof OnInsert>;

/** What somebody thinks of an item: chosen for use, must be shot again, not to be used. */
export const VERDICTS = ['select', 'reshoot', 'hold'] as const;
export const Verdict = z.enum(VERDICTS);
export type Verdict = z.infer<typeof Verdict>;

/** What footage is for: the story itself, or pictures to lay over it. */
export const FOOTAGE_ROLES = ['main', 'supporting'] as const;
export const FootageRole = z.enum(FOOTAGE_ROLES);
export type FootageRole = z.infer<typeof FootageRole>;

const byKind = z.partialRecord(KindSchema, z.object({ items: z.number().int(), bytes: z.number() }));

/** Notches of a stick, run-length coded: [shape of the card half, shape at each place…] repeated `count` times. */
export const StickRuns = z.array(z.object({ count: z.number().int(), card: z.string(), copies: z.array(z.string()) }));
export type StickRuns = z.infer<typeof StickRuns>;

export const CardFactsView = z.object({
  reader: z.string().nullable(),
  slot: z.string().nullable(),
  capacityBytes: z.number().nullable(),
  usedBytes: z.number().nullable(),
  fileSystem: z.string().nullable(),
  volume: z.string().nullable(),
  writeProtected: z.boolean(),
  health: z.enum(['clean', 'dirty', 'damaged']).nullable(),
  letsGo: z.boolean(),
});
export type CardFactsView = z.infer<typeof CardFactsView>;

/** A card is pulled: also when something on it waits to be filed? */
export const LetGoRequest = z.strictObject({ anyway: z.boolean().default(false) });
export type LetGoRequest = z.infer<typeof LetGoRequest>;
export const LetGoAnswer = z.object({ intakeId: Id, words: z.string() });
export type LetGoAnswer = z.infer<typeof LetGoAnswer>;

export const IntakeSummary = z.object({
  id: Id,
  number: z.string(),
  state: IntakeStateSchema,
  tray: Tray,
  card: z.object({ id: Id, label: z.string().nullable(), volume: z.string(), onInsert: OnInsert }),
  contributor: z.object({ id: Id, code: z.string(), name: z.string() }).nullable(),
  assignment: z.object({ id: Id, slug: z.string(), title: z.string() }).nullable(),
  receivedAt: Instant,
  receivedBy: z.string(),
  station: z.string(),
  /** Is the card in a reader now? */
  present: z.boolean(),
  items: z.number().int(),
  bytes: z.number(),
  byKind,
  camera: z.string().nullable(),
  taken: z.number().int(),
  filed: z.number().int(),
  alreadyFiled: z.number().int(),
  /** Items that look as if they were filed already, and are still being compared byte for byte. */
  comparing: z.number().int(),
  /** Items whose metadata has been read, of those that have any. */
  read: z.number().int(),
  first: z.string().nullable(),
  last: z.string().nullable(),
  note: z.string().nullable(),
  /** Filing pauses until somebody lets it go on. */
  paused: z.boolean(),
  /** Did it come in through a browser? Then there is no card to clear or to give back. */
  handedIn: z.boolean(),
  /** What of it is whose and was shot for what, the most first; empty while nothing is known of its items. */
  parts: z.array(
    z.object({
      contributor: z.object({ id: Id, code: z.string(), name: z.string() }).nullable(),
      assignment: z.object({ id: Id, slug: z.string(), title: z.string() }).nullable(),
      items: z.number().int(),
      filed: z.number().int(),
    }),
  ),
  /** Was everything on it read, compared and recognised? */
  readThrough: z.boolean(),
  /** What the system says of the card where it lies, or lay; null when nobody looked. */
  reader: CardFactsView.nullable(),
  /** What is done to the card itself just now. */
  work: z.enum(['clear', 'restore']).nullable(),
  /** Is its card being let go, or was it: then it may be pulled. */
  letGo: z.enum(['asked', 'done']).nullable(),
  /** Items that show somebody who must not be shown. */
  unshown: z.number().int(),
  /** When its card was cleared; null when it was not. */
  clearedAt: Instant.nullable(),
  stick: StickRuns,
});
export type IntakeSummary = z.infer<typeof IntakeSummary>;

export const ClipView = z.object({
  frameRate: z.number().nullable(),
  timecode: z.string().nullable(),
  reel: z.string().nullable(),
  primaries: z.number().int().nullable(),
  transfer: z.number().int().nullable(),
  gamma: z.string().nullable(),
  tracks: z.number().int().nullable(),
  channels: z.number().int().nullable(),
  sampleRate: z.number().int().nullable(),
  scene: z.string().nullable(),
  take: z.string().nullable(),
});
export type ClipView = z.infer<typeof ClipView>;

export const ItemView = z.object({
  id: Id,
  path: z.string(),
  bytes: z.number(),
  kind: KindSchema,
  /** Path of the file that leads its object. */
  leader: z.string(),
  objectRole: z.enum(OBJECT_ROLES),
  /** Which part of one recording, and of how many. */
  part: z.number().int().nullable(),
  parts: z.number().int().nullable(),
  structure: z.enum(STRUCTURE_NAMES),
  /** Folder on the card that has to be kept together with all below it ('' is the card). */
  structureRoot: z.string().nullable(),
  /** Exposures of one numbered series share it. */
  series: z.string().nullable(),
  /** What a clip or recording says of itself. */
  clip: ClipView.nullable(),
  captured: z.object({
    local: z.string(),
    offsetMinutes: z.number().int().nullable(),
    source: z.enum(CAPTURE_SOURCES),
    original: z.string(),
    doubt: z.string().nullable(),
    /** As the camera's clock had it, and the clock correction in seconds. */
    camera: z.string(),
    shiftSeconds: z.number().int(),
  }),
  make: z.string().nullable(),
  model: z.string().nullable(),
  serial: z.string().nullable(),
  width: z.number().int().nullable(),
  height: z.number().int().nullable(),
  durationMs: z.number().int().nullable(),
  /** Has its metadata been read yet? */
  read: z.boolean(),
  taken: z.boolean(),
  setAside: z.string().nullable(),
  /** Why a person set it aside: the intake goes on without it. */
  aside: z.enum(ASIDE_REASONS).nullable(),
  /** When it was removed from its card; null while it is there. */
  goneAt: Instant.nullable(),
  /** Why it cannot be filed at all. */
  problem: z.string().nullable(),
  /** What is odd about it; it is filed all the same. */
  remark: z.string().nullable(),
  alreadyFiled: z
    .object({ path: z.string(), intakeId: Id, intakeNumber: z.string(), at: Instant.nullable(), confirmed: z.boolean() })
    .nullable(),
  /** Path on this card of the item with the same bytes; the first of them has none. */
  twinOf: z.string().nullable(),
  /** Where another picture stands that had this name on its card. */
  namesake: z.string().nullable(),
  /** Whose it is and what it was shot for, where that differs from the slip. */
  contributor: z.object({ id: Id, code: z.string(), name: z.string() }).nullable(),
  assignment: z.object({ id: Id, slug: z.string(), title: z.string() }).nullable(),
  verdict: Verdict.nullable(),
  description: z.string(),
  /** What it says itself of credit, words, location and who is shown; null: nothing. */
  credit: ItemCreditView.nullable(),
  /** What comes with the file in its own metadata. */
  embedded: EmbeddedView.nullable(),
  role: FootageRole.nullable(),
  /** Flat colour profile the footage was shot with; '' when nobody says. */
  profile: z.string(),
  /** Quarter turns clockwise that a person added. */
  turned: z.number().int(),
  useFromMs: z.number().int().nullable(),
  useToMs: z.number().int().nullable(),
  /** Focus measure and difference hash (16 hexadecimal digits) of its preview; see core/looks. */
  sharpness: z.number().nullable(),
  look: z.string().nullable(),
  filedAs: z.string().nullable(),
  copies: z.array(z.object({ place: z.string(), state: CopyStateSchema, problem: z.string().nullable() })),
});
export type ItemView = z.infer<typeof ItemView>;

/** Items that changed after a version, or all; ask next time with the version of this answer. */
export const ItemsAnswer = z.object({ version: z.number().int(), items: z.array(ItemView) });
export type ItemsAnswer = z.infer<typeof ItemsAnswer>;
export const ItemsQuery = z.strictObject({ since: z.coerce.number().int().min(0).default(0) });

export const SlipChange = z.strictObject({
  contributorId: Id.nullable().optional(),
  assignmentId: Id.nullable().optional(),
  cardLabel: line(24).nullable().optional(),
  onInsert: OnInsert.optional(),
  ...SlipCreditFields,
});
export type SlipChange = z.infer<typeof SlipChange>;

const itemIds = z.array(Id).min(1).max(100_000);

export const TakeChange = z.strictObject({ itemIds, taken: z.boolean() });
export type TakeChange = z.infer<typeof TakeChange>;

/** Sets items aside with a reason, so that the intake goes on without them; null takes them again. */
export const AsideChange = z.strictObject({ itemIds, reason: z.enum(ASIDE_REASONS).nullable() });
export type AsideChange = z.infer<typeof AsideChange>;

/** What somebody thinks of items. What is not named stays as it is. */
export const JudgeChange = z
  .strictObject({
    itemIds,
    verdict: Verdict.nullable().optional(),
    description: text(500).optional(),
    role: FootageRole.nullable().optional(),
    profile: text(40).optional(),
    turned: z.number().int().min(0).max(3).optional(),
    useFromMs: Whole.nullable().optional(),
    useToMs: Whole.nullable().optional(),
  })
  .refine(({ useFromMs, useToMs }) => typeof useFromMs !== 'number' || typeof useToMs !== 'number' || useFromMs < useToMs, {
    path: ['useToMs'],
    message: 'must come after the beginning of use',
  });
export type JudgeChange = z.infer<typeof JudgeChange>;

/** Whose items are and what they were shot for; null: as the slip says. */
export const BelongChange = z.strictObject({
  itemIds,
  contributorId: Id.nullable().optional(),
  assignmentId: Id.nullable().optional(),
  /** Assignments the items had when the person decided: somebody else may have split them since. */
  wasAssignmentIds: z.array(Id.nullable()).max(1000).optional(),
});
export type BelongChange = z.infer<typeof BelongChange>;

/** Moves the time of every item of one camera body of an intake. */
export const ClockChange = z.strictObject({
  make: foreignText(200).nullable(),
  model: foreignText(200).nullable(),
  serial: foreignText(200).nullable(),
  shift: z.object({
    kind: z.enum(CORRECTION_KINDS),
    seconds: z.number().int().min(-MOST_SHIFT_S).max(MOST_SHIFT_S),
  }),
});
export type ClockChange = z.infer<typeof ClockChange>;

/** A camera body with items on a card. */
export const BodyView = z.object({
  make: z.string().nullable(),
  model: z.string().nullable(),
  serial: z.string().nullable(),
  items: z.number().int(),
  first: z.string(),
  last: z.string(),
  /** Items dated by a clock that was not set. */
  unset: z.number().int(),
  shiftSeconds: z.number().int(),
  owner: z.object({ id: Id, name: z.string() }).nullable(),
  /** The last correction of this body's clock. */
  remembered: z
    .object({ seconds: z.number().int(), kind: z.enum(CORRECTION_KINDS), saidBy: z.string(), saidAt: Instant })
    .nullable(),
});
export type BodyView = z.infer<typeof BodyView>;

const placement = z.object({
  itemId: Id,
  from: z.string(),
  folder: z.string(),
  name: z.string(),
  bytes: z.number(),
  n: z.number().int().nullable(),
  scope: z.string().nullable(),
  base: z.string().optional(),
});

export const PlanView = z.object({
  placements: z.array(placement),
  folders: z.array(z.object({ path: z.string(), isNew: z.boolean(), items: z.number().int(), bytes: z.number() })),
  left: z.array(z.object({ itemId: Id, from: z.string(), reason: z.string() })),
  clashes: z.array(
    z.object({ itemId: Id, wanted: z.string(), given: z.string(), with: z.enum(['the drive', 'this card', 'every system']) }),
  ),
  /** Items whose folder bears another day than that on which they were taken. */
  otherDays: z.array(
    z.object({
      day: z.string(),
      because: z.enum(['the day begins later', 'the first day of the assignment']),
      itemIds: z.array(Id),
    }),
  ),
  numbers: z.array(z.object({ scope: z.string(), first: z.number().int(), next: z.number().int() })),
  missing: z.array(z.enum(['contributor', 'assignment'])),
  /** Fields of the rule that nobody says for an item: the house's word stands there. */
  unsaid: z.array(z.object({ itemId: Id, field: z.string() })),
  /** Dates that should be looked at before anything is filed by them. */
  doubts: z.array(z.object({ itemId: Id, doubt: z.string() })),
  bytes: z.number(),
  /** Stands for everything this plan promises: send it back with *File*. */
  seal: z.string(),
  /** Folders that stand beside the planned ones, for the drawer's tree. */
  beside: z.array(z.string()),
  /** Required places that cannot be filed to now, with the reason. */
  obstacles: z.array(z.string()),
  /** Those of them that are too full for this card, with figures: it is not filed before there is room. */
  tooFull: z.array(z.string()),
  /** Room at each place that is here: free now without what is promised to cards being filed, and after this card. */
  room: z.array(z.object({ name: z.string(), freeBytes: z.number(), afterBytes: z.number() })),
});
export type PlanView = z.infer<typeof PlanView>;

export const FILING_WISHES = ['pause', 'go on', 'stop'] as const;
export type FilingWish = (typeof FILING_WISHES)[number];
export const HaltRequest = z.strictObject({ wish: z.enum(FILING_WISHES) });
export type HaltRequest = z.infer<typeof HaltRequest>;

/** Somebody has an intake open, in a window with a key of its own. */
export const HereRequest = z.strictObject({ key: z.string().regex(/^[0-9a-f-]{8,40}$/), open: z.boolean() });
export type HereRequest = z.infer<typeof HereRequest>;

export const FileRequest = z.strictObject({ seal: z.string().min(1).max(200) });
export type FileRequest = z.infer<typeof FileRequest>;

/** The answer to *File*: begun, or the plan as it is now when it is not the one that was shown. */
export const FileAnswer = z.discriminatedUnion('outcome', [
  z.object({ outcome: z.literal('begun'), items: z.number().int() }),
  z.object({ outcome: z.literal('changed'), plan: PlanView }),
]);
export type FileAnswer = z.infer<typeof FileAnswer>;

export const EventView = z.object({
  id: z.number().int(),
  at: Instant,
  kind: z.string(),
  who: z.string().nullable(),
  text: z.string(),
});
export type EventView = z.infer<typeof EventView>;

/** Every copy of what was filed of an intake, with the hash that was read from the card (hexadecimal XXH128). */
export const CopiesAnswer = z.array(
  z.object({
    from: z.string(),
    to: z.string(),
    hash: z.string().nullable(),
    copies: z.array(z.object({ place: z.string(), state: CopyStateSchema, problem: z.string().nullable() })),
  }),
);
export type CopiesAnswer = z.infer<typeof CopiesAnswer>;

/** What the camera wrote about an exposure, as people read it. */
export const ItemDetails = z.array(z.object({ name: z.string(), value: z.string() }));
export type ItemDetails = z.infer<typeof ItemDetails>;

/** The shape of a sound: peaks from 0 to 255, evenly spread over its length. */
export const SoundWave = z.array(z.number().int().min(0).max(255));
export type SoundWave = z.infer<typeof SoundWave>;
