import { CODE_PATTERN, SLUG_PATTERN } from '@tally/core/rule';
import { z } from 'zod';
import { AssignmentFields, ContributorFields } from './credit.js';
import { Day, Id, line, text, Whole } from './primitives.js';

export const Code = z
  .string()
  .transform((text) => text.trim().toUpperCase())
  .pipe(z.string().regex(CODE_PATTERN, 'is two to four letters or digits'));

/** Short name of the assignment for what is filed loosely now and sorted on a quiet day. */
export const UNSORTED = 'unsorted';

export const Slug = z.string().trim().regex(SLUG_PATTERN, 'is lower-case letters, digits and single hyphens, at most 60');

const someOf = <T extends z.ZodRawShape>(fields: T) => z.strictObject(fields).partial().shape;

export const NewContributor = z.strictObject({ name: line(120), code: Code, ...someOf(ContributorFields) });
export type NewContributor = z.infer<typeof NewContributor>;

export const Contributor = z.object({
  id: Id,
  code: z.string(),
  name: z.string(),
  /** Cameras known to be theirs, as people say them. */
  cameras: z.array(z.string()),
  intakes: z.number().int(),
  items: z.number().int(),
  /** Pupil, volunteer, staff …: in the house's words. */
  kind: z.string(),
  /** Has an agreement with them run out? */
  agreementEnded: z.boolean(),
  /** Not offered any more; what was filed stays theirs. */
  retired: z.boolean(),
});
export type Contributor = z.infer<typeof Contributor>;

/** A correction; what is not named stays. A code that stands in names keeps meaning the same person. */
export const ContributorChange = z.strictObject({
  name: line(120).optional(),
  code: Code.optional(),
  retired: z.boolean().optional(),
  ...someOf(ContributorFields),
  /** Which revision whoever corrects has seen. */
  revision: Whole.optional(),
});
export type ContributorChange = z.infer<typeof ContributorChange>;

const AssignmentCode = z
  .string()
  .trim()
  .max(20)
  .regex(/^[A-Za-z0-9-]*$/, 'is letters, digits and hyphens');

export const NewAssignment = z
  .strictObject({
    title: line(160),
    slug: Slug,
    /** The house's own number or letters for it, where it has any. */
    code: AssignmentCode.default(''),
    from: Day,
    to: Day,
    place: text(160).default(''),
    expectedCards: z.number().int().min(0).max(500).default(1),
    expectedContributorIds: z.array(Id).max(200).default([]),
    ...someOf(AssignmentFields),
    words: z.array(line(120)).max(50).optional(),
  })
  .refine((assignment) => assignment.from <= assignment.to, { path: ['to'], message: 'must not be before the first day' });
export type NewAssignment = z.infer<typeof NewAssignment>;

export const Assignment = z.object({
  id: Id,
  slug: z.string(),
  code: z.string(),
  title: z.string(),
  from: Day,
  to: Day,
  place: z.string(),
  expectedCards: z.number().int(),
  receivedCards: z.number().int(),
  expected: z.array(z.object({ id: Id, name: z.string(), handedIn: z.boolean() })),
  /** Not offered and not expected any more; what was filed for it stays. */
  retired: z.boolean(),
});
export type Assignment = z.infer<typeof Assignment>;

export const ASSIGNMENT_ORDERS = ['days', 'title', 'slug', 'place'] as const;

/** Ids with commas between. */
const Ids = z
  .string()
  .max(2000)
  .regex(/^\d+(,\d+)*$/, 'is numbers with commas between')
  .transform((text) => text.split(',').map(Number))
  .pipe(z.array(z.number().int().positive().max(2_147_483_647)).max(200));

/** Which assignments, a page of them. Every condition narrows; `ids` come in whatever else is asked. */
export const AssignmentQuery = z.strictObject({
  /** Words that must stand in title, short name, code or location. */
  typed: text(200).default(''),
  /** Such that last on one of these days. */
  from: Day.optional(),
  to: Day.optional(),
  /** Such that this contributor is expected for and has not handed in for. */
  missing: Id.optional(),
  /** These, and no others unless something else is asked. */
  ids: Ids.optional(),
  retired: z.stringbool().optional(),
  order: z.enum(ASSIGNMENT_ORDERS).default('days'),
  descending: z.stringbool().default(true),
  limit: z.coerce.number().int().min(1).max(200).default(100),
  /** The assignment that the page before ended with (its `next`). */
  after: Id.optional(),
});
export type AssignmentQuery = z.infer<typeof AssignmentQuery>;

export const AssignmentPage = z.object({
  assignments: z.array(Assignment),
  /** The assignment to go on after; null at the end. */
  next: Id.nullable(),
});
export type AssignmentPage = z.infer<typeof AssignmentPage>;

/** A correction; what is not named stays. A short name or code that stands in names is not changed. */
export const AssignmentChange = z
  .strictObject({
    title: line(160).optional(),
    slug: Slug.optional(),
    code: AssignmentCode.optional(),
    from: Day.optional(),
    to: Day.optional(),
    place: text(160).optional(),
    expectedCards: z.number().int().min(0).max(500).optional(),
    expectedContributorIds: z.array(Id).max(200).optional(),
    retired: z.boolean().optional(),
    ...someOf(AssignmentFields),
    words: z.array(line(120)).max(50).optional(),
    revision: Whole.optional(),
  })
  .refine(({ from, to }) => !from || !to || from <= to, { path: ['to'], message: 'must not be before the first day' });
export type AssignmentChange = z.infer<typeof AssignmentChange>;
