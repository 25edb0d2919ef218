import { KINDS, OBJECT_ROLES, STRUCTURE_NAMES, TREE_STRUCTURES } from '@tally/core/card';
import { ASSIGNMENT_DAYS, CASES, OWN_LINES_KINDS, SEQUENCE_SCOPES, SPACES, VERDICTS as RULE_VERDICTS } from '@tally/core/rule';
import { DAY_BEGINS } from '@tally/core/capture';
import { z } from 'zod';
import { foreignText, Id, Instant, line, text, Whole } from './primitives.js';

const lineText = z.string().normalize('NFC').pipe(foreignText(400));
const kindWord = line(40);

const RuleSettingsPart = z
  .strictObject({
    season: z.strictObject({ startMonth: z.number().int().min(1).max(12), label: line(40) }),
    kindWords: z.partialRecord(z.enum(KINDS), kindWord),
    cameraNames: z.record(foreignText(200), line(60)).refine((names) => Object.keys(names).length <= 500, 'are too many'),
    letters: z.strictObject({ spaces: z.enum(SPACES), case: z.enum(CASES), ascii: z.boolean() }),
    sequence: z.strictObject({ scope: z.enum(SEQUENCE_SCOPES), start: z.number().int().min(0).max(1_000_000) }),
    language: line(10),
    missing: line(40),
    day: z.strictObject({ begins: z.string().regex(DAY_BEGINS), assignment: z.enum(ASSIGNMENT_DAYS) }),
    asOnCard: z
      .strictObject({
        card: z.boolean(),
        folderLine: lineText.nullable(),
        kinds: z.array(z.enum(OWN_LINES_KINDS)).max(OWN_LINES_KINDS.length).readonly(),
        structures: z.partialRecord(z.enum(TREE_STRUCTURES), z.enum(['whole', 'rename'])),
        smallVersions: z.enum(['left', 'kept']),
      })
      .partial(),
  })
  .partial();

/** A house rule as it is sent, kept and exchanged; core/rule says whether its lines can be read. */
export const RuleText = z.strictObject({
  folderLine: lineText,
  fileLine: lineText,
  kinds: z
    .partialRecord(z.enum(OWN_LINES_KINDS), z.strictObject({ folderLine: lineText.optional(), fileLine: lineText.optional() }))
    .optional(),
  settings: RuleSettingsPart.optional(),
});
export type RuleText = z.infer<typeof RuleText>;

export const NewRevision = z.strictObject({
  rule: RuleText,
  note: line(300),
  /** The revision it was made from: somebody else may have saved one since. */
  from: Whole.min(1),
});
export type NewRevision = z.infer<typeof NewRevision>;

export const RevisionView = z.object({
  revision: z.number().int(),
  rule: RuleText,
  note: z.string(),
  who: z.string().nullable(),
  at: Instant,
  /** What was known not to hold when it was saved. */
  warnings: z.array(z.object({ verdict: z.enum(RULE_VERDICTS), because: z.string() })),
  /** Intakes that were filed by it. */
  intakes: z.number().int(),
});
export type RevisionView = z.infer<typeof RevisionView>;

export const RulesAnswer = z.object({ revisions: z.array(RevisionView) });
export type RulesAnswer = z.infer<typeof RulesAnswer>;

const named = z.object({ code: z.string(), name: z.string() });
const what = z.object({
  slug: z.string(),
  title: z.string(),
  code: z.string().nullable(),
  from: z.string().nullable(),
  to: z.string().nullable(),
  place: z.string().nullable(),
});

/** Real items for a rule to be tried on, and what the house knows. */
export const RuleMaterial = z.object({
  intake: z.object({ id: Id, number: z.string(), card: z.string(), receivedAt: Instant }).nullable(),
  items: z.array(
    z.object({
      id: Id,
      path: z.string(),
      bytes: z.number(),
      kind: z.enum(KINDS),
      captured: z.string(),
      camera: z.object({ make: z.string().nullable(), model: z.string().nullable() }),
      leader: z.string(),
      objectRole: z.enum(OBJECT_ROLES),
      part: z.number().int().nullable(),
      parts: z.number().int().nullable(),
      structure: z.enum(STRUCTURE_NAMES),
      structureRoot: z.string().nullable(),
      taken: z.boolean(),
      setAside: z.string().nullable(),
      alreadyFiled: z.string().nullable(),
      problem: z.string().nullable(),
      contributor: named.nullable(),
      assignment: what.nullable(),
      description: z.string().nullable(),
      role: z.string().nullable(),
      profile: z.string().nullable(),
      /** Where it was filed, if it was. */
      filedAs: z.string().nullable(),
    }),
  ),
  slip: z.object({
    contributor: named.nullable(),
    assignment: what.nullable(),
    cardLabel: z.string(),
    received: z.string(),
    filed: z.string(),
    intake: z.string().nullable(),
  }),
  /** Folders that the house has filed into. */
  folders: z.array(z.string()),
  known: z.object({
    contributors: z.array(named),
    assignments: z.array(what),
    cameras: z.array(z.object({ make: z.string().nullable(), model: z.string().nullable() })),
    labels: z.array(z.string()),
  }),
  /** How the share is called where people open it. */
  sharePrefix: z.string(),
});
export type RuleMaterial = z.infer<typeof RuleMaterial>;
export const MaterialQuery = z.strictObject({ intake: Id.optional() });

/** A rule in a file, to be taken to another house or kept. */
export const RuleFile = z.strictObject({
  format: z.literal('tally-stick-house-rule'),
  version: z.literal(1),
  rule: RuleText,
  note: text(300).default(''),
});
export type RuleFile = z.infer<typeof RuleFile>;
