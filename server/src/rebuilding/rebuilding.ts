import type { HouseRecord, RebuildReport } from '@tally/contract';
import { mustHold } from '@tally/core/copies';
import type { Difference } from '@tally/core/rebuild';
import { type Db, inTransaction, isOfData } from '../db/database.js';
import { listPlaces, meetPlaces, placesStanding, setMark, type StandingPlace } from '../driving/index.js';
import {
  areKnown,
  type House,
  houseId,
  isEmptyHouse,
  raiseNumbers,
  rebuildCards,
  rebuildingFrom,
  record,
  Refusal,
  setRebuilding,
  tell,
} from '../house/index.js';
import { rebuildHouseCredit, rebuildLists } from '../people/index.js';
import { askCheck } from '../tending/index.js';
import { rebuildRules } from '../rules/index.js';
import { rebuildClocks } from '../seeing/index.js';
import { type Header, headersOn, houseRecordsOn, keyOf, type ReadPlace } from './found.js';
import { type Common, takeIn } from './taking-in.js';

const AT_ONCE = 200;
/** So many differences are told one by one. */
const NAMED = 200;

/** What stands on drives of a house whose logbook is to be rebuilt. */
export interface OnDrives {
  readonly houseId: string;
  readonly houseName: string;
  readonly intakes: number;
  /** The last one, by its number. */
  readonly newest: string | null;
  readonly hasHouseRecord: boolean;
  /** Records of other houses, or of earlier lives: they stay, and are not taken in. */
  readonly others: number;
}

/**
 * What could be rebuilt from places: changes nothing. The house is the one whose mark they carry where it has records there,
 * else the one that wrote last. @throws Refusal when a place is not there, or no record stands on any
 */
export async function lookAtDrives(house: House, placeIds: readonly string[], signal: AbortSignal): Promise<OnDrives> {
  const places = await placesToRead(house, placeIds);
  const houses = new Map<string, { intakes: Set<string>; newest: string; last: string }>();
  for await (const header of headersOn(places, signal)) {
    if (header.houseId === null) continue;
    const known = houses.get(header.houseId) ?? { intakes: new Set(), newest: header.intake, last: '' };
    known.intakes.add(keyOf(header));
    if (header.intake > known.newest) known.newest = header.intake;
    if ((header.writtenAt ?? header.receivedAt) > known.last) known.last = header.writtenAt ?? header.receivedAt;
    houses.set(header.houseId, known);
  }
  const marked = places.flatMap(({ markOf }) => (markOf !== null && houses.has(markOf) ? [markOf] : []));
  const [newest] = [...houses].sort(([, a], [, b]) => (a.last < b.last ? 1 : -1));
  const id = marked[0] ?? newest?.[0];
  if (id === undefined)
    throw new Refusal(
      'not found',
      'No record of an intake stands there: name the places that were filed to, or add the files to the log as they stand (Drive page).',
    );
  const [lists] = await houseRecordsOn(places, id);
  const { intakes, newest: number } = houses.get(id)!;
  return {
    ...{ houseId: id, houseName: lists?.house ?? '', intakes: intakes.size, newest: number, hasHouseRecord: lists !== undefined },
    others: [...houses].reduce((sum, [other, { intakes: theirs }]) => (other === id ? sum : sum + theirs.size), 0),
  };
}

/**
 * From now on this house is the one that wrote these drives, and its logbook is rebuilt from them. What is begun is gone on
 * with by a sweep. @throws Refusal when the house holds anything, or a place is not there
 */
export async function beginRebuild(
  house: House,
  placeIds: readonly string[],
  who: string,
  signal: AbortSignal,
): Promise<OnDrives> {
  const places = await placesToRead(house, placeIds);
  const found = await lookAtDrives(house, placeIds, signal);
  const [lists] = await houseRecordsOn(places, found.houseId);
  const begun = inTransaction(house.db, async (tx) => {
    if ((await rebuildingFrom(tx)) !== null)
      throw new Refusal('conflict', 'The logbook is being rebuilt already: wait until it is done.');
    if (!(await isEmptyHouse(tx)))
      throw new Refusal(
        'conflict',
        'This house is not empty: it has intakes, contributors or assignments, and a logbook is rebuilt in a new one. Add what the log does not know on the Drive page instead.',
      );
    await setRebuilding(tx, placeIds, found.houseId);
    for (const { id, mark, isOurs } of places) if (!isOurs) await setMark(tx, id, mark);
    // With the id: from now on this house writes the house record there, and must know what that one says.
    if (lists) {
      await putLists(tx, lists);
      await rebuildHouseCredit(tx, lists);
    }
    const text = `The logbook is being rebuilt from ${places.map(({ name }) => name).join(' and ')}: ${found.intakes} intakes.`;
    await record(tx, { at: house.clock(), kind: 'rebuilt', intakeId: null, who, text });
    await tell(tx, { type: 'desk' });
  });
  await begun.catch((error: unknown) => {
    if (!isOfData(error)) throw error;
    const text =
      'The house record there holds what no logbook does: put it aside (house-record.json, and in .tally-second), and the lists are made of what the records name.';
    throw new Refusal('conflict', text);
  });
  return found;
}

async function putLists(tx: Db, lists: HouseRecord): Promise<void> {
  await rebuildLists(tx, lists);
  await rebuildRules(tx, lists.rules);
  await rebuildCards(tx, lists.cards);
  await rebuildClocks(tx, lists.clocks);
  await raiseNumbers(tx, lists.counters);
}

/**
 * Goes on with a rebuild that was begun, to its end; what was taken for whole by its size is read afterwards, all of it. Whoever
 * dies in between is followed by the next. @returns null: none was begun, or somebody else is at it
 * @throws Refusal when one of its places is away: it waits for that
 */
export async function goOnRebuilding(house: House, who: string, signal: AbortSignal): Promise<RebuildReport | null> {
  if ((await rebuildingFrom(house.db)) === null) return null;
  const report: { done: RebuildReport | null } = { done: null };
  await house.locks.hold('rebuilding', 0, signal, async (inner) => {
    const placeIds = await rebuildingFrom(house.db);
    if (placeIds === null) return;
    const places = await placesToRead(house, placeIds);
    report.done = await takeInUnknown(house, places, who, inner);
    await meetPlaces(house, inner);
    const { intakes, items, missing, refused, differences } = report.done;
    // Before it is over: whoever is killed in between asks again.
    for (const { id } of places) await askProof(house, id, who);
    await inTransaction(house.db, async (tx) => {
      await setRebuilding(tx, null);
      const text = `The logbook was rebuilt: ${intakes} intakes, ${items} files; ${missing} copies are not where their records say, ${differences.length} times places differ; ${refused.length} records could not be taken in.`;
      await record(tx, { at: house.clock(), kind: 'rebuilt', intakeId: null, who, text });
      await tell(tx, { type: 'desk' });
    });
  });
  return report.done;
}

/** Every byte of a place is read by the next check, unless one is going already. */
async function askProof(house: House, placeId: string, who: string): Promise<void> {
  await askCheck(house, placeId, { how: 'every byte', names: false, strict: false }, who).catch((error: unknown) => {
    if (!(error instanceof Refusal && error.kind === 'conflict')) throw error;
  });
}

/**
 * Takes in what stands on places with records of this house and the log does not know: after a backup was brought back, what was
 * filed since. Lists get what they lack of the house record.
 */
export async function takeInSince(house: House, who: string, signal: AbortSignal): Promise<RebuildReport> {
  const places = (await placesStanding(house)).filter(({ standing }) => standing.online);
  const report: { done: RebuildReport | null } = { done: null };
  await house.locks.hold('rebuilding', 0, signal, async (inner) => {
    const [lists] = await houseRecordsOn(places, await houseId(house.db));
    if (lists)
      await inTransaction(house.db, (tx) => putLists(tx, lists)).catch((error: unknown) => notForIt(house, 'lists', error));
    report.done = await takeInUnknown(house, places, who, inner);
  });
  if (!report.done)
    throw new Refusal('conflict', 'Somebody else takes in what stands on the drive just now: try again in a minute.');
  return report.done;
}

async function takeInUnknown(
  house: House,
  places: readonly ReadPlace[],
  who: string,
  signal: AbortSignal,
): Promise<RebuildReport> {
  const [lists] = await houseRecordsOn(places, await houseId(house.db));
  const told = lists ? await inTransaction(house.db, (tx) => rebuildRules(tx, lists.rules)) : null;
  const common: Common = { house, places, rules: told ?? new Map(), wanted: await wantedAt(house), who };
  const unknown = await unknownOn(house, places, signal);
  const report: RebuildReport = { intakes: 0, items: 0, out: 0, missing: 0, refused: [], differences: [] };
  const names = new Map(places.map(({ id, name }) => [id, name]));
  // In the order of their numbers: what one says is filed already was filed by one before it.
  for (const headers of unknown.sort(([a], [b]) => (a!.intake < b!.intake ? -1 : 1))) {
    signal.throwIfAborted();
    const { intake } = headers[0]!;
    const taken = await takeIn(common, headers, signal).catch((error: unknown) => notForIt(house, intake, error));
    if (!taken) {
      report.refused.push({ intake, why: 'its records cannot be read, or hold what no logbook does' });
      continue;
    }
    report.intakes++;
    report.items += taken.items;
    report.out += taken.out;
    report.missing += taken.missing;
    for (const one of taken.differences)
      if (report.differences.length < NAMED) report.differences.push(inWords(taken.number, one, names));
    await tell(house.db, { type: 'desk' });
  }
  return report;
}

/** Records of this house on places of intakes that the log does not know, by the intake. */
async function unknownOn(house: House, places: readonly ReadPlace[], signal: AbortSignal): Promise<Header[][]> {
  const id = await houseId(house.db);
  const unknown = new Map<string, Header[]>();
  let some: Header[] = [];
  const judge = async () => {
    const known = await areKnown(house.db, some);
    for (const [at, one] of some.entries()) {
      if (known[at] || (one.houseId !== id && one.houseId !== null)) continue;
      const key = keyOf(one);
      const headers = unknown.get(key);
      if (headers) headers.push(one);
      else unknown.set(key, [one]);
    }
    some = [];
  };
  for await (const header of headersOn(places, signal)) {
    some.push(header);
    if (some.length >= AT_ONCE) await judge();
  }
  await judge();
  return [...unknown.values()];
}

/** Is it the record's own fault? Then the others are taken in all the same. @throws what is not */
function notForIt(house: House, what: string, error: unknown): null {
  if (!isOfData(error)) throw error;
  house.log.warn({ what, error: String(error) }, 'a record cannot be taken in');
  return null;
}

const inWords = (intake: string, { placeId, folder, name, what }: Difference, names: ReadonlyMap<string, string>) => ({
  ...{ intake, place: names.get(placeId) ?? placeId, path: folder ? `${folder}/${name}` : name, what },
});

/** Places that must hold a file of a kind, filed for an assignment. */
async function wantedAt(house: House): Promise<Common['wanted']> {
  const places = (await listPlaces(house)).filter(({ known }) => known);
  return ({ kind }, slug) => places.flatMap(({ id, holds }) => (mustHold(holds, { kind, assignment: slug }) ? [id] : []));
}

interface PlaceToRead extends ReadPlace {
  /** Does its drive carry the mark that the log has of it? */
  readonly isOurs: boolean;
  /** Of which house that mark is; null: it is ours, or does not say. */
  readonly markOf: string | null;
}

/** @throws Refusal when one of them is not there, or two are one drive */
async function placesToRead(house: House, ids: readonly string[]): Promise<PlaceToRead[]> {
  const all = new Map((await placesStanding(house)).map((place) => [place.id, place]));
  const places = [...new Set(ids)].map((id) => {
    const place = all.get(id);
    if (!place) throw new Refusal('not found', `There is no place ${id}: ${[...all.keys()].join(', ')}.`);
    return toRead(place);
  });
  for (const [at, { mark, root, name }] of places.entries()) {
    const other = places.slice(0, at).find((one) => one.mark === mark);
    // A copy that is counted twice is none the second time.
    if (other)
      throw new Refusal(
        'conflict',
        `${root} of ${name} is the drive of ${other.name}: correct the paths of the two in the settings.`,
      );
  }
  return places;
}

function toRead({ id, name, root, mark: ours, standing }: StandingPlace): PlaceToRead {
  if (standing.online) return { id, name, root, mark: ours, isOurs: true, markOf: null };
  if (!standing.unknown) throw new Refusal('not possible now', `${name} is away: ${standing.problem}.`);
  const { mark } = standing.unknown;
  if (mark === null)
    throw new Refusal(
      'conflict',
      `${root} carries no mark of any house: is the drive mounted? If it is that drive, say so first: tally drive known ${id}.`,
    );
  return { id, name, root, mark: mark.mark, isOurs: false, markOf: mark.houseId };
}
