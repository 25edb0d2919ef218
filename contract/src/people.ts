import { CODE_PATTERN, SLUG_PATTERN } from '@tally/core/rule';
import { z } from 'zod';
import { Day, Id, line, text } from './primitives.js';

export const Code = z
  .string()
  .transform((text) => text.trim().toUpperCase())
  .pipe(z.string().regex(CODE_PATTERN, 'is two to four letters or digits'));

export const Slug = z.string().trim().regex(SLUG_PATTERN, 'is lower-case letters, digits and single hyphens, at most 60');

export const NewContributor = z.strictObject({ name: line(120), code: Code });
export type NewContributor = z.infer<typeof NewContributor>;

export const Contributor = z.object({
  id: Id,
  code: z.string(),
  name: z.string(),
  /** Cameras known to be theirs, as people say them. */
  cameras: z.array(z.string()),
  intakes: z.number().int(),
  items: z.number().int(),
});
export type Contributor = z.infer<typeof Contributor>;

export const NewAssignment = z
  .strictObject({
    title: line(160),
    slug: Slug,
    /** The house's own number or letters for it, where it has any. */
    code: z
      .string()
      .trim()
      .max(20)
      .regex(/^[A-Za-z0-9-]*$/, 'is letters, digits and hyphens')
      .default(''),
    from: Day,
    to: Day,
    place: text(160).default(''),
    expectedCards: z.number().int().min(0).max(500).default(1),
    expectedContributorIds: z.array(Id).max(200).default([]),
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
});
export type Assignment = z.infer<typeof Assignment>;
