import { BELONGINGS, CONSENTS, faultOfCreditLine, LEVELS, STANCES } from '@tally/core/credit';
import { isCountry } from '@tally/core/country';
import { CREDITED_KINDS, type Field, FIELDS, WRITINGS } from '@tally/core/fields';
import { z } from 'zod';
import { Day, foreignText, Id, Instant, line, text, Whole } from './primitives.js';

/** Marks that turn the direction of what follows them: they could make a name read as another (Unicode UAX #9). */
const TURNS = /[\u202a-\u202e\u2066-\u2069]/;
const straight = <T extends z.ZodType<string>>(schema: T) =>
  schema.refine((typed) => !TURNS.test(typed), 'must not hold marks that turn the direction of writing');

const name = (max: number) => straight(line(max));
const words = (max: number) => straight(text(max));
/** Text of several lines: line ends are kept as `\n`, other control characters are refused. */
const paragraph = (max: number) =>
  z
    .string()
    .transform((typed) => typed.normalize('NFC').replace(/\r\n?/g, '\n').trim())
    .pipe(
      straight(
        z
          .string()
          .max(max)
          // eslint-disable-next-line no-control-regex -- control characters are what is refused
          .refine((typed) => !/[\u0000-\u0009\u000b-\u001f\u007f]/.test(typed), 'must not hold control characters'),
      ),
    );
/** A line that may hold fields in braces. */
export const CreditLine = words(300).superRefine((typed, context) => {
  const fault = faultOfCreditLine(typed);
  if (fault) context.addIssue({ code: 'custom', message: fault });
});
/** The same where a record says it: an empty line says nothing, so that the next one speaks. */
const CreditLineSaid = CreditLine.nullable().transform((line) => (line === '' ? null : line));
const Web = z
  .string()
  .trim()
  .max(300)
  .regex(/^https?:\/\/[^\s]+$/i, 'is an address such as https://example.org/licence');
const day = Day.nullable();
/** Which revision whoever corrects has seen; without it nothing is compared. */
const revision = Whole.optional();
const retired = z.boolean();

const termsFields = {
  name: name(80),
  stance: z.enum(STANCES),
  sentence: words(500).default(''),
  web: Web.nullable().default(null),
  until: day.default(null),
};
const locationFields = {
  name: name(120),
  part: words(120).default(''),
  town: words(120).default(''),
  region: words(120).default(''),
  country: z
    .string()
    .trim()
    .toUpperCase()
    .refine((code) => code === '' || isCountry(code), 'is no country code of ISO 3166-1 (two letters, such as PT)')
    .default(''),
  lat: z.number().min(-90).max(90).nullable().default(null),
  lon: z.number().min(-180).max(180).nullable().default(null),
  reachM: z.number().int().min(10).max(200_000).default(1000),
};
const picturedFields = {
  name: name(120),
  consent: z.enum(CONSENTS).default('ask'),
  until: day.default(null),
  purpose: words(200).default(''),
  notes: paragraph(2000).default(''),
};
export const HabitAnswers = z.strictObject({
  contributorId: Id.optional(),
  assignmentId: Id.optional(),
  wordIds: z.array(Id).max(100).optional(),
  locationId: Id.optional(),
  termsId: Id.optional(),
  creditLine: CreditLine.optional(),
  copyrightNotice: CreditLine.optional(),
  take: z.enum(['all', 'none']).optional(),
  fileByItself: z.boolean().optional(),
});
const habitFields = {
  name: name(80),
  belongs: z.enum(BELONGINGS),
  /** Id of the card, contributor or assignment; the reader's folder; '' for the house. */
  of: words(300).default(''),
  answers: HabitAnswers,
};

/** The lists that the house keeps, and what one entry of each says. */
export const HOUSE_LISTS = {
  terms: termsFields,
  locations: locationFields,
  pictured: picturedFields,
  habits: habitFields,
} as const;
export const HouseListName = z.enum(['terms', 'locations', 'pictured', 'habits']);
export type HouseListName = z.infer<typeof HouseListName>;

const kept = { id: Id, retired, revision: Whole };
const changeOf = <T extends z.ZodRawShape>(fields: T) => {
  const open = Object.fromEntries(
    Object.entries(fields).map(([key, field]) => [key, unwrapped(field as z.ZodType).optional()]),
  ) as unknown as { [K in keyof T]: z.ZodOptional<T[K]> };
  return z.strictObject({ ...open, retired: retired.optional(), revision });
};
/** A change leaves alone what it does not name: no default may fill it. */
const unwrapped = (field: z.ZodType): z.ZodType => (field instanceof z.ZodDefault ? (field.unwrap() as z.ZodType) : field);

export const NewTerms = z.strictObject(termsFields);
export const NewLocation = z.strictObject(locationFields);
export const NewPictured = z.strictObject(picturedFields);
export const NewHabit = z.strictObject(habitFields);
export const NEW_IN_LIST = { terms: NewTerms, locations: NewLocation, pictured: NewPictured, habits: NewHabit } as const;
export const LIST_CHANGE = {
  terms: changeOf(termsFields),
  locations: changeOf(locationFields),
  pictured: changeOf(picturedFields),
  habits: changeOf(habitFields),
} as const;

export const TermsView = z.object({ ...kept, ...termsFields });
export type TermsView = z.infer<typeof TermsView>;
export const LocationView = z.object({ ...kept, ...locationFields });
export type LocationView = z.infer<typeof LocationView>;
export const PicturedView = z.object({ ...kept, ...picturedFields, items: Whole });
export type PicturedView = z.infer<typeof PicturedView>;
export const HabitView = z.object({ ...kept, ...habitFields, ofName: z.string() });
export type HabitView = z.infer<typeof HabitView>;
/** What each list of the house holds. */
export interface HouseLists {
  readonly terms: TermsView;
  readonly locations: LocationView;
  readonly pictured: PicturedView;
  readonly habits: HabitView;
}

export const MergeRequest = z.strictObject({ into: Id });
/** What came of a correction: how many items it is about, and whether the files' records follow. */
export const CorrectionAnswer = z.object({ id: Id, items: Whole, following: Whole });
export type CorrectionAnswer = z.infer<typeof CorrectionAnswer>;

/** A contributor is forgotten only by somebody who says so. */
export const ForgetRequest = z.strictObject({ sure: z.literal(true) });
/** What was erased, and how many items follow with a number for a name. */
export const ForgottenAnswer = CorrectionAnswer.extend({ agreements: Whole, habits: Whole, cameras: Whole });
export type ForgottenAnswer = z.infer<typeof ForgottenAnswer>;

/** Where credit is written, by kind; what is not named is written as the product proposes. */
const HouseWriting = z.partialRecord(z.enum(CREDITED_KINDS), z.enum(WRITINGS));
export const HouseCreditView = z.object({
  creditLine: z.string().nullable(),
  copyrightNotice: z.string().nullable(),
  termsId: Id.nullable(),
  kinds: z.array(z.string()),
  writing: HouseWriting,
  revision: Whole,
});
export type HouseCreditView = z.infer<typeof HouseCreditView>;
export const HouseCreditChange = z.strictObject({
  creditLine: CreditLineSaid.optional(),
  copyrightNotice: CreditLineSaid.optional(),
  termsId: Id.nullable().optional(),
  kinds: z.array(name(40)).max(40).optional(),
  writing: HouseWriting.refine(
    (writing) => CREDITED_KINDS.every((kind) => kind === 'photo' || writing[kind] !== 'inside'),
    'says that credit goes inside a kind of file that cannot carry it so that it comes out again: only a JPEG can',
  ).optional(),
  revision,
});

/** BCP 47, as far as word lists need it; '' when nobody says which language. */
const Language = z
  .string()
  .trim()
  .toLowerCase()
  .regex(/^([a-z]{2,3}(-[a-z0-9]{2,8})*)?$/, 'is a language such as en, pt or pt-br');
export const WordLabelSaid = z.strictObject({ language: Language.default(''), text: name(120), preferred: z.boolean() });
export const WordSaid = z
  .strictObject({
    labels: z.array(WordLabelSaid).min(1).max(60),
    broader: z.array(Id).max(20).default([]),
    listed: z.boolean().default(true),
    note: words(500).default(''),
    revision,
  })
  .refine(({ labels }) => labels.some(({ preferred }) => preferred), { path: ['labels'], message: 'need a name it goes by' })
  .refine(
    ({ labels }) => {
      const languages = labels.filter(({ preferred }) => preferred).map(({ language }) => language);
      return new Set(languages).size === languages.length;
    },
    { path: ['labels'], message: 'hold two names that it goes by in one language' },
  );
export type WordSaid = z.infer<typeof WordSaid>;
export const WordView = z.object({
  id: Id,
  /** As it is known in the list it came from; null: ours. */
  iri: z.string().nullable(),
  labels: z.array(z.object({ language: z.string(), text: z.string(), preferred: z.boolean() })),
  broader: z.array(z.object({ id: Id, text: z.string() })),
  narrower: z.array(z.object({ id: Id, text: z.string() })),
  listed: z.boolean(),
  note: z.string(),
  usedAt: Instant.nullable(),
  retired,
  revision: Whole,
});
export type WordView = z.infer<typeof WordView>;
export const WordsQuery = z.strictObject({
  typed: foreignText(120).default(''),
  limit: z.coerce.number().int().min(1).max(200).default(12),
});
export const CompletionView = z.object({ id: Id, text: z.string(), by: z.string().nullable() });
export type CompletionView = z.infer<typeof CompletionView>;
export const WordListQuery = z.strictObject({
  after: foreignText(300).default(''),
  typed: foreignText(120).default(''),
  which: z.enum(['listed', 'free', 'all']).default('listed'),
});
/** A page of words by name; `next` asks for what follows, null at the end. */
export const WordListAnswer = z.object({ words: z.array(WordView), next: z.string().nullable() });
export type WordListAnswer = z.infer<typeof WordListAnswer>;

export const WordHad = z.object({ id: Id, text: z.string() });
export type WordHad = z.infer<typeof WordHad>;

/** What an item itself says of credit; what it does not say its slip, assignment, contributor or house does. */
export const ItemCreditView = z.object({
  creditLine: z.string().nullable(),
  copyrightNotice: z.string().nullable(),
  termsId: Id.nullable(),
  locationId: Id.nullable(),
  words: z.array(z.object({ id: Id, text: z.string(), has: z.boolean() })),
  pictured: z.array(
    z.object({ id: Id, name: z.string(), consent: z.enum(CONSENTS), until: z.string().nullable(), purpose: z.string() }),
  ),
  /** Where it was taken, by a track. */
  position: z.object({ lat: z.number(), lon: z.number() }).nullable(),
});
export type ItemCreditView = z.infer<typeof ItemCreditView>;

export const EmbeddedView = z.object({
  description: z.string().nullable(),
  headline: z.string().nullable(),
  words: z.array(z.string()),
  creator: z.string().nullable(),
  creditLine: z.string().nullable(),
  copyrightNotice: z.string().nullable(),
  usageTerms: z.string().nullable(),
  location: z.string().nullable(),
  position: z.object({ lat: z.number(), lon: z.number() }).nullable(),
});

const said = {
  creditLine: z.string().nullable(),
  copyrightNotice: z.string().nullable(),
  termsId: Id.nullable(),
  locationId: Id.nullable(),
  words: z.array(WordHad),
};
/** Everything that the items of an intake get their credit from, besides themselves. */
export const IntakeCredit = z.object({
  slip: z.object(said),
  /** Which habit gave which answer of the slip. */
  answeredBy: z.record(z.string(), z.object({ id: Id, name: z.string(), belongs: z.enum(BELONGINGS) })),
  house: z.object({ name: z.string(), ...said }),
  contributors: z.array(z.object({ id: Id, name: z.string(), given: z.string(), family: z.string(), code: z.string(), ...said })),
  assignments: z.array(z.object({ id: Id, title: z.string(), embargoUntil: z.string().nullable(), ...said })),
  terms: z.array(TermsView),
  locations: z.array(LocationView),
  /** Known locations that the positions in the files are nearest to. */
  near: z.array(z.object({ locationId: Id, items: Whole, metres: z.number() })),
  /** Records beside the files that are still to be written. */
  following: Whole,
  /** Places that lag behind in what the files say of themselves, with their row on the stick; their copies tally all the same. */
  behind: z.array(z.object({ placeId: z.string(), name: z.string(), row: Whole })),
});
export type IntakeCredit = z.infer<typeof IntakeCredit>;

const seenOf = <T extends z.ZodType>(value: T) => z.array(value.nullable()).max(10_000);
const newWords = z.array(name(120)).max(50);
export const SlipCreditFields = {
  creditLine: CreditLineSaid.optional(),
  copyrightNotice: CreditLineSaid.optional(),
  termsId: Id.nullable().optional(),
  locationId: Id.nullable().optional(),
  addWords: newWords.optional(),
  removeWordIds: z.array(Id).max(200).optional(),
};

export const StandingSaid = z.partialRecord(z.enum(FIELDS as [Field, ...Field[]]), z.enum(['ours', 'theirs']).nullable());

/** A change of credit of items, of any intake. What is not named stays; null means as the slip, assignment or house says. */
export const CreditChange = z
  .strictObject({
    itemIds: z.array(Id).min(1).max(100_000),
    /** What whoever changes has seen of each line that is replaced, in any of the items: anything else, and they look again. */
    was: z
      .strictObject({
        creditLine: seenOf(foreignText(400)),
        copyrightNotice: seenOf(foreignText(400)),
        termsId: seenOf(Id),
        locationId: seenOf(Id),
      })
      .partial()
      .optional(),
    ...SlipCreditFields,
    contributorId: Id.nullable().optional(),
    description: paragraph(2000).optional(),
    /** Where the file says something else than the house: which of the two stands; null: nobody has said. */
    standing: StandingSaid.optional(),
    addPictured: z.array(name(120)).max(50).optional(),
    removePicturedIds: z.array(Id).max(200).optional(),
  })
  .refine(
    ({ itemIds: _ids, was: _was, ...change }) => (Object.values(change) as unknown[]).some((value) => value !== undefined),
    {
      message: 'says nothing to change',
    },
  );
export type CreditChange = z.infer<typeof CreditChange>;
export const CreditAnswer = z.object({ items: Whole, following: Whole });
export type CreditAnswer = z.infer<typeof CreditAnswer>;

/** Where a person is shown: items with where their copies stand. */
export const ShownAnswer = z.object({
  items: Whole,
  shown: z.array(
    z.object({
      itemId: Id,
      intakeId: Id,
      intakeNumber: z.string(),
      path: z.string(),
      filedAs: z.string().nullable(),
      places: z.array(z.string()),
    }),
  ),
});
export type ShownAnswer = z.infer<typeof ShownAnswer>;

/** What a track says of an intake's items, with known locations that they were near to. */
export const TrackAnswer = z.object({
  points: Whole,
  matched: Whole,
  items: Whole,
  near: z.array(z.object({ locationId: Id, itemIds: z.array(Id), metres: z.number() })),
});
export type TrackAnswer = z.infer<typeof TrackAnswer>;

/** Which level said something, for whoever asks why. */
export const CreditLevel = z.enum(LEVELS);

export const AgreementSaid = z.strictObject({ what: name(200), signedOn: day.default(null), until: day.default(null) });
export const AgreementView = z.object({
  id: Id,
  what: z.string(),
  signedOn: z.string().nullable(),
  until: z.string().nullable(),
  scanned: z.boolean(),
});
export type AgreementView = z.infer<typeof AgreementView>;

/** What a file of people, assignments, locations or words would change. */
export const IMPORTS = ['people', 'assignments', 'locations', 'words'] as const;
export const ImportName = z.enum(IMPORTS);
export type ImportName = z.infer<typeof ImportName>;
export const ImportQuery = z.strictObject({ apply: z.enum(['yes', 'no']).default('no') });
export const ImportAnswer = z.object({
  /** How the file was understood: encoding, separator. */
  read: z.string(),
  added: Whole,
  changed: Whole,
  same: Whole,
  lines: z.array(z.object({ line: Whole, key: z.string(), does: z.enum(['add', 'change', 'nothing']), words: z.string() })),
  faults: z.array(z.object({ line: Whole, what: z.string() })),
  applied: z.boolean(),
});
export type ImportAnswer = z.infer<typeof ImportAnswer>;

/** What a person's page and an assignment's page show beside what came in. */
export const ContributorDetail = z.object({
  id: Id,
  code: z.string(),
  name: z.string(),
  given: z.string(),
  family: z.string(),
  kind: z.string(),
  email: z.string(),
  phone: z.string(),
  address: z.string(),
  web: z.string(),
  inside: z.array(z.string()),
  creditLine: z.string().nullable(),
  copyrightNotice: z.string().nullable(),
  termsId: Id.nullable(),
  notes: z.string(),
  minor: z.boolean(),
  retired,
  revision: Whole,
  formerCodes: z.array(z.string()),
  agreements: z.array(AgreementView),
  /** Items filed by month, `yyyy-MM`. */
  months: z.array(z.object({ month: z.string(), items: Whole })),
});
export type ContributorDetail = z.infer<typeof ContributorDetail>;
export const INSIDE = ['email', 'phone', 'address', 'web'] as const;
export const ContributorFields = {
  given: words(60),
  family: words(60),
  kind: words(40),
  email: z.union([z.literal(''), z.email('is an e-mail address').max(200)]),
  phone: words(60),
  address: paragraph(400),
  web: z.union([z.literal(''), Web]),
  inside: z.array(z.enum(INSIDE)),
  creditLine: CreditLineSaid,
  copyrightNotice: CreditLineSaid,
  termsId: Id.nullable(),
  notes: paragraph(2000),
  /** Not of age: whoever may not see persons sees the code instead of the name. */
  minor: z.boolean(),
};
export const AssignmentFields = {
  description: paragraph(2000),
  contacts: paragraph(1000),
  embargoUntil: day,
  termsId: Id.nullable(),
  locationId: Id.nullable(),
};
export const AssignmentDetail = z.object({
  id: Id,
  description: z.string(),
  contacts: z.string(),
  embargoUntil: z.string().nullable(),
  termsId: Id.nullable(),
  locationId: Id.nullable(),
  words: z.array(WordHad),
  revision: Whole,
});
export type AssignmentDetail = z.infer<typeof AssignmentDetail>;
