import { FINDING_KINDS, MENDS } from '@tally/core/drive';
import { z } from 'zod';
import { CopyStateSchema } from './intake.js';
import { Day, foreignText, Id, Instant, line, Whole } from './primitives.js';

export const PlaceId = z.string().regex(/^[a-z][a-z0-9-]{0,30}$/);
/** A folder of a place, from its root; '' is the root. It never leads out of it. */
export const FolderPath = foreignText(4_000).refine(
  (path) => !path.startsWith('/') && !path.split('/').some((part) => part === '..' || part === '.'),
  'must lie within its place',
);
const NewFolder = FolderPath.refine((path) => path !== '' && !path.endsWith('/') && !path.includes('//'), 'must name a folder');

export const FindingKindSchema = z.enum(FINDING_KINDS as [string, ...string[]]).pipe(z.custom<(typeof FINDING_KINDS)[number]>());
export const CHECK_HOWS = ['size and time', 'fast identity', 'every byte'] as const;

/** A folder as it stands, with everything below it. */
export const StoodFolderView = z.object({
  path: z.string(),
  name: z.string(),
  files: z.number().int(),
  bytes: z.number(),
  known: z.number().int(),
  strays: z.number().int(),
  trouble: z.number().int(),
  /** Does it hold folders? */
  folders: z.boolean(),
  /** How many of what is filed in it and below each place has, in the order of the places; null: it was not looked at. */
  copies: z.array(z.number().int().nullable()),
});
export type StoodFolderView = z.infer<typeof StoodFolderView>;

export const TreeQuery = z.strictObject({
  folder: FolderPath.default(''),
  after: foreignText(400).default(''),
  limit: z.coerce.number().int().min(1).max(1000).default(500),
});
export type TreeQuery = z.infer<typeof TreeQuery>;

export const TreeView = z.object({
  /** null: it was not looked at yet. */
  folder: StoodFolderView.nullable(),
  folders: z.array(StoodFolderView),
  more: z.boolean(),
});
export type TreeView = z.infer<typeof TreeView>;

/** A file in a folder, as the logbook has it and as it stands. */
export const StoodFileView = z.object({
  name: z.string(),
  bytes: z.number(),
  /** null: nobody filed it. */
  item: z.object({ id: Id, intakeId: Id, intakeNumber: z.string(), kind: z.string(), pictured: z.boolean() }).nullable(),
  copies: z.array(z.object({ place: z.string(), state: CopyStateSchema })),
  strayId: Id.nullable(),
  /** The filed path that has the same bytes. */
  twin: z.string().nullable(),
  findings: z.array(z.object({ kind: FindingKindSchema, what: z.string(), other: z.string().nullable() })),
});
export type StoodFileView = z.infer<typeof StoodFileView>;

export const FolderQuery = z.strictObject({
  folder: FolderPath.default(''),
  after: foreignText(400).default(''),
  limit: z.coerce.number().int().min(1).max(500).default(200),
});
export type FolderQuery = z.infer<typeof FolderQuery>;
export const FolderView = z.object({ files: z.array(StoodFileView), next: z.string().nullable() });
export type FolderView = z.infer<typeof FolderView>;

export const FindingView = z.object({
  id: Id,
  kind: FindingKindSchema,
  path: z.string(),
  other: z.string().nullable(),
  what: z.string(),
  files: z.number().int(),
  since: Instant,
  mend: z.enum(MENDS).nullable(),
});
export type FindingView = z.infer<typeof FindingView>;

export const FindingsQuery = z
  .strictObject({
    kind: FindingKindSchema.optional(),
    /** In this folder and below. */
    folder: FolderPath.optional(),
    /** In this folder itself, of one kind. */
    in: FolderPath.optional(),
    after: z.coerce.number().int().min(0).max(2_147_483_647).default(0),
    limit: z.coerce.number().int().min(1).max(500).default(100),
  })
  .refine((query) => query.in === undefined || query.kind !== undefined, 'what is found in one folder is of one kind: say which');
export type FindingsQuery = z.infer<typeof FindingsQuery>;
export const FindingsView = z.object({ findings: z.array(FindingView), next: z.number().int().nullable() });
export type FindingsView = z.infer<typeof FindingsView>;

/** Findings of one kind in one folder: what somebody did there at once is mended at once. */
export const FoundTogether = z.object({
  kind: FindingKindSchema,
  folder: z.string(),
  findings: z.number().int(),
  files: z.number().int(),
  /** The oldest of them. */
  since: Instant,
  mend: z.enum(MENDS).nullable(),
  first: FindingView,
});
export type FoundTogether = z.infer<typeof FoundTogether>;
/** By kind, what is lost first; then by folder. */
export const FoundQuery = z
  .strictObject({
    kind: FindingKindSchema.optional(),
    afterKind: FindingKindSchema.optional(),
    afterFolder: FolderPath.optional(),
    limit: z.coerce.number().int().min(1).max(200).default(60),
  })
  .refine(
    ({ afterKind, afterFolder }) => (afterKind === undefined) === (afterFolder === undefined),
    'afterKind needs afterFolder',
  );
export type FoundQuery = z.infer<typeof FoundQuery>;
export const FoundView = z.object({
  together: z.array(FoundTogether),
  next: z.object({ kind: FindingKindSchema, folder: z.string() }).nullable(),
});
export type FoundView = z.infer<typeof FoundView>;

export const CheckAsk = z.strictObject({
  how: z.enum(CHECK_HOWS).default('size and time'),
  names: z.boolean().default(true),
  /** Against today's rule, to the letter; else against the revision under which it was filed. */
  strict: z.boolean().default(false),
});
export type CheckAsk = z.infer<typeof CheckAsk>;

export const CheckView = z.object({
  id: Id,
  how: z.enum(CHECK_HOWS),
  state: z.enum(['going', 'done', 'stopped', 'failed']),
  who: z.string(),
  begunAt: Instant,
  endedAt: Instant.nullable(),
  files: z.number().int(),
  bytes: z.number(),
  folders: z.number().int(),
  problem: z.string().nullable(),
});
export type CheckView = z.infer<typeof CheckView>;

export const AdoptionView = z.object({
  id: Id,
  placeId: z.string(),
  state: z.enum(['going', 'done', 'stopped']),
  who: z.string(),
  begunAt: Instant,
  endedAt: Instant.nullable(),
  folders: z.number().int(),
  files: z.number().int(),
  bytes: z.number(),
  adopted: z.number().int(),
  adoptedBytes: z.number(),
  twins: z.number().int(),
  problem: z.string().nullable(),
});
export type AdoptionView = z.infer<typeof AdoptionView>;

/** How a place stands against the logbook. */
export const PlaceState = z.object({
  check: CheckView.nullable(),
  found: z.array(z.object({ kind: FindingKindSchema, findings: z.number().int(), files: z.number().int() })),
  adoption: AdoptionView.nullable(),
  /** Mends that this place has not followed yet, and what it could not follow. */
  moving: z.number().int(),
  failed: z.number().int(),
  folder: StoodFolderView.nullable(),
});
export type PlaceState = z.infer<typeof PlaceState>;

/** What the names of a folder say, and what has to be asked. */
export const FolderSaysView = z.object({
  folder: z.string(),
  files: z.number().int(),
  bytes: z.number(),
  from: Day.nullable(),
  to: Day.nullable(),
  contributor: z.object({ id: Id, code: z.string(), name: z.string() }).nullable(),
  assignment: z.object({ id: Id, slug: z.string(), title: z.string() }).nullable(),
  /** Title of an assignment that would be new. */
  title: z.string().nullable(),
  by: z.string(),
  read: z.number().int(),
  twins: z.number().int(),
  asks: z.array(z.enum(['contributor', 'assignment', 'day'])),
});
export type FolderSaysView = z.infer<typeof FolderSaysView>;

export const SaysQuery = z.strictObject({ folder: FolderPath });
export const SaysAnswer = z.object({ folders: z.array(FolderSaysView), more: z.number().int() });

/** What is answered for a folder; what is not, stays as its names say. */
export const AdoptFolder = z.strictObject({
  folder: FolderPath,
  contributorId: Id.nullable().default(null),
  assignmentId: Id.nullable().default(null),
  /** An assignment to be made. */
  title: line(120).nullable().default(null),
  /** Day of files that say none themselves. */
  day: Day.nullable().default(null),
});
export type AdoptFolder = z.infer<typeof AdoptFolder>;
export const AdoptAsk = z.strictObject({ folders: z.array(AdoptFolder).min(1).max(2_000) });
export type AdoptAsk = z.infer<typeof AdoptAsk>;

const ItemIds = z.array(Id).min(1).max(20_000);

const SaidOfFiled = {
  contributorId: Id.optional(),
  assignmentId: Id.optional(),
  /** For the assignment of what is filed in this folder. */
  asIn: FolderPath.optional(),
  day: Day.optional(),
};

/** What somebody wants to be put right. */
export const MendAsk = z.discriminatedUnion('kind', [
  /** As if it were filed now, with what is said of it here. */
  z.strictObject({ kind: z.literal('re-file'), itemIds: ItemIds, ...SaidOfFiled }),
  z.strictObject({ kind: z.literal('re-file folder'), folder: NewFolder, ...SaidOfFiled }),
  z.strictObject({ kind: z.literal('rename folder'), folder: NewFolder, to: NewFolder }),
  z.strictObject({ kind: z.literal('put aside'), itemIds: ItemIds, why: line(200) }),
  z.strictObject({ kind: z.literal('put strays aside'), placeId: PlaceId, paths: z.array(FolderPath).min(1).max(5_000) }),
  z.strictObject({ kind: z.literal('findings'), ids: z.array(Id).min(1).max(20_000) }),
  /** All of one kind in one folder. */
  z.strictObject({ kind: z.literal('findings in'), placeId: PlaceId, finding: FindingKindSchema, folder: FolderPath }),
  z.strictObject({ kind: z.literal('to another place'), folder: NewFolder, from: PlaceId, to: PlaceId }),
]);
export type MendAsk = z.infer<typeof MendAsk>;

export const StepView = z.object({ from: z.string(), to: z.string(), place: z.string().nullable() });

/** What a mend would do. */
export const MendPlan = z.object({
  kind: z.string(),
  words: z.string(),
  items: z.number().int(),
  /** The first of what is renamed; `place` null: wherever it stands. */
  steps: z.array(StepView),
  moreSteps: z.number().int(),
  /** Whole folders that are renamed. */
  folders: z.array(StepView),
  makes: z.array(z.string()),
  empties: z.array(z.string()),
  /** What else happens, in words. */
  also: z.array(z.string()),
  faults: z.array(z.object({ path: z.string(), why: z.string() })),
  /** Places that follow now, and those that follow when they are back. */
  places: z.array(z.object({ name: z.string(), now: z.boolean() })),
  seal: z.string(),
});
export type MendPlan = z.infer<typeof MendPlan>;

export const MendBegin = z.strictObject({ ask: MendAsk, seal: z.string().max(100) });
export const MendAnswer = z.discriminatedUnion('outcome', [
  z.object({ outcome: z.literal('begun'), id: Id }),
  z.object({ outcome: z.literal('changed'), plan: MendPlan }),
]);
export type MendAnswer = z.infer<typeof MendAnswer>;

export const MendView = z.object({
  id: Id,
  kind: z.string(),
  words: z.string(),
  who: z.string(),
  at: Instant,
  state: z.enum(['doing', 'done', 'needs attention']),
  items: z.number().int(),
  takesBack: Id.nullable(),
  takenBackBy: Id.nullable(),
  keptUntil: Day.nullable(),
  emptiedAt: Instant.nullable(),
  waiting: z.array(z.object({ place: z.string(), moves: z.number().int() })),
  problems: z.array(z.string()),
});
export type MendView = z.infer<typeof MendView>;
export const MendsQuery = z.strictObject({ before: Id.optional(), limit: z.coerce.number().int().min(1).max(100).default(30) });
export type MendsQuery = z.infer<typeof MendsQuery>;
export const MendsView = z.object({ mends: z.array(MendView), next: Id.nullable() });
export type MendsView = z.infer<typeof MendsView>;

export const PathQuery = z.strictObject({ path: foreignText(4_000).min(1) });
/** Where a path leads that is printed somewhere. */
export const PathLeads = z.object({
  itemId: Id,
  intakeId: Id,
  intakeNumber: z.string(),
  path: z.string(),
  until: Instant.nullable(),
});
export type PathLeads = z.infer<typeof PathLeads>;

/** Bytes that were filed by month, the newest last. */
export const GrowthView = z.object({ months: z.array(z.object({ month: z.string(), items: Whole, bytes: z.number() })) });
export type GrowthView = z.infer<typeof GrowthView>;
export type SaysAnswer = z.infer<typeof SaysAnswer>;
