import type { CorrectionAnswer, WordSaid, WordView } from '@tally/contract';
import { faultOfBroader, foldText, wordText } from '@tally/core/words';
import { quoted } from '@tally/core/logbook';
import { type Db, inTransaction } from '../../db/database.js';
import { holdUntilEnd } from '../../db/locks.js';
import { type House, record, Refusal, tell } from '../../house/index.js';
import { followItems } from '../following.js';
import { following } from '../store/following.js';
import {
  broaderOf,
  holdWord,
  insertWord,
  ITEMS_OF_WORD,
  mergeWord,
  retireWord,
  updateWord,
  usedNow,
  wordsNamed,
} from '../store/words.js';
import { mustBeSeen } from './lists.js';

/** The word list changes by one at a time: no two may make a circle of what means more than what. */
export const holdList = (tx: Db) => holdUntilEnd(tx, 'words', 'list');

export async function addWord(house: House, { revision: _revision, ...said }: WordSaid, who: string): Promise<number> {
  return inTransaction(house.db, async (tx) => {
    await holdList(tx);
    await namesAreFree(tx, said, null);
    const id = await insertWord(tx, said);
    await say(tx, house, who, `Word ${labelsInWords(said.labels)}.`, { id, said });
    return id;
  });
}

/** Corrects a word, its other names and what it stands under. @throws Refusal when it would stand under itself. */
export async function correctWord(house: House, id: number, said: WordSaid, who: string): Promise<CorrectionAnswer> {
  return inTransaction(house.db, async (tx) => {
    await holdList(tx);
    const before = await mustHold(tx, id);
    mustBeSeen(said.revision, { revision: before.revision, name: wordText(before) });
    await namesAreFree(tx, said, id);
    const above = await broaderOf(tx, said.broader);
    if (faultOfBroader(id, said.broader, (of) => above.get(of) ?? []))
      throw new Refusal('conflict', `${wordText(before)} would be broader than itself: it stands above one of these already.`);
    const { revision: _revision, ...rest } = said;
    await updateWord(tx, id, rest);
    const items = await followItems(tx, ITEMS_OF_WORD, [id], true);
    const text = `Word ${labelsInWords(before.labels)} is ${labelsInWords(said.labels)} now${said.listed && !before.listed ? ', in the list' : ''}${items ? ` (${items} items)` : ''}.`;
    await say(tx, house, who, text, { id, before, said: rest });
    return { id, items, following: await following(tx) };
  });
}

/** Retires a word (it is not offered any more; what has it keeps it) or puts it back. */
export async function retire(house: House, id: number, retired: boolean, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    const before = await mustHold(tx, id);
    await retireWord(tx, id, retired ? house.clock() : null);
    await say(tx, house, who, `Word ${wordText(before)} ${retired ? 'retired' : 'put back'}.`, { id });
  });
}

/** Makes two words one, everywhere: the names of the first are synonyms of the second from now on. */
export async function mergeWords(house: House, id: number, into: number, who: string): Promise<CorrectionAnswer> {
  if (id === into) throw new Refusal('conflict', 'These are one already: name two.');
  return inTransaction(house.db, async (tx) => {
    await holdList(tx);
    const [from, to] = [await mustHold(tx, id), await mustHold(tx, into)];
    const above = await broaderOf(tx, [into]);
    const items = await followItems(tx, ITEMS_OF_WORD, [id]);
    // What stands between the two would stand under itself.
    if (to.broader.some((one) => one.id !== id && faultOfBroader(id, [one.id], (of) => above.get(of) ?? [])))
      throw new Refusal('conflict', `${wordText(to)} stands under ${wordText(from)} by way of another word: part them first.`);
    await mergeWord(tx, id, into);
    await followItems(tx, ITEMS_OF_WORD, [into], true);
    const text = `Word ${labelsInWords(from.labels)} is ${wordText(to)} now${items ? ` (${items} items)` : ''}.`;
    await say(tx, house, who, text, { from, into });
    return { id: into, items, following: await following(tx) };
  });
}

/** Ids of words by their names; those that nobody knows become free words. Call it in a transaction. */
export async function wordsCalled(tx: Db, house: Pick<House, 'clock'>, names: readonly string[]): Promise<number[]> {
  if (!names.length) return [];
  await holdList(tx);
  const known = await wordsNamed(tx, names);
  for (const text of names) {
    const folded = foldText(text);
    if (folded === '' || known.has(folded)) continue;
    const labels = [{ language: '', text, preferred: true }];
    known.set(folded, await insertWord(tx, { labels, broader: [], listed: false, note: '' }));
  }
  const ids = [...new Set(names.flatMap((name) => known.get(foldText(name)) ?? []))];
  await usedNow(tx, ids, house.clock());
  return ids;
}

async function mustHold(tx: Db, id: number): Promise<WordView> {
  const word = await holdWord(tx, id);
  if (!word) throw new Refusal('not found', 'There is no such word.');
  return word;
}

/** Two words that go by one name could not be told apart. */
async function namesAreFree(tx: Db, { labels }: Pick<WordSaid, 'labels'>, id: number | null): Promise<void> {
  const preferred = labels.filter((label) => label.preferred).map(({ text }) => text);
  for (const [folded, other] of await wordsNamed(tx, preferred))
    if (other !== id) throw new Refusal('conflict', `“${folded}” is a word already: correct that one, or merge the two.`);
}

const labelsInWords = (labels: WordSaid['labels']) =>
  labels
    .map(({ text, language, preferred }) => `${quoted(text)}${language ? ` (${language})` : ''}${preferred ? '' : ' too'}`)
    .join(', ');

export async function say(tx: Db, house: House, who: string, text: string, data: unknown): Promise<void> {
  await record(tx, { at: house.clock(), kind: 'words', intakeId: null, who, text: text.slice(0, 2000), data });
  await tell(tx, { type: 'people' });
}
