import { faultOfBroader, foldText, wordText } from '@tally/core/words';
import { type House, Refusal } from '../../house/index.js';
import { broaderOf, insertWords, wordById, wordsNamed, writeBroader } from '../store/words.js';
import { refusedAt, type SheetLine } from './sheet-line.js';
import type { WordLine } from './word-sheets.js';
import { correctWord, holdList, say, wordsCalled } from './words.js';

const preferred = ({ labels }: WordLine): string[] => labels.filter((label) => label.preferred).map(({ text }) => text);
const nameOf = ({ labels }: WordLine): string => foldText(labels[0]!.text);

/**
 * Takes lines of a sheet of words in: what is new all at once, what is corrected one by one. What stands above something
 * and is no word yet becomes a free word. Call it in a transaction.
 * @throws Refusal that names the line: two words of one name, or one that would stand under itself.
 */
export async function takeWordLines(house: House, lines: readonly SheetLine<WordLine>[], who: string): Promise<void> {
  const tx = house.db;
  await holdList(tx);
  const known = await wordsNamed(
    tx,
    lines.flatMap(({ said }) => [...preferred(said), said.labels[0]!.text, ...(said.broader ?? [])]),
  );
  const isNew = ({ said, id }: SheetLine<WordLine>) => id === null && !known.has(nameOf(said));
  const fresh = lines.filter(isNew);
  const others = lines.filter((line) => !isNew(line));
  mustBeTold(fresh, known);
  const ids = await insertWords(
    tx,
    fresh.map(({ said }) => ({ labels: said.labels, broader: [], listed: true, note: said.note ?? '' })),
  );
  fresh.forEach(({ said }, at) => {
    for (const { text } of said.labels) if (!known.has(foldText(text))) known.set(foldText(text), ids[at]!);
  });
  const free = new Map(
    fresh
      .flatMap(({ said }) => said.broader ?? [])
      .filter((name) => foldText(name) !== '' && !known.has(foldText(name)))
      .map((name) => [foldText(name), name]),
  );
  const freeIds = await insertWords(
    tx,
    [...free.values()].map((text) => ({
      labels: [{ language: '', text, preferred: true }],
      ...{ broader: [], listed: false, note: '' },
    })),
  );
  [...free.keys()].forEach((folded, at) => known.set(folded, freeIds[at]!));
  await standUnder(house, fresh, ids, known);
  if (fresh.length) await say(tx, house, who, `Word list taken in: ${fresh.length} new.`, { ids });
  for (const { said, id, line } of others)
    await (id === null ? freed(house, known.get(nameOf(said))!, said, who) : correctLine(house, said, id, who)).catch(
      refusedAt(line),
    );
}

/** Two words that go by one name could not be told apart. */
function mustBeTold(fresh: readonly SheetLine<WordLine>[], known: ReadonlyMap<string, number>): void {
  const taken = new Set(known.keys());
  for (const { said, line } of fresh) {
    const clash = preferred(said)
      .map(foldText)
      .find((folded) => taken.has(folded) && folded !== '');
    if (clash !== undefined)
      refusedAt(line)(new Refusal('conflict', `“${clash}” is a word already: correct that one, or merge the two.`));
    for (const { text } of said.labels) taken.add(foldText(text));
  }
}

async function standUnder(
  { db }: House,
  fresh: readonly SheetLine<WordLine>[],
  ids: readonly number[],
  known: ReadonlyMap<string, number>,
): Promise<void> {
  const above = fresh.map(({ said }) => (said.broader ?? []).flatMap((name) => known.get(foldText(name)) ?? []));
  await writeBroader(
    db,
    above.flatMap((all, at) => all.map((broaderId) => ({ wordId: ids[at]!, broaderId }))),
  );
  const all = await broaderOf(db, ids);
  fresh.forEach(({ said, line }, at) => {
    if (faultOfBroader(ids[at]!, above[at]!, (of) => all.get(of) ?? []))
      refusedAt(line)(new Refusal('conflict', `${said.labels[0]!.text} would be broader than itself.`));
  });
}

/** A free word that is taken into the list. @throws Refusal when it is in the list already, as another name of a word. */
async function freed(house: House, id: number, line: WordLine, who: string): Promise<void> {
  const before = (await wordById(house.db, id))!;
  if (before.listed)
    throw new Refusal('conflict', `“${line.labels[0]!.text}” is another name of “${wordText(before)}”: correct that one.`);
  await correctLine(house, line, id, who);
}

async function correctLine(house: House, line: WordLine, id: number, who: string): Promise<void> {
  const broader = line.broader ? await wordsCalled(house.db, house, line.broader) : null;
  const before = (await wordById(house.db, id))!;
  const kept = broader ?? before.broader.map((one) => one.id);
  await correctWord(house, id, { labels: line.labels, broader: kept, listed: true, note: line.note ?? before.note }, who);
}
