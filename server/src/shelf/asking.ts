import {
  type FoundItem,
  type ListExport,
  type MadeOfAnswer,
  MOST_MEANT,
  type QuestionView,
  type ShareView,
  type ShelfPage,
  type ShelfQuery,
} from '@tally/contract';
import { mayBeUsed } from '@tally/core/credit';
import {
  answering,
  bytesOf,
  explainQuestion,
  faultOfQuestion,
  inOrder,
  madeOf,
  monthsOf,
  pageOf,
  pieceInWords,
  printPiece,
  printQuestion,
  type Question,
  readQuestion,
  type Share,
  type Shelf,
} from '@tally/core/find';
import { placesStanding } from '../driving/index.js';
import { type House, houseTime, Refusal } from '../house/index.js';
import { itemViewsById } from '../seeing/index.js';
import { type KnownNames, namesNow, shelfNow } from './kept-shelf.js';

type Of = Pick<House, 'db' | 'settings' | 'clock'>;

const todayOf = (house: Of) => houseTime(house, house.clock()).slice(0, 10);

/**
 * A question understood, with what is called how. @throws Refusal when it is too long.
 * @param blind asked by somebody who may not see persons: nothing is found by who is pictured, nor by the name of a minor
 */
export async function understood(house: Of, typed: string, blind = false): Promise<{ question: Question; view: QuestionView }> {
  const fault = faultOfQuestion(typed);
  if (fault !== null) throw new Refusal('conflict', fault);
  const names = blind ? withoutMinors(await namesNow(house)) : await namesNow(house);
  const question = readQuestion(typed, names, todayOf(house));
  // As a link it must be as short.
  const long = faultOfQuestion(printQuestion(question));
  if (long !== null) throw new Refusal('conflict', long);
  return {
    question,
    view: {
      text: printQuestion(question),
      sentence: explainQuestion(question, names),
      pieces: question.map((piece) => ({ text: printPiece(piece), words: pieceInWords(piece, names) })),
    },
  };
}

/** Minors are called by their codes. */
const withoutMinors = (names: KnownNames): KnownNames => ({
  ...names,
  contributors: names.contributors.map((one) => (one.minor ? { ...one, name: one.code } : one)),
});

/** What answered before, as long as nothing changed: whoever scrolls asks the same again and again. */
interface Remembered {
  readonly generation: number;
  readonly key: string;
  readonly slots: Int32Array;
}
const REMEMBERED = 12;
const remembered = new WeakMap<Shelf, Remembered[]>();

function remember(shelf: Shelf, key: string, find: () => Int32Array): Int32Array {
  const list = (remembered.get(shelf) ?? []).filter(({ generation }) => generation === shelf.generation);
  const known = list.find((one) => one.key === key);
  const slots = known?.slots ?? find();
  const rest = list.filter((one) => one.key !== key).slice(0, REMEMBERED - 1);
  remembered.set(shelf, [{ generation: shelf.generation, key, slots }, ...rest]);
  return slots;
}

/** Slots of what answers, newest first, and the shelf they are on. */
export async function answered(house: Of, question: Question, blind = false): Promise<{ shelf: Shelf; slots: Int32Array }> {
  const shelf = await shelfNow(house);
  const today = todayOf(house);
  const slots = remember(shelf, `${today} ${blind} ${printQuestion(question)}`, () => answering(shelf, question, today, blind));
  return { shelf, slots };
}

/** The same in the order of a list. A bundle that is asked for alone comes in its own order. */
async function ordered(
  house: Of,
  { question: typed, order, descending }: Pick<ShelfQuery, 'question' | 'order' | 'descending'>,
  blind: boolean,
) {
  const { question, view } = await understood(house, typed, blind);
  const { shelf, slots } = await answered(house, question, blind);
  const key = `${todayOf(house)} ${blind} ${order} ${descending} ${view.text}`;
  const sorted =
    order === 'taken' && descending
      ? ownOrder(shelf, question, slots)
      : remember(shelf, key, () => inOrder(shelf, slots, order, descending));
  return { shelf, slots: sorted, view };
}

function ownOrder(shelf: Shelf, question: Question, slots: Int32Array): Int32Array {
  const [piece] = question;
  if (question.length !== 1 || piece?.is !== 'bundle' || piece.not) return slots;
  const items = shelf.records.bundle.get(piece.id)?.items ?? [];
  const first = items.flatMap((id) => shelf.slotFor(id) ?? []);
  const own = new Set(first);
  return Int32Array.from([...first, ...[...slots].filter((slot) => !own.has(slot))]);
}

/** A page of the shelf. */
export async function shelfPage(house: House, query: ShelfQuery, blind = false): Promise<ShelfPage> {
  const { shelf, slots, view } = await ordered(house, query, blind);
  const page = query.count ? pageOf(shelf, slots, query.from, query.count) : slots.subarray(0, 0);
  const items = await foundItems(
    house,
    shelf,
    [...page].map((slot) => shelf.id.at[slot]!),
  );
  return { question: view, total: slots.length, bytes: bytesOf(shelf, slots), from: query.from, items };
}

/** Ids of everything that answers, in the order of the shelf. @throws Refusal when there are more than somebody can mean. */
export async function idsOf(house: Of, typed: string, most = MOST_MEANT): Promise<number[]> {
  const { question } = await understood(house, typed);
  const { shelf, slots } = await answered(house, question);
  if (slots.length > most)
    throw new Refusal('conflict', `${slots.length} items answer; this can be done with ${most} at once. Ask for fewer.`);
  return [...ownOrder(shelf, question, slots)].map((slot) => shelf.id.at[slot]!);
}

/** Items as the shelf shows them, in the order of their ids given; what is no more is left out. */
export async function foundItems(house: House, shelf: Shelf, ids: readonly number[]): Promise<FoundItem[]> {
  if (!ids.length) return [];
  const [views, places] = await Promise.all([itemViewsById(house, ids), placesStanding(house)]);
  const names = new Map(places.map(({ id, name }) => [id, name]));
  const there = new Set(places.flatMap(({ id, standing }) => (standing.online ? [id] : [])));
  const today = todayOf(house);
  const byId = new Map(views.map((view) => [view.id, view]));
  return ids.flatMap((id): FoundItem[] => {
    const [item, slot] = [byId.get(id), shelf.slotFor(id)];
    if (!item || slot === undefined) return [];
    const { records } = shelf;
    const intake = records.intake.get(shelf.intake.at[slot]!);
    const by = records.contributor.get(shelf.contributor.at[slot]!);
    const covered = records.assignment.get(shelf.assignment.at[slot]!);
    const tallied = item.copies.filter(({ state }) => state === 'tallied').map(({ place }) => place);
    const shown = shelf.picturedSets.sets[shelf.picturedSet.at[slot]!]!.flatMap((one) => records.pictured.get(one) ?? []);
    return [
      {
        ...item,
        contributor: by ? { id: by.id, code: by.code, name: by.name } : null,
        assignment: covered ? { id: covered.id, slug: covered.slug, title: covered.title } : null,
        intake: { id: shelf.intake.at[slot]!, number: intake?.number ?? '', card: intake?.label ?? '' },
        object: shelf.object.at[slot]!,
        camera: shelf.cameras.texts[shelf.camera.at[slot]!]!,
        filedOn: new Date(shelf.filedDay.at[slot]! * 86_400_000).toISOString().slice(0, 10),
        location: records.location.get(shelf.location.at[slot]!)?.name ?? null,
        words: wordsAt(shelf, slot),
        terms: mayBeUsed(records.terms.get(shelf.terms.at[slot]!) ?? null, covered?.embargoUntil ?? null, shown, today),
        away: tallied.some((place) => there.has(place)) ? null : tallied.map((place) => names.get(place) ?? place),
      },
    ];
  });
}

/** Names of all words of an item, its own and those of slip and assignment. */
function wordsAt(shelf: Shelf, slot: number): string[] {
  const { records, wordSets } = shelf;
  const not = new Set(wordSets.sets[shelf.notWordSet.at[slot]!]);
  const said = [
    ...(records.intake.get(shelf.intake.at[slot]!)?.words ?? []),
    ...(records.assignment.get(shelf.assignment.at[slot]!)?.words ?? []),
  ].filter((id) => !not.has(id));
  const ids = new Set([...wordSets.sets[shelf.ownWordSet.at[slot]!]!, ...said]);
  return [...ids].flatMap((id) => records.word.get(id)?.names[0] ?? []).sort();
}

/** What an answer is made of, each line with the question that narrows to it. */
export async function whatItIsMadeOf(house: Of, typed: string, blind = false): Promise<MadeOfAnswer> {
  const { question } = await understood(house, typed, blind);
  const { shelf, slots } = await answered(house, question, blind);
  const made = madeOf(shelf, slots);
  const views = (list: readonly Share[]): ShareView[] =>
    list.map(({ words, piece, items }) => ({ words, items, text: printPiece(piece) }));
  return {
    total: slots.length,
    contributors: views(made.contributors),
    assignments: views(made.assignments),
    years: views(made.years),
    kinds: views(made.kinds),
    cameras: views(made.cameras),
    terms: views(made.terms),
    verdicts: views(made.verdicts),
    months: monthsOf(shelf, slots),
  };
}

/** Everything that answers, some hundred at a time, for whoever writes a list of it. */
export async function* everyFound(
  house: House,
  query: Omit<ListExport, 'columns'>,
): AsyncGenerator<FoundItem[], void, undefined> {
  const { shelf, slots } = await ordered(house, query, false);
  const ids = [...slots].map((slot) => shelf.id.at[slot]!);
  for (let at = 0; at < ids.length; at += 500) yield foundItems(house, shelf, ids.slice(at, at + 500));
}
