import { KINDS } from '@tally/core/card';
import { STANCES } from '@tally/core/credit';
import { z } from 'zod';
import { Instant } from './primitives.js';

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

/**
 * What is written beside the files of an intake, in every folder it was filed into: everything the logbook knows of
 * these files, so that the drive is enough to rebuild it. `docs/intake-record.md` explains each field.
 */
export const IntakeRecord = z.object({
  format: z.literal('tally-stick-intake'),
  /** 2: with the ids. */
  version: z.literal([1, 2]),
  house: z.string(),
  intake: z.string(),
  /** Ids that no other house, and no other life of this one, draws: a number may be drawn twice. Null before version 2. */
  houseId: z.uuid().nullable().default(null),
  intakeId: z.uuid().nullable().default(null),
  receivedAt: Instant,
  receivedBy: z.string(),
  station: z.string(),
  card: z.object({ label: z.string().nullable(), volume: z.string() }),
  contributor: z.object({ code: z.string(), name: z.string() }).nullable(),
  assignment: z.object({ slug: z.string(), title: z.string() }).nullable(),
  rule: z.number().int().nullable(),
  folder: z.string(),
  /** When its card was cleared; null or absent: not yet. */
  clearedAt: Instant.nullable().default(null),
  /** Items of the card that somebody set aside: they are not filed. */
  aside: z.array(z.object({ from: z.string(), reason: z.string(), by: z.string().nullable() })).default([]),
  items: z.array(
    z.object({
      name: z.string(),
      from: z.string(),
      bytes: z.number(),
      kind: z.enum(KINDS),
      xxh128: Xxh128,
      filedAt: Instant.nullable(),
      modifiedAt: Instant,
      captured: z.object({
        local: z.string(),
        offsetMinutes: z.number().nullable(),
        source: z.string(),
        original: z.string(),
        camera: z.string(),
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
      /** Whose it is, what may be done with it, what and who is in it, where it was taken: as it was when this was written. */
      credit: RecordedCredit.nullable().default(null),
      /** What the file is with its credit inside it, where this record stands, and how that comes out; null: it is the card's bytes. */
      inside: z
        .object({
          bytes: z.number(),
          xxh128: Xxh128,
          undo: z.array(z.object({ at: z.number().int().min(0), cut: z.number().int().min(0), put: z.string() })),
        })
        .nullable()
        .default(null),
      /** The sidecar beside it. */
      beside: z.object({ name: z.string(), bytes: z.number(), xxh128: Xxh128 }).nullable().default(null),
    }),
  ),
});
export type IntakeRecord = z.infer<typeof IntakeRecord>;

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
