import { z } from 'zod';
import type { House } from './house/index.js';
import { judgeAcross } from './seeing/index.js';
import { askedIds, fillBundle, keepQuestion, makeBundle } from './shelf/index.js';

/** The part of a story that is told of what is filed: what was said of it, bundles, questions that are kept. */
export const ShelfStory = z.strictObject({
  /** Said of the first so many that answer. */
  said: z.array(
    z.strictObject({
      question: z.string(),
      first: z.number().int().positive(),
      description: z.string().optional(),
      verdict: z.enum(['select', 'reshoot', 'hold']).optional(),
    }),
  ),
  bundles: z.array(
    z.strictObject({ name: z.string(), in: z.string().optional(), question: z.string(), first: z.number().int() }),
  ),
  /** Kept before the last so many intakes came in, so that these are new to them. */
  standing: z.array(z.strictObject({ name: z.string(), question: z.string(), before: z.number().int().min(0) })),
});
export type ShelfStory = z.infer<typeof ShelfStory>;

const WHO = 'wren';

/** Keeps the questions whose time has come. @param left intakes that are still to come in */
export async function tellStanding(house: House, story: ShelfStory, left: number): Promise<void> {
  for (const { name, question, before } of story.standing)
    if (before === left) await keepQuestion(house, { name, question, tells: true }, WHO);
}

export async function tellShelf(house: House, { said, bundles }: ShelfStory): Promise<void> {
  for (const { question, first, ...judged } of said) {
    const itemIds = (await askedIds(house, question)).slice(0, first);
    if (itemIds.length) await judgeAcross(house, { itemIds, ...judged });
  }
  const made = new Map<string, number>();
  for (const { name, in: around, question, first } of bundles) {
    const { id } = await makeBundle(house, { name, parentId: made.get(around ?? '') ?? null, note: '' }, WHO);
    made.set(name, id);
    const itemIds = (await askedIds(house, question)).slice(0, first);
    if (itemIds.length) await fillBundle(house, id, { itemIds }, WHO);
  }
}
