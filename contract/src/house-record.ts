import { CREDITED_KINDS, WRITINGS } from '@tally/core/fields';
import { STANCES } from '@tally/core/credit';
import { z } from 'zod';
import { Day, Instant } from './primitives.js';
import { RuleText } from './rules.js';

const Text = z.string().nullable();
const Contact = { email: z.string(), phone: z.string(), address: z.string(), web: z.string() };

/**
 * What the house knows of people, assignments, words and cards: written to every place beside the records, which name all of
 * these by code, short name or text. What stays inside the house of how somebody can be reached is not in it, nor is what was
 * agreed with whom. `docs/intake-record.md` explains it.
 */
export const HouseRecord = z.object({
  format: z.literal('tally-stick-house'),
  version: z.literal(1),
  house: z.string(),
  houseId: z.uuid(),
  /** When what it says last became another. */
  writtenAt: Instant,
  terms: z.array(
    z.object({
      ...{ name: z.string(), stance: z.enum(STANCES), sentence: z.string(), web: Text, until: Day.nullable() },
      retiredAt: Instant.nullable(),
    }),
  ),
  locations: z.array(
    z.object({
      ...{ name: z.string(), part: z.string(), town: z.string(), region: z.string(), country: z.string() },
      ...{ lat: z.number().nullable(), lon: z.number().nullable(), reachM: z.number().int(), retiredAt: Instant.nullable() },
    }),
  ),
  /** `n` counts them in this list; `broader` are such numbers. */
  keywords: z.array(
    z.object({
      ...{ n: z.number().int(), listed: z.boolean(), iri: Text, note: z.string(), retiredAt: Instant.nullable() },
      names: z.array(z.object({ language: z.string(), text: z.string(), preferred: z.boolean() })),
      broader: z.array(z.number().int()),
    }),
  ),
  /** What the house says of every item unless something nearer does, and where credit is written. */
  credit: z.object({
    ...{ creditLine: Text, copyrightNotice: Text, terms: Text, kinds: z.array(z.string()) },
    writing: z.partialRecord(z.enum(CREDITED_KINDS), z.enum(WRITINGS)),
  }),
  contributors: z.array(
    z.object({
      ...{ code: z.string(), name: z.string(), given: z.string(), family: z.string(), kind: z.string(), minor: z.boolean() },
      ...Contact,
      /** Which of these stay inside the house: they are empty here. */
      inside: z.array(z.string()),
      ...{ creditLine: Text, copyrightNotice: Text, terms: Text, createdAt: Instant, retiredAt: Instant.nullable() },
      /** Codes that mean this one, too: records were merged. */
      formerCodes: z.array(z.string()),
    }),
  ),
  assignments: z.array(
    z.object({
      ...{ slug: z.string(), code: z.string(), title: z.string(), from: Day, to: Day, place: z.string() },
      ...{ expectedCards: z.number().int(), description: z.string(), embargoUntil: Day.nullable() },
      ...{ terms: Text, location: Text, keywords: z.array(z.string()), expected: z.array(z.string()) },
      retiredAt: Instant.nullable(),
    }),
  ),
  rules: z.array(z.object({ revision: z.number().int(), rule: RuleText, note: z.string(), savedBy: Text, createdAt: Instant })),
  cards: z.array(
    z.object({
      ...{ label: z.string(), volume: z.string(), tray: z.enum(['in', 'on the desk', 'to give back', 'out']) },
      ...{ since: Instant, ours: z.boolean() },
    }),
  ),
  cameras: z.array(z.object({ make: z.string(), model: z.string(), serial: z.string(), contributor: Text })),
  clocks: z.array(
    z.object({
      ...{ make: z.string(), model: z.string(), serial: z.string(), shiftSeconds: z.number().int() },
      ...{ kind: z.enum(['clock', 'zone']), by: z.string(), at: Instant },
    }),
  ),
  /** The next number of each sequence. */
  counters: z.array(z.object({ scope: z.string(), next: z.number().int() })),
});
export type HouseRecord = z.infer<typeof HouseRecord>;
