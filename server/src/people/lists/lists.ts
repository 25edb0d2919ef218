import {
  type CorrectionAnswer,
  HabitView,
  type HouseListName,
  type HouseLists,
  LocationView,
  PicturedView,
  TermsView,
} from '@tally/contract';
import type { Belonging } from '@tally/core/credit';
import { type Db, inTransaction } from '../../db/database.js';
import { type House, record, Refusal, tell } from '../../house/index.js';
import { changesOf } from './changes.js';
import { followItems, refreshUnshown } from '../following.js';
import { followHouse, following } from '../store/following.js';
import { readHouseCredit } from '../store/house-credit.js';
import {
  entries,
  type Entry,
  entryNamed,
  holdEntry,
  insertEntry,
  itemsOfEntry,
  mergeEntry,
  missingOf,
  namesOfBelongings,
  shownCounts,
  updateEntry,
} from '../store/lists.js';

/** What an entry of each list is called, and its fields in the log. */
const NOUNS: Readonly<Record<HouseListName, string>> = {
  terms: 'Terms',
  locations: 'Location',
  pictured: 'Pictured person',
  habits: 'Habit',
};
const FIELD_WORDS: Readonly<Record<string, string>> = {
  ...{ name: 'name', stance: 'stance', sentence: 'sentence', web: 'address', until: 'last day', part: 'part', town: 'town' },
  ...{ region: 'region', country: 'country', lat: 'latitude', lon: 'longitude', reachM: 'reach in metres', consent: 'consent' },
  ...{ purpose: 'purpose', notes: 'notes', belongs: 'belonging', of: 'whose', answers: 'answers' },
};

type Said = Readonly<Record<string, unknown>> & {
  readonly name?: string;
  readonly retired?: boolean;
  readonly revision?: number;
};

const plain = ({ retiredAt, ...entry }: Entry) => ({ ...entry, retired: retiredAt !== null });

type Views = { readonly [L in HouseListName]: (rows: readonly ReturnType<typeof plain>[], db: Db) => Promise<HouseLists[L][]> };
const VIEWS: Views = {
  terms: (rows) => Promise.resolve(rows.map((row) => TermsView.parse(row))),
  locations: (rows) => Promise.resolve(rows.map((row) => LocationView.parse(row))),
  pictured: async (rows, db) => {
    const shown = await shownCounts(db);
    return rows.map((row) => PicturedView.parse({ ...row, items: shown.get(row.id) ?? 0 }));
  },
  habits: async (rows, db) => {
    const names = await namesOfBelongings(db);
    return rows.map((row) => {
      const habit = HabitView.parse({ ...row, ofName: '' });
      return { ...habit, ofName: names.get(`${habit.belongs} ${habit.of}`) ?? habit.of };
    });
  },
};

/** A list of the house, whole: such lists are short beside what is filed. */
export async function houseList<L extends HouseListName>(db: Db, list: L): Promise<HouseLists[L][]> {
  return VIEWS[list]((await entries(db, list)).map(plain), db);
}

export async function addToList(house: House, list: HouseListName, said: Said, who: string): Promise<number> {
  return inTransaction(house.db, async (tx) => {
    if (await entryNamed(tx, list, said.name!)) throw taken(list, said.name!);
    await mustStand(tx, said);
    const id = await insertEntry(tx, list, said);
    const text = `${NOUNS[list]} ${said.name}.`;
    await record(tx, { at: house.clock(), kind: kindOf(list, said), intakeId: null, who, text, data: { id, said } });
    await tell(tx, { type: 'people' });
    return id;
  });
}

/** Whether somebody may be shown is for whoever is answerable. */
const kindOf = (list: HouseListName, said: object): string => (list === 'pictured' && 'consent' in said ? 'consent' : list);

const taken = (list: HouseListName, name: string) =>
  new Refusal('conflict', `${NOUNS[list]} “${name}” is in the list already: correct that one, or merge the two.`);

/**
 * Corrects an entry, retires it or puts it back. What it was is kept in the log; the records beside the files follow.
 * @throws Refusal when somebody else corrected it since, or its name is taken.
 */
export async function correctInList(
  house: House,
  list: HouseListName,
  id: number,
  { retired, revision, ...said }: Said,
  who: string,
): Promise<CorrectionAnswer> {
  return inTransaction(house.db, async (tx) => {
    const before = await holdEntry(tx, list, id);
    if (!before) throw new Refusal('not found', `There is no such entry in the list of ${list}.`);
    mustBeSeen(revision, before);
    if (said.name !== undefined) {
      const other = await entryNamed(tx, list, said.name);
      if (other && other.id !== id) throw taken(list, said.name);
    }
    await mustStand(tx, said);
    const at = house.clock();
    const retiredAt = retired === undefined ? {} : { retiredAt: retired ? (before.retiredAt ?? at) : null };
    const corrected = await changesOf(tx, before, said, FIELD_WORDS);
    const changes = [
      ...corrected,
      ...(retired === true && !before.retiredAt ? ['retired'] : []),
      ...(retired === false && before.retiredAt ? ['put back'] : []),
    ];
    if (!changes.length) return { id, items: 0, following: 0 };
    await updateEntry(tx, list, id, { ...said, ...retiredAt, revision: before.revision + 1 });
    // Who is retired is offered no more; what was said stays as it is.
    const items = corrected.length ? await followItems(tx, itemsOfEntry(list), [id], list === 'pictured') : 0;
    if (list === 'pictured') await refreshUnshown(tx, itemsOfEntry(list), [id]);
    if (list === 'terms' && corrected.length && (await readHouseCredit(tx)).termsId === id) await followHouse(tx);
    const text = `${NOUNS[list]} ${before.name}: ${changes.join('; ')}${items ? ` (${items} items)` : ''}.`;
    await record(tx, { at, kind: kindOf(list, said), intakeId: null, who, text, data: { id, before: plain(before), said } });
    await tell(tx, { type: 'people' });
    return { id, items, following: await following(tx) };
  });
}

/** @throws Refusal when the answers of a habit, or whom it belongs to, are none of the house's. */
async function mustStand(tx: Db, { answers, belongs, of }: Said): Promise<void> {
  const missing = await missingOf(tx, answers ?? {}, belongs as Belonging | undefined, of as string | undefined);
  if (missing) throw new Refusal('not found', `There is no such ${missing}.`);
}

/** @throws Refusal when somebody else has corrected it since. */
export function mustBeSeen(revision: number | undefined, { revision: now, name }: { revision: number; name: string }): void {
  if (revision !== undefined && revision !== now)
    throw new Refusal('conflict', `Somebody else has just corrected ${name}. Look at it again, then say what you want.`);
}

/** Makes two entries one: whatever spoke of the first speaks of the second, and its name stays in the log. */
export async function mergeInList(
  house: House,
  list: HouseListName,
  id: number,
  into: number,
  who: string,
): Promise<CorrectionAnswer> {
  if (id === into) throw new Refusal('conflict', 'These are one already: name two.');
  return inTransaction(house.db, async (tx) => {
    // Always in one order: two who merge crosswise wait for each other.
    const held = new Map<number, Entry | null>();
    for (const one of [id, into].sort((a, b) => a - b)) held.set(one, await holdEntry(tx, list, one));
    const [from, to] = [held.get(id), held.get(into)];
    if (!from || !to) throw new Refusal('not found', `There is no such entry in the list of ${list}.`);
    const items = await followItems(tx, itemsOfEntry(list), [id]);
    if (list === 'terms' && (await readHouseCredit(tx)).termsId === id) await followHouse(tx);
    await mergeEntry(tx, list, id, into);
    if (list === 'pictured') await followItems(tx, itemsOfEntry(list), [into], true);
    if (list === 'pictured') await refreshUnshown(tx, itemsOfEntry(list), [into]);
    const text = `${NOUNS[list]} ${from.name} is ${to.name} now${items ? ` (${items} items)` : ''}.`;
    await record(tx, { at: house.clock(), kind: list, intakeId: null, who, text, data: { from: plain(from), into } });
    await tell(tx, { type: 'people' });
    return { id: into, items, following: await following(tx) };
  });
}
