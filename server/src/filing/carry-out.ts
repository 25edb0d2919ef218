import {
  beginCopies,
  bodiesUsed,
  type CopyOf,
  copyStates,
  renamePromise,
  restCopies,
  unfinished,
  waitForPlace,
  type Unfinished,
  writeOutcomes,
} from './store/filed.js';
import { standsAt } from '../drive/card-identity.js';
import { inTransaction } from '../db/database.js';
import { stateOfFiling } from '@tally/core/copies';
import { formatBytes } from '@tally/core/logbook';
import { join } from 'node:path';
import { clearLeftOvers, temporaryName } from '../drive/final-name.js';
import type { Db } from '../db/database.js';
import { type BatchPlace, fileBatch } from './file-batch.js';
import { creditInside } from './credit-inside.js';
import { endFiling, heedHalt } from './halt.js';
import { inLanes } from './lanes.js';
import { Pace } from './pace.js';
import { abilitiesOf, listPlaces, placesStanding, placesThere } from '../driving/index.js';
import { haltOf, happens, type House, houseTime, intakeById, type IntakeRow, lockIntake, record, tell } from '../house/index.js';
import { rememberCamera } from '../people/index.js';
import { refreshTotals } from '../seeing/index.js';

/**
 * Carries out what filing promised: copies, proves, names, and writes down what came of it, batch by batch. Safe to be
 * killed at any moment and called again: it goes on with what does not tally yet and ends in the same state.
 * A person may let it pause (it stays in state filing) or stop (what is whole stays).
 * @throws AbortError when this process is told to stop; the intake then stays in state filing.
 */
export async function carryOut(house: House, intakeId: number, outer: AbortSignal): Promise<void> {
  const { db } = house;
  const { signal, done } = heedHalt(house, intakeId, outer);
  try {
    if ((await haltOf(db, intakeId)) === null) await fileAll(house, intakeId, signal);
  } catch (error) {
    if (outer.aborted || !signal.aborted) throw error;
  } finally {
    done();
  }
  if (outer.aborted) return;
  if ((await haltOf(db, intakeId)) === 'stop') await endFiling(house, intakeId);
  // What was under way when somebody said *pause* waits.
  else await restCopies(db, intakeId);
}

async function fileAll(house: House, intakeId: number, signal: AbortSignal): Promise<void> {
  const { db } = house;
  const intake = await intakeById(db, intakeId);
  if (intake?.state !== 'filing') return;
  const items = await unfinished(db, intakeId);
  if (!(await standsAt(intake.sourcePath, intake))) {
    await pulled(house, intakeId);
    return settle(house, intake, ['The card is not in the reader. Put it back and filing goes on by itself.']);
  }

  const { places, absent } = await openPlaces(house, items);
  await clearOwnLeftOvers(
    house,
    intakeId,
    items,
    places.filter(({ id }) => !absent.has(id)),
  );
  await beginCopies(db, intakeId);
  const pace = new Pace(db, intake, items, places.length);
  const lost = new Map<string, string>(absent);
  const card = { gone: false };
  const inside = await creditInside(house, intakeId);
  await inLanes(items, async (batch) => {
    signal.throwIfAborted();
    const working = places.filter((place) => !lost.has(place.id));
    if (!working.length) return false;
    const outcome = await house.turns(() =>
      fileBatch(batch, {
        ...{ from: 'card', files: house.files },
        intakeId,
        sourcePath: intake.sourcePath,
        sourceStands: () => standsAt(intake.sourcePath, intake),
        places: working,
        now: house.clock,
        signal,
        rename: (item, name) => renamePromise(db, item.filedItemId, item.folder, name),
        onBytes: (bytes) => pace.add(bytes),
        inside,
      }),
    );
    await writeOutcomes(db, outcome.copies, outcome.sources);
    for (const [placeId, problem] of outcome.lostPlaces) lost.set(placeId, problem);
    for (const text of outcome.events) await record(db, { at: house.clock(), kind: 'item', intakeId, who: null, text });
    await pace.batchDone(batch, outcome.copies);
    card.gone ||= outcome.cardGone || !(await standsAt(intake.sourcePath, intake));
    return !card.gone;
  });
  if (card.gone) await pulled(house, intakeId);
  const problems = await whyLost(house, intakeId, places, lost, absent);
  if (card.gone) problems.unshift('The card was pulled. Put it back and filing goes on by itself.');
  await settle(
    house,
    intake,
    problems,
    [...lost.keys()].map((id) => nameOf(places, id)),
  );
}

/** Why places have not got everything, in words; and that what waits for one that went away goes on when it is back. */
async function whyLost(
  house: House,
  intakeId: number,
  places: readonly BatchPlace[],
  lost: ReadonlyMap<string, string>,
  absent: ReadonlyMap<string, string>,
): Promise<string[]> {
  if (!lost.size) return [];
  const there = await placesThere(house);
  const problems: string[] = [];
  for (const [placeId, problem] of lost) {
    const name = nameOf(places, placeId);
    const wentAway = !absent.has(placeId) && !there.has(placeId);
    const words = wentAway
      ? `${name} went away at ${houseTime(house, house.clock()).slice(11, 16)}; filing goes on by itself when it is back.`
      : `${name}: ${problem}`;
    if (wentAway || absent.has(placeId))
      await waitForPlace(house.db, intakeId, placeId, `${name} ${wentAway ? 'went away' : problem}`);
    problems.push(words);
  }
  return problems;
}

const nameOf = (places: readonly BatchPlace[], id: string) => places.find((place) => place.id === id)?.name ?? id;

/** The places these items wait for, those that are there, and why the others are not. */
async function openPlaces(
  house: House,
  items: readonly Unfinished[],
): Promise<{ places: BatchPlace[]; absent: Map<string, string> }> {
  const wanted = new Set(items.flatMap((item) => item.waiting));
  const places: BatchPlace[] = [];
  const absent = new Map<string, string>();
  for (const place of await placesStanding(house)) {
    if (!wanted.has(place.id) || place.fill !== 'with the card') continue;
    if (place.standing.online) places.push({ ...place, ...(await abilitiesOf(place)) });
    else {
      places.push({ ...place, direct: false, links: true, remote: false });
      absent.set(place.id, place.standing.problem);
    }
  }
  return { places, absent };
}

async function clearOwnLeftOvers(
  house: House,
  intakeId: number,
  items: readonly Unfinished[],
  places: readonly BatchPlace[],
): Promise<void> {
  const folders = new Map<string, Map<string, string>>();
  for (const item of items) {
    const finals = folders.get(item.folder) ?? new Map<string, string>();
    if (item.bytes > 0) finals.set(temporaryName(intakeId, item.filedItemId), item.name);
    folders.set(item.folder, finals);
  }
  for (const place of places) {
    for (const [folder, finals] of folders) {
      // They are passed over by name and tried again with the next filing.
      await clearLeftOvers(join(place.root, folder), intakeId, finals, place.links).catch((error: unknown) =>
        house.log.warn({ intakeId, place: place.id, folder, error: String(error) }, 'left-over temporary files'),
      );
    }
  }
}

/**
 * Says what came of it: tallied, or what needs attention and why; the same as the last time is not told again.
 * @param lost names of places that failed as a whole: what they did with single items says nothing more
 */
export async function settle(
  house: House,
  intake: IntakeRow,
  problems: readonly string[],
  lost: readonly string[] = [],
): Promise<void> {
  const { db, clock } = house;
  await inTransaction(db, async (tx) => {
    await lockIntake(tx, intake.id);
    const copies = await copyStates(tx, intake.id);
    const state = stateOfFiling(copies.map((copy) => copy.state));
    const troubled = copies.filter((copy) => copy.state !== 'tallied');
    const waiting = troubled.length && !problems.length ? [`${troubled.length} copies do not tally.`] : [];
    const single = troubled.filter(({ problem }) => !lost.some((name) => problem?.startsWith(`${name} `)));
    const notes = [...problems, ...waiting, ...troubledItems(single)];
    const totals = await refreshTotals(tx, intake.id);
    // A wish to pause that was not seen in time is over with it.
    if (state === 'tallied') {
      await happens(tx, house, intake.id, { what: 'settled', whole: true }, { note: null });
      const filedBytes = [...new Map(copies.map(({ path, bytes }) => [path, bytes])).values()].reduce(
        (sum, bytes) => sum + bytes,
        0,
      );
      const text = `${totals.filed} items tally in ${await filedTo({ ...house, db: tx })} (${formatBytes(filedBytes)}).`;
      await record(tx, { at: clock(), kind: 'tallied', intakeId: intake.id, who: null, text });
      await rememberBodies(tx, intake);
    } else {
      const note = notes.slice(0, 6).join(' ');
      await happens(tx, house, intake.id, { what: 'settled', whole: false }, { note });
      if (note !== intake.note)
        await record(tx, { at: clock(), kind: 'attention', intakeId: intake.id, who: null, text: notes.join(' ') });
    }
    await tell(tx, { type: 'items', intakeId: intake.id });
    await tell(tx, { type: 'desk' });
  });
}

/** The places that a card is filed to, in words. */
async function filedTo(house: Pick<House, 'db' | 'settings'>): Promise<string> {
  const places = (await listPlaces(house)).filter(({ required, fill }) => required && fill === 'with the card');
  return places.map(({ name }) => name).join(' and ');
}

function troubledItems(copies: readonly CopyOf[]): string[] {
  const named = new Map<string, string>();
  for (const { path, problem } of copies) if (problem) named.set(path, problem);
  return [...named].slice(0, 20).map(([path, problem]) => `${path}: ${problem}.`);
}

/** Who used which body: an item's own contributor, else the slip's. */
async function rememberBodies(db: Db, intake: IntakeRow): Promise<void> {
  for (const { contributorId, ...body } of await bodiesUsed(db, intake.id, intake.contributor?.id ?? null))
    await rememberCamera(db, body, contributorId);
}

/** The card is not there any more. */
const pulled = (house: House, intakeId: number): Promise<unknown> =>
  inTransaction(house.db, (tx) => happens(tx, house, intakeId, { what: 'pulled' }));
