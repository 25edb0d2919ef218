import { readFileSync } from 'node:fs';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { IntakeRecord, MovedRecord } from '@tally/contract';
import { MOVED_FILE } from '@tally/core/drive';
import { type Checksum, CHECKSUM_FILE, readChecksums, writeChecksums } from '@tally/core/manifest';
import { foldName } from '@tally/core/rule';
import { stands } from '../drive/final-name.js';
import { mustStillStand } from '../drive/place.js';
import { extendHistory, TOOL_NAME } from '../drive/hash-lists.js';
import { codeOf } from '../drive/list-card.js';
import { removeOwn } from '../drive/move-file.js';
import { isMovedText } from '../drive/records-beside.js';
import { readOwn, writeOwn } from '../drive/own-file.js';
import { movedAway } from '../filing/index.js';
import { inTransaction } from '../db/database.js';
import {
  type BesideDue,
  asideItems,
  doneWith,
  isDue,
  nextDue,
  recordedItems,
  type TalliedFile,
  talliedIn,
  tryLater,
} from './store.js';
import { recordedCredit } from '../slip/index.js';
import { bringUpToDate } from './credit-round.js';
import { type House, record, tell, theIntake } from '../house/index.js';
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
  return written.reduce((sum, one) => sum + (one.status === 'fulfilled' ? one.value : 0), 0);
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
  const problem = await explain(house, due, place, signal).catch((error: unknown) => {
    signal.throwIfAborted();
    return `${place.name}, ${due.folder || 'the root'}: ${codeOf(error)}`;
  });
  await inTransaction(house.db, async (tx) => {
    if (typeof problem === 'string') await tryLater(tx, due, problem, TRY_AGAIN_MINUTES);
    else await doneWith(tx, due);
    // Whoever was told that a place lags behind learns that it does not any more.
    await tell(tx, { type: 'written', intakeId: due.intakeId });
    const words = typeof problem === 'string' ? problem : problem.join('; ');
    if (!words || words === due.problem) return;
    const text = `Not everything could be written beside the files: ${words}.`;
    await record(tx, { at: house.clock(), kind: 'manifest', intakeId: due.intakeId, who: null, text });
  });
}

/** @returns what was left alone because it is not ours. */
async function explain(house: House, due: BesideDue, place: StandingPlace, signal: AbortSignal): Promise<string[]> {
  const path = join(place.root, due.folder);
  // What left a folder whole took with it what explained it: there is nothing to be said there any more.
  if (!(await stands(path))) {
    await mustStillStand(place);
    return [];
  }
  const abilities = await abilitiesOf(place);
  const { links } = abilities;
  // Where a file cannot be written, the lists still say what stands.
  const [credit] = await Promise.allSettled([bringUpToDate(house, due, { ...place, ...abilities }, signal)]);
  signal.throwIfAborted();
  const strangers = credit.status === 'fulfilled' ? [...credit.value] : [];
  const write = async (name: string, content: string, isOurs: (text: string) => boolean) => {
    const there = await readOwn(path, name);
    if (there === content) return;
    const mayWrite = there === null || isOurs(there);
    if (!mayWrite || !(await writeOwn(path, name, content, there !== null, links))) {
      strangers.push(`${place.name}: ${join(due.folder, name)} is not ours`);
    }
  };
  const files = await talliedIn(house.db, foldName(due.folder), place.id);
  const names = new Set(files.map(({ name }) => name));
  const known: Checksum[] = [...files];
  // What an earlier logbook wrote down stays, as long as the file is there.
  for (const entry of readChecksums((await readOwn(path, CHECKSUM_FILE)) ?? '') ?? [])
    if (!names.has(entry.name) && (await stands(join(path, entry.name)))) known.push(entry);
  await write(CHECKSUM_FILE, writeChecksums(known), (text) => readChecksums(text) !== null);
  const moved = await movedAway(house.db, foldName(due.folder));
  if (moved.length) await write(MOVED_FILE, movedText(due.folder, moved), isMovedText);
  else if (isMovedText((await readOwn(path, MOVED_FILE)) ?? '')) await removeOwn(place.root, join(due.folder, MOVED_FILE));
  const made = { createdAt: house.clock().toISOString(), hostname: hostname(), tool: TOOL };
  for (const problem of await extendHistory(path, made, files.map(hashedFile), links))
    strangers.push(`${place.name}, ${due.folder || 'the root'}: ${problem}`);
  const knows = await recordOf(house, due);
  await write(`intake-${knows.intake}.json`, `${JSON.stringify(knows, null, 2)}\n`, (text) => isRecordOf(text, knows.intake));
  if (credit.status === 'rejected') throw credit.reason;
  return strangers;
}

const hashedFile = ({ name, hash, bytes, modifiedAt, talliedAt }: TalliedFile) => ({
  ...{ path: name, bytes, modifiedAt: modifiedAt.toISOString(), hashedAt: talliedAt.toISOString(), hashes: { xxh128: hash } },
});

async function recordOf(house: House, due: BesideDue): Promise<IntakeRecord> {
  const { intakeId, folder } = due;
  const intake = await theIntake(house, intakeId);
  return IntakeRecord.parse({
    ...{ format: 'tally-stick-intake', version: 1, house: house.settings.house },
    ...{
      intake: intake.number,
      receivedAt: intake.receivedAt.toISOString(),
      receivedBy: intake.receivedBy,
      station: intake.station,
    },
    ...{ card: intake.card, contributor: intake.contributor, assignment: intake.assignment, rule: intake.ruleRevision },
    ...{
      folder,
      clearedAt: intake.clearedAt,
      aside: await asideItems(house.db, intakeId),
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
function movedText(folder: string, moved: Awaited<ReturnType<typeof movedAway>>): string {
  const files = moved.map(({ path, now, until, hash }) => ({
    ...{ name: folder ? path.slice(folder.length + 1) : path, to: now, until: until.toISOString(), xxh128: hash },
  }));
  return `${JSON.stringify(MovedRecord.parse({ format: 'tally-stick-moved', version: 1, folder, files }), null, 2)}\n`;
}

function isRecordOf(text: string, number: string): boolean {
  try {
    return IntakeRecord.parse(JSON.parse(text)).intake === number;
  } catch {
    return false;
  }
}
