import { readFileSync } from 'node:fs';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { IntakeRecord, type MovedRecord } from '@tally/contract';
import { foldName } from '@tally/core/rule';
import { stands } from '../drive/final-name.js';
import { mustStillStand } from '../drive/place.js';
import { TOOL_NAME } from '../drive/hash-lists.js';
import { codeOf } from '../drive/list-card.js';
import { movedAway } from '../filing/index.js';
import { inTransaction } from '../db/database.js';
import { type BesideDue, doneWith, isDue, nextDue, tryLater } from './store.js';
import { forgetWritten, keepWritten, writtenIn } from './store/beside-written.js';
import { asideItems, leftItems, recordedEvents, recordedIntake, recordedItems, talliedIn } from './store/recorded.js';
import type { RecordOf } from '../drive/records-beside.js';
import { Explaining } from './explaining.js';
import { recordedCredit } from '../slip/index.js';
import { bringUpToDate } from './credit-round.js';
import { writeHouseRecordSoon } from './house-record.js';
import { type House, houseId, record, tell, theIntake } from '../house/index.js';
import { abilitiesOf, placesStanding, type StandingPlace } from '../driving/index.js';

const TRY_AGAIN_MINUTES = 5;
const packageFile = new URL('../../../package.json', import.meta.url);
const TOOL = { name: TOOL_NAME, version: (JSON.parse(readFileSync(packageFile, 'utf8')) as { version: string }).version };

/**
 * Brings the credit in and beside filed files up to date and writes what explains them without this program, wherever
 * that is due: a checksum list and a hash list of the folder, and a record of what the logbook knows of each intake in it. What is due is kept in the database by triggers,
 * so that a kill, a place that was away, and a word said later are all caught up with. Files of strangers under those
 * names are left alone and logged; what fails is tried again later; the filed files themselves are safe by then.
 * @returns how many folders were written.
 */
export async function writeManifests(house: House, signal: AbortSignal = NEVER): Promise<number> {
  const here = (await placesStanding(house)).filter(({ standing }) => standing.online);
  // Each place at its own pace: one behind a slow line keeps no other waiting.
  const written = await Promise.allSettled(here.map((place) => writeAt(house, place, signal)));
  for (const one of written) if (one.status === 'rejected') throw one.reason;
  const folders = written.reduce((sum, one) => sum + (one.status === 'fulfilled' ? one.value : 0), 0);
  // The records name people, assignments and words: what those are stands at the place, too.
  if (folders) await writeHouseRecordSoon(house, signal);
  return folders;
}

async function writeAt(house: House, place: StandingPlace, signal: AbortSignal): Promise<number> {
  // Where somebody else writes just now, it is written by them, or in the next round.
  const passed: BesideDue[] = [];
  for (let written = 0; !signal.aborted;) {
    const due = await nextDue(house.db, [place.id], passed, house.settings.besideAdopted !== 'nothing');
    if (!due) return written;
    // Two intakes that end in one folder write one after the other, each with all that tallies by then; and what is written to
    // gets no other name meanwhile. What was given one while this waited is looked up anew.
    const held = await house.locks.holdInTurn('place', place.id, signal, async (inner) => {
      if (await isDue(house.db, due)) await writeDue(house, due, place, inner);
    });
    if (held) written++;
    else passed.push(due);
  }
  return 0;
}

const NEVER = new AbortController().signal;

/** Brings the files of a folder up to date, writes what explains them, and says so; or why not. */
async function writeDue(house: House, due: BesideDue, place: StandingPlace, signal: AbortSignal): Promise<void> {
  const explained = await explain(house, due, place, signal).catch((error: unknown) => {
    signal.throwIfAborted();
    return `${place.name}, ${due.folder || 'the root'}: ${codeOf(error)}`;
  });
  await inTransaction(house.db, async (tx) => {
    if (typeof explained === 'string') await tryLater(tx, due, explained, TRY_AGAIN_MINUTES);
    else {
      // In one transaction with being due no more: nobody compares with what was not said to be written.
      if (explained.isGone) await forgetWritten(tx, due.placeId, due.folder);
      else await keepWritten(tx, due, explained.written, explained.gone);
      await doneWith(tx, due);
    }
    // Whoever was told that a place lags behind learns that it does not any more.
    await tell(tx, { type: 'written', intakeId: due.intakeId });
    if (typeof explained !== 'string' && explained.notes.length) {
      const text = `${explained.notes.join('; ')}.`;
      await record(tx, { at: house.clock(), kind: 'manifest', intakeId: due.intakeId, who: null, text });
    }
    const words = typeof explained === 'string' ? explained : explained.strangers.join('; ');
    if (!words || words === due.problem) return;
    const text = `Not everything could be written beside the files: ${words}.`;
    await record(tx, { at: house.clock(), kind: 'manifest', intakeId: due.intakeId, who: null, text });
  });
}

/** What was left alone because it is not ours, in words, and what of it is to be kept in mind. */
type Explained = Pick<Explaining, 'strangers' | 'notes' | 'written' | 'gone'> & { readonly isGone?: boolean };

async function explain(house: House, due: BesideDue, place: StandingPlace, signal: AbortSignal): Promise<Explained> {
  const { folder } = due;
  // What left a folder whole took with it what explained it: there is nothing to be said there any more.
  if (!(await stands(join(place.root, folder)))) {
    await mustStillStand(place);
    return { strangers: [], notes: [], written: [], gone: [], isGone: true };
  }
  const abilities = await abilitiesOf(place);
  // Where a file cannot be written, the lists still say what stands.
  const [credit] = await Promise.allSettled([bringUpToDate(house, due, { ...place, ...abilities }, signal)]);
  signal.throwIfAborted();
  const where = { root: place.root, folder, links: abilities.links };
  const explaining = new Explaining(where, await writtenIn(house.db, place.id, [folder]));
  const of = await whoseRecord(house, due.intakeId);
  const record = await recordOf(house, due, of);
  // The record first: the list names it.
  await explaining.record(of, record.items.length ? record : null, house.clock());
  const moved = await movedAway(house.db, foldName(folder));
  await explaining.movedAway(of.houseId, moved.length ? movedFiles(folder, moved) : null);
  const files = await talliedIn(house.db, foldName(folder), place.id);
  await explaining.checksums(files);
  await explaining.history({ createdAt: house.clock().toISOString(), hostname: hostname(), tool: TOOL }, files);
  if (credit.status === 'rejected') {
    await inTransaction(house.db, (tx) => keepWritten(tx, due, explaining.written, explaining.gone));
    throw credit.reason;
  }
  const strangers = [...credit.value, ...explaining.strangers.map((words) => `${place.name}: ${words}`)];
  return {
    strangers,
    notes: explaining.notes.map((words) => `${place.name}: ${words}`),
    written: explaining.written,
    gone: explaining.gone,
  };
}

async function whoseRecord(house: House, id: number): Promise<RecordOf> {
  const { uid, number, receivedAt, station } = await theIntake(house, id);
  return { houseId: await houseId(house.db), intakeId: uid, number, receivedAt, station };
}

async function recordOf(house: House, due: BesideDue, { houseId: ours, intakeId: uid }: RecordOf): Promise<IntakeRecord> {
  const { intakeId, folder } = due;
  const intake = await theIntake(house, intakeId);
  return IntakeRecord.parse({
    ...{ format: 'tally-stick-intake', version: 3, house: house.settings.house },
    ...{
      ...{ intake: intake.number, houseId: ours, intakeId: uid },
      receivedAt: intake.receivedAt.toISOString(),
      receivedBy: intake.receivedBy,
      station: intake.station,
    },
    ...{ card: intake.card, contributor: intake.contributor, assignment: intake.assignment, rule: intake.ruleRevision },
    ...{
      folder,
      clearedAt: intake.clearedAt,
      ...(await recordedIntake(house.db, intakeId)),
      aside: await asideItems(house.db, intakeId),
      left: await leftItems(house.db, intakeId),
      events: await recordedEvents(house.db, intakeId),
      items: await creditedItems(house, due),
    },
  });
}

async function creditedItems(house: House, { intakeId, folder, placeId }: BesideDue): Promise<IntakeRecord['items']> {
  const items = await recordedItems(house.db, intakeId, folder, placeId);
  const credits = await recordedCredit(house, intakeId);
  return items.map(({ itemId, ...item }) => ({ ...item, credit: credits(itemId) }));
}

/** What stood in a folder once and where it went: what is printed or listed under the old name still leads somewhere. */
function movedFiles(folder: string, moved: Awaited<ReturnType<typeof movedAway>>): MovedRecord['files'] {
  return moved.map(({ path, now, until, hash }) => ({
    ...{ name: folder ? path.slice(folder.length + 1) : path, to: now, until: until.toISOString(), xxh128: hash },
  }));
}
