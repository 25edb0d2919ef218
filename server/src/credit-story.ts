import {
  AssignmentChange,
  ContributorChange,
  NewHabit,
  NewLocation,
  NewPictured,
  NewTerms,
  AgreementSaid,
} from '@tally/contract';
import { z } from 'zod';
import { inTransaction } from './db/database.js';
import { cardOfLabel, type House, intakesWhere } from './house/index.js';
import {
  addAgreement,
  addToList,
  addWord,
  assignmentBySlug,
  changeAssignment,
  changeContributor,
  contributorByCode,
  wordsCalled,
} from './people/index.js';
import { itemsOf } from './seeing/index.js';
import { changeCredit } from './slip/index.js';

/** The part of a story that says whose things are; names say what belongs together. */
export const CreditStory = z.strictObject({
  terms: z.array(NewTerms),
  locations: z.array(NewLocation),
  words: z.array(
    z
      .array(z.union([z.string(), z.array(z.string()), z.null()]))
      .min(1)
      .max(4),
  ),
  pictured: z.array(NewPictured),
  shown: z.array(z.strictObject({ label: z.string(), pictures: z.array(z.number().int()), name: z.string() })),
  about: z.record(z.string(), z.looseObject({ terms: z.string().optional() })),
  agreements: z.array(AgreementSaid.extend({ of: z.string() })),
  ofAssignments: z.record(z.string(), z.looseObject({ location: z.string().optional(), words: z.array(z.string()).default([]) })),
  habits: z.array(
    z.strictObject({
      name: z.string(),
      belongs: z.string(),
      of: z.string(),
      answers: z.strictObject({
        credit: z.string().optional(),
        copyright: z.string().optional(),
        terms: z.string().optional(),
        words: z.array(z.string()).optional(),
      }),
    }),
  ),
});
export type CreditStory = z.infer<typeof CreditStory>;

const WHO = 'replay';

/** Tells the house what it knows of its people, words and terms. */
export async function tellCredit(house: House, story: CreditStory): Promise<void> {
  const terms = new Map<string, number>();
  for (const one of story.terms) terms.set(one.name, await addToList(house, 'terms', one, WHO));
  const locations = new Map<string, number>();
  for (const one of story.locations) locations.set(one.name, await addToList(house, 'locations', one, WHO));
  for (const one of story.pictured) await addToList(house, 'pictured', one, WHO);
  await tellWords(house, story.words);
  for (const [code, { terms: name, ...more }] of Object.entries(story.about)) {
    const person = await contributorByCode(house.db, code);
    const termsId = name === undefined ? {} : { termsId: terms.get(name) };
    if (person) await changeContributor(house, person.id, ContributorChange.parse({ ...more, ...termsId }), WHO);
  }
  for (const { of, ...said } of story.agreements) {
    const person = await contributorByCode(house.db, of);
    if (person) await addAgreement(house, person.id, said, WHO);
  }
  for (const [slug, { location, ...more }] of Object.entries(story.ofAssignments)) {
    const assignment = await assignmentBySlug(house.db, slug);
    const locationId = location === undefined ? {} : { locationId: locations.get(location) };
    if (assignment) await changeAssignment(house, assignment.id, AssignmentChange.parse({ ...more, ...locationId }), WHO);
  }
  for (const { answers, belongs, of, name } of story.habits) {
    const wordIds = answers.words && (await inTransaction(house.db, (tx) => wordsCalled(tx, house, answers.words!)));
    const id =
      belongs === 'contributor'
        ? (await contributorByCode(house.db, of))?.id
        : belongs === 'assignment'
          ? (await assignmentBySlug(house.db, of))?.id
          : '';
    const said = {
      ...(answers.credit ? { creditLine: answers.credit } : {}),
      ...(answers.copyright ? { copyrightNotice: answers.copyright } : {}),
      ...(answers.terms ? { termsId: terms.get(answers.terms) } : {}),
      ...(wordIds ? { wordIds } : {}),
    };
    await addToList(house, 'habits', NewHabit.parse({ name, belongs, of: String(id ?? ''), answers: said }), WHO);
  }
}

async function tellWords(house: House, words: CreditStory['words']): Promise<void> {
  const ids = new Map<string, number>();
  for (const [text, broader, synonyms, portuguese] of words) {
    const labels = [
      { language: '', text: String(text), preferred: true },
      ...(Array.isArray(synonyms) ? synonyms : []).map((one) => ({ language: '', text: one, preferred: false })),
      ...(typeof portuguese === 'string' ? [{ language: 'pt', text: portuguese, preferred: true }] : []),
    ];
    const above = typeof broader === 'string' ? [ids.get(broader)!] : [];
    ids.set(String(text), await addWord(house, { labels, broader: above, listed: true, note: '' }, WHO));
  }
}

/** Says who is shown in some pictures of earlier cards. */
export async function tellShown(house: House, shown: CreditStory['shown']): Promise<void> {
  for (const { label, pictures, name } of shown) {
    const card = await cardOfLabel(house.db, label);
    const [intake] = card ? await intakesWhere(house.db, 'i.card_id = $1 order by i.id desc limit 1', [card.id]) : [];
    const items = intake ? (await itemsOf(house.db, intake.id)).filter(({ filedAs }) => filedAs !== null) : [];
    const itemIds = pictures.flatMap((at) => items[at]?.id ?? []);
    if (itemIds.length) await changeCredit(house, { itemIds, addPictured: [name] }, WHO);
  }
}
