import { CAPTURE_SOURCES } from '@tally/core/capture';
import { KINDS, OBJECT_ROLES, STRUCTURE_NAMES } from '@tally/core/card';
import { INTAKE_STATES } from '@tally/core/copies';
import { STANCES } from '@tally/core/credit';
import { staysBelow } from '@tally/core/rule';
import { z } from 'zod';
import { StandingSaid } from './credit.js';
import { foreignText, Instant } from './primitives.js';

const Xxh128 = z.string().regex(/^[0-9a-f]{32}$/);

/** Fields by the names of the IPTC Photo Metadata Standard 2023.1 (from memory). */
export const RecordedCredit = z.object({
  creator: z.string().nullable(),
  creditLine: z.string(),
  copyrightNotice: z.string(),
  terms: z
    .object({
      name: z.string(),
      stance: z.enum(STANCES),
      sentence: z.string(),
      web: z.string().nullable(),
      until: z.string().nullable(),
    })
    .nullable(),
  embargoUntil: z.string().nullable(),
  keywords: z.array(z.string()),
  location: z
    .object({
      ...{ name: z.string(), part: z.string(), town: z.string(), region: z.string(), country: z.string() },
      ...{ lat: z.number().nullable(), lon: z.number().nullable() },
    })
    .nullable(),
  personShown: z.array(z.object({ name: z.string(), consent: z.string(), until: z.string().nullable() })),
});
export type RecordedCredit = z.infer<typeof RecordedCredit>;

/** What somebody said of an item or of a whole intake themselves; what is null the assignment, the contributor or the house says. */
const Said = {
  creditLine: z.string().nullable(),
  copyrightNotice: z.string().nullable(),
  /** Names of terms and of a location. */
  terms: z.string().nullable(),
  location: z.string().nullable(),
};
const ITEM_SAYS_NOTHING = {
  ...{ creditLine: null, copyrightNotice: null, terms: null, location: null, lat: null, lon: null },
  ...{ standing: {}, keywords: [] },
};
/** A path on a card or at a place. What stands on a drive may be anybody's. */
const Within = z.string().refine(staysBelow, 'leads out of its folder');
/** Local time as we write it. */
const Local = z.string().regex(/^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}/);
const Text = z.string().nullable();
const Int = z.number().int().nullable();

/** What came with a file; see core/credit Embedded. */
const CameWith = z.object({
  ...{ description: Text, headline: Text, words: z.array(z.string()), creator: Text, creditLine: Text, copyrightNotice: Text },
  ...{ usageTerms: Text, location: Text, position: z.object({ lat: z.number(), lon: z.number() }).nullable() },
});

/** What a clip or recording says of itself; see core/footage ClipSays. */
const ClipSaid = z.object({
  ...{ frameRate: z.number().nullable(), timecode: Text, reel: Text, primaries: Int, transfer: Int, gamma: Text },
  ...{ tracks: Int, channels: Int, sampleRate: z.number().nullable(), scene: Text, take: Text },
});

/** What a file says, or was to say: see core/fields Properties. Whoever rebuilds writes it anew. */
const Fingerprint = z.string().max(100).nullable().default(null);

/**
 * What is written beside the files of an intake, in every folder it was filed into: everything the logbook knows of
 * these files, so that the drive is enough to rebuild it. `docs/intake-record.md` explains each field.
 */
export const IntakeRecord = z.object({
  format: z.literal('tally-stick-intake'),
  /** 2: with the ids. 3: with all that a logbook needs to be rebuilt from it. */
  version: z.literal([1, 2, 3]),
  /** When what it says last became another; null before version 3. Of two records of one intake the newer one counts. */
  writtenAt: Instant.nullable().default(null),
  house: foreignText(1_000),
  intake: foreignText(100),
  /** Ids that no other house, and no other life of this one, draws: a number may be drawn twice. Null before version 2. */
  houseId: z.uuid().nullable().default(null),
  intakeId: z.uuid().nullable().default(null),
  receivedAt: Instant.refine((at) => at >= '0001', 'must lie in a year that calendars have'),
  receivedBy: z.string(),
  station: foreignText(1_000),
  card: z.object({ label: z.string().nullable(), volume: z.string() }),
  contributor: z.object({ code: z.string(), name: z.string() }).nullable(),
  assignment: z.object({ slug: z.string(), title: z.string() }).nullable(),
  rule: z.number().int().nullable(),
  folder: z.string(),
  /** When its card was cleared; null or absent: not yet. */
  clearedAt: Instant.nullable().default(null),
  /** Items of the card that somebody set aside: they are not filed. */
  aside: z.array(z.object({ from: z.string(), reason: z.string(), by: z.string().nullable() })).default([]),
  state: z.enum(INTAKE_STATES).nullable().default(null),
  /** Where its card lay, on its station. */
  source: z.string().default(''),
  /** Place and folder that it was added to the log from; null: it came by a card. */
  adopted: z.object({ place: z.string(), folder: z.string() }).nullable().default(null),
  /** What the slip said of the whole card itself. */
  says: z
    .object({ ...Said, keywords: z.array(z.string()) })
    .default({ creditLine: null, copyrightNotice: null, terms: null, location: null, keywords: [] }),
  /** Numbers that it drew: the next one of each scope is at least this. */
  drawn: z.array(z.object({ scope: z.string(), first: z.number().int(), next: z.number().int() })).default([]),
  /** What of the card was not filed, and why: left by somebody, put aside, filed already (`at`: path from the place's root), no material. */
  left: z
    .array(
      z.object({
        ...{ from: Within, bytes: z.number().int().min(0), kind: z.enum(KINDS), modifiedAt: Instant },
        why: z.enum(['left', 'aside', 'already filed', 'no material', 'cannot be filed', 'not yet']),
        toFile: z.boolean(),
        ...{ reason: Text, at: Text, fast: Xxh128.nullable(), captured: Local },
      }),
    )
    .default([]),
  /** What the log tells of the intake, oldest first. */
  events: z.array(z.object({ at: Instant, kind: z.string(), who: Text, text: z.string(), receipt: Text })).default([]),
  items: z.array(
    z.object({
      name: Within,
      from: Within,
      bytes: z.number().int().min(0),
      kind: z.enum(KINDS),
      xxh128: Xxh128,
      filedAt: Instant.nullable(),
      modifiedAt: Instant,
      captured: z.object({
        local: Local,
        offsetMinutes: z.number().nullable(),
        source: z.enum(CAPTURE_SOURCES).catch('file time'),
        original: z.string(),
        camera: z.string(),
        /** Of the camera's clock: minutes east of UTC, and the seconds by which it was put right. */
        cameraOffsetMinutes: Int.default(null),
        shiftSeconds: z.number().int().default(0),
      }),
      make: z.string().nullable(),
      model: z.string().nullable(),
      serial: z.string().nullable(),
      /** Where these differ from the intake's. */
      contributor: z.object({ code: z.string(), name: z.string() }).nullable(),
      assignment: z.object({ slug: z.string(), title: z.string() }).nullable(),
      verdict: z.string().nullable(),
      description: z.string(),
      role: z.string().nullable(),
      profile: z.string(),
      /** Fast identity of the card's bytes: XXH128 over the first and last 64 KiB. */
      fast: Xxh128.nullable().default(null),
      /** The name on the card, where that is no UTF-8: base64. */
      fromBytes: Text.default(null),
      /** Its number in the sequence that its name was drawn from. */
      n: Int.default(null),
      /** When and how the copy beside this record was proven. */
      talliedAt: Instant.nullable().default(null),
      proof: Text.default(null),
      /** What it belongs together with on the card. */
      object: z
        .object({
          ...{ leader: z.string(), role: z.enum(OBJECT_ROLES), part: Int, parts: Int },
          ...{ structure: z.enum(STRUCTURE_NAMES), root: Text, series: Text },
        })
        .nullable()
        .default(null),
      picture: z
        .object({
          ...{ width: Int, height: Int, durationMs: Int, orientation: Int, turned: z.number().int() },
          ...{ useFromMs: Int, useToMs: Int },
        })
        .nullable()
        .default(null),
      clip: ClipSaid.nullable().default(null),
      came: CameWith.nullable().default(null),
      remark: Text.default(null),
      /** What was said of this item itself. A keyword that it has not although the card's others have it: `has` false. */
      says: z
        .object({
          ...{ ...Said, lat: z.number().nullable(), lon: z.number().nullable(), standing: StandingSaid },
          keywords: z.array(z.object({ text: z.string(), has: z.boolean() })),
        })
        .default(ITEM_SAYS_NOTHING),
      /** Where it stood before, from the place's root. */
      formerly: z.array(z.object({ path: Within, until: Instant })).default([]),
      /** It lies in the bin: where it stood, who put it there, when, and until when it is kept. */
      bin: z.object({ path: Within, by: z.string(), at: Instant, words: z.string(), until: Text }).nullable().default(null),
      /** Whose it is, what may be done with it, what and who is in it, where it was taken: as it was when this was written. */
      credit: RecordedCredit.nullable().default(null),
      /** What the file is with its credit inside it, where this record stands, and how that comes out; null: it is the card's bytes. */
      inside: z
        .object({
          bytes: z.number(),
          xxh128: Xxh128,
          fast: Xxh128.nullable().default(null),
          as: Fingerprint,
          undo: z.array(z.object({ at: z.number().int().min(0), cut: z.number().int().min(0), put: z.string() })),
        })
        .nullable()
        .default(null),
      /** The sidecar beside it. */
      beside: z
        .object({ name: z.string(), bytes: z.number(), xxh128: Xxh128, as: Fingerprint, why: Text.default(null) })
        .nullable()
        .default(null),
    }),
  ),
});
export type IntakeRecord = z.infer<typeof IntakeRecord>;

/** Of which intake a record is: all that is read of it where nobody asks for its items. */
export const RecordHeader = IntakeRecord.pick({
  ...{ format: true, version: true, writtenAt: true, house: true, intake: true, houseId: true, intakeId: true },
  ...{ receivedAt: true, station: true },
}).extend({ items: z.array(z.unknown()) });
export type RecordHeader = z.infer<typeof RecordHeader>;

const MovedFile = z.object({ name: z.string(), to: z.string(), until: z.string(), xxh128: z.string().nullable() });

/** Beside what is left in a folder: what stood there once, and where it went. */
export const MovedRecord = z.object({
  format: z.literal('tally-stick-moved'),
  version: z.literal(1),
  folder: z.string(),
  /** Of the house that wrote it; null: of before houses had ids. */
  houseId: z.uuid().nullable().default(null),
  files: z.array(MovedFile),
  /** What houses said that had the drive before. */
  before: z.array(MovedFile).default([]),
});
export type MovedRecord = z.infer<typeof MovedRecord>;
