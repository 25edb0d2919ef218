import { FIGURES_BY, LIST_ORDERS, LONGEST_QUESTION } from '@tally/core/find';
import { z } from 'zod';
import { CopyStateSchema, ItemView, JudgeChange } from './intake.js';
import { foreignText, Id, line, text, Whole } from './primitives.js';

/** What somebody asks the shelf, as typed or as a link has it. */
export const Asked = foreignText(LONGEST_QUESTION).default('');

export const MOST_A_PAGE = 400;

/** A page of what answers: from a place on in the order. */
export const ShelfQuery = z.strictObject({
  question: Asked,
  from: z.coerce.number().int().min(0).max(100_000_000).default(0),
  count: z.coerce.number().int().min(0).max(MOST_A_PAGE).default(100),
  order: z.enum(LIST_ORDERS).default('taken'),
  descending: z.stringbool().default(true),
});
export type ShelfQuery = z.infer<typeof ShelfQuery>;

/** A piece of a question: as it is written in a link, and as the sentence says it. */
export const PieceView = z.object({ text: z.string(), words: z.string() });
export type PieceView = z.infer<typeof PieceView>;

/** What was understood of a question. */
export const QuestionView = z.object({
  /** As a link and `tally find` have it. */
  text: z.string(),
  sentence: z.string(),
  pieces: z.array(PieceView),
});
export type QuestionView = z.infer<typeof QuestionView>;

/** An item on the shelf: as its intake shows it, and what it comes to with its slip. */
export const FoundItem = ItemView.extend({
  intake: z.object({ id: Id, number: z.string(), card: z.string() }),
  /** What leads its object. */
  object: Id,
  camera: z.string(),
  filedOn: z.string(),
  location: z.string().nullable(),
  words: z.array(z.string()),
  terms: z.object({ words: z.string(), mark: z.enum(['none', 'ask', 'no']) }),
  /** Names of the places where it stands when none of them is here; null: one is. */
  away: z.array(z.string()).nullable(),
});
export type FoundItem = z.infer<typeof FoundItem>;

export const ShelfPage = z.object({
  question: QuestionView,
  total: z.number().int(),
  bytes: z.number(),
  /** Place of the first of these among all. */
  from: z.number().int(),
  items: z.array(FoundItem),
});
export type ShelfPage = z.infer<typeof ShelfPage>;

const share = z.object({ words: z.string(), text: z.string(), items: z.number().int() });
export type ShareView = z.infer<typeof share>;

/** What an answer is made of, and how it lies in time. Months in the order of the shelf: newest first. */
export const MadeOfAnswer = z.object({
  total: z.number().int(),
  contributors: z.array(share),
  assignments: z.array(share),
  years: z.array(share),
  kinds: z.array(share),
  cameras: z.array(share),
  terms: z.array(share),
  verdicts: z.array(share),
  months: z.array(z.object({ month: z.string(), items: z.number().int(), at: z.number().int() })),
});
export type MadeOfAnswer = z.infer<typeof MadeOfAnswer>;

/** Everything else that is asked with a question alone. */
export const QuestionOnly = z.strictObject({ question: Asked });

/** The list as a file. */
export const LIST_COLUMNS = [
  ...['name', 'taken', 'contributor', 'assignment', 'kind', 'camera', 'folder', 'on card', 'bytes', 'width', 'height'],
  ...['length', 'location', 'words', 'description', 'verdict', 'terms', 'intake', 'filed', 'copies'],
] as const;
export const ListExport = z.strictObject({
  question: Asked,
  order: z.enum(LIST_ORDERS).default('taken'),
  descending: z.stringbool().default(true),
  columns: z
    .string()
    .max(400)
    .transform((names) => names.split(',').filter(Boolean))
    .pipe(z.array(z.enum(LIST_COLUMNS)).min(1))
    .optional(),
});
export type ListExport = z.infer<typeof ListExport>;

export const AlikeAnswer = z.array(
  z.object({
    how: z.enum(['the same', 'beside', 'looks like it']),
    /** In how many of 64 bits their difference hashes differ. */
    bits: z.number().int().nullable(),
    item: FoundItem,
  }),
);
export type AlikeAnswer = z.infer<typeof AlikeAnswer>;

/** Where an item stands, and what it came with. */
export const WhereAnswer = z.object({
  /** Folder and name, the same at every place. */
  path: z.string(),
  places: z.array(
    z.object({
      id: z.string(),
      name: z.string(),
      online: z.boolean(),
      state: CopyStateSchema,
      /** Path as this server sees it; null: it is not mounted here. */
      path: z.string().nullable(),
    }),
  ),
  intake: z.object({ id: Id, number: z.string() }),
  card: z.object({ label: z.string(), path: z.string() }),
  contributor: z.object({ id: Id, code: z.string(), name: z.string() }).nullable(),
  assignment: z.object({ id: Id, slug: z.string(), title: z.string() }).nullable(),
  bundles: z.array(z.object({ id: Id, name: z.string() })),
});
export type WhereAnswer = z.infer<typeof WhereAnswer>;

/** As many items can be meant at once. */
export const MOST_MEANT = 20_000;
const itemIds = z.array(Id).min(1).max(MOST_MEANT);

/** Items that are meant: these, or all that answer a question. */
const Meant = { itemIds: itemIds.optional(), question: foreignText(LONGEST_QUESTION).optional() };
const oneOfTwo = ({ itemIds: ids, question }: { itemIds?: number[] | undefined; question?: string | undefined }) =>
  (ids === undefined) !== (question === undefined);
const SAY_ONE = { message: 'Say itemIds or question, one of them.' };

/** What somebody thinks of items of any intakes. */
export const JudgeAcross = JudgeChange;
export type JudgeAcross = z.infer<typeof JudgeAcross>;

export const NAMED_BY = ['house', 'card'] as const;
export const FetchQuery = z
  .strictObject({
    items: z
      .string()
      // As long as an address may be (Node takes 16 kB of headers).
      .max(12_000)
      .transform((ids): unknown[] => ids.split(','))
      .pipe(itemIds)
      .optional(),
    question: foreignText(LONGEST_QUESTION).optional(),
    /** Names by the house, or as on the card. */
    names: z.enum(NAMED_BY).default('house'),
  })
  .refine(({ items, question }) => (items === undefined) !== (question === undefined), {
    message: 'Say items or question, one of them.',
  });
export type FetchQuery = z.infer<typeof FetchQuery>;
export const FetchAsk = z.strictObject({ ...Meant }).refine(oneOfTwo, SAY_ONE);

/** What is said before originals go out. */
export const BeforeFetching = z.object({
  items: z.number().int(),
  bytes: z.number(),
  /** Items with terms, embargo or consent that stand in the way, by what is in the way. */
  no: z.array(z.object({ words: z.string(), items: z.number().int() })),
  ask: z.array(z.object({ words: z.string(), items: z.number().int() })),
  /** Items of which no copy is here now. */
  away: z.number().int(),
});
export type BeforeFetching = z.infer<typeof BeforeFetching>;

export const BundleView = z.object({
  id: Id,
  name: z.string(),
  parentId: Id.nullable(),
  note: z.string(),
  items: z.number().int(),
  madeBy: z.string(),
  usedAt: z.iso.datetime(),
  revision: z.number().int(),
});
export type BundleView = z.infer<typeof BundleView>;

export const NewBundle = z.strictObject({ name: line(120), parentId: Id.nullable().default(null), note: text(500).default('') });
export type NewBundle = z.infer<typeof NewBundle>;
/** What is not named stays. `revision`: the one that was seen. */
export const BundleChange = z.strictObject({
  name: line(120).optional(),
  parentId: Id.nullable().optional(),
  note: text(500).optional(),
  revision: Whole,
});
export type BundleChange = z.infer<typeof BundleChange>;

export const IntoBundle = z.strictObject({ ...Meant }).refine(oneOfTwo, SAY_ONE);
export type IntoBundle = z.infer<typeof IntoBundle>;
export const OutOfBundle = z.strictObject({ itemIds });
/** Puts items before another one of the bundle; null: at the end. */
export const BundleOrder = z.strictObject({ itemIds: z.array(Id).min(1).max(1_000), before: Id.nullable() });
export type BundleOrder = z.infer<typeof BundleOrder>;
export const BundleAnswer = z.object({ bundle: BundleView, changed: z.number().int() });
export type BundleAnswer = z.infer<typeof BundleAnswer>;

/** The bundles that everything of an intake goes into as it is filed. */
export const SlipBundles = z.strictObject({ bundleIds: z.array(Id).max(20) });
export const SlipBundlesAnswer = z.array(z.object({ id: Id, name: z.string() }));
export type SlipBundlesAnswer = z.infer<typeof SlipBundlesAnswer>;

export const StandingView = z.object({
  id: Id,
  name: z.string(),
  question: QuestionView,
  tells: z.boolean(),
  items: z.number().int(),
  /** What was filed since somebody last looked. */
  fresh: z.number().int(),
  madeBy: z.string(),
  revision: z.number().int(),
});
export type StandingView = z.infer<typeof StandingView>;
export const NewStanding = z.strictObject({
  name: line(120),
  question: foreignText(LONGEST_QUESTION),
  tells: z.boolean().default(true),
});
export type NewStanding = z.infer<typeof NewStanding>;
export const StandingChange = z.strictObject({
  name: line(120).optional(),
  question: foreignText(LONGEST_QUESTION).optional(),
  tells: z.boolean().optional(),
  revision: Whole,
});
export type StandingChange = z.infer<typeof StandingChange>;

export const FiguresQuery = z.strictObject({ question: Asked, by: z.enum(FIGURES_BY).default('month') });
export type FiguresQuery = z.infer<typeof FiguresQuery>;
export const FigureView = z.object({
  words: z.string(),
  /** The question that asks for what is in the bar; null: none does. */
  question: z.string().nullable(),
  intakes: z.number().int(),
  items: z.number().int(),
  bytes: z.number(),
  selects: z.number().int(),
  late: z.number().int(),
});
export type FigureView = z.infer<typeof FigureView>;
export const FiguresAnswer = z.object({ question: QuestionView, by: z.enum(FIGURES_BY), figures: z.array(FigureView) });
export type FiguresAnswer = z.infer<typeof FiguresAnswer>;
