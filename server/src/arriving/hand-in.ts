import { AssignmentQuery, type HandInChoices, type HandInStart, type HandInView } from '@tally/contract';
import { createHash } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { mkdir, open, readdir, rename, rm, utimes } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { mendName } from '@tally/core/rule';
import { hashFile } from '../drive/hashing.js';
import { isFolder } from '../drive/list-card.js';
import { inTransaction } from '../db/database.js';
import {
  addHandIn,
  closeHandIn,
  deleteHandIn,
  handInById,
  handedInBy,
  handInFile,
  type HandInFileRow,
  handInLike,
  type HandInRow,
  handInView,
  overHandIns,
  setHandInFile,
  setHandInIntake,
  unfinishedHandIns,
} from './store/hand-ins.js';
import { freeWhereFilesArrive, roomFor, withinBounds } from './hand-in-bounds.js';
import { receiveCard } from './receive.js';
import { type House, houseTime, lockIntake, record, Refusal, setNote, setSlip, theIntake } from '../house/index.js';
import { boundsOf } from '../door/index.js';
import { assignmentPage, listContributors, mustExist, nameOf } from '../people/index.js';
import { filedByIdentity, refreshTotals } from '../seeing/index.js';
import { UNKNOWN_NOTE } from '../slip/index.js';

interface Who {
  readonly id: number;
  readonly name: string;
}

/** Where files lie while they arrive, and where whole hand-ins lie: read like any card. */
export const arrivingFolder = (dataDir: string): string => join(dataDir, 'arriving');
export const handedInFolder = (dataDir: string): string => join(dataDir, 'handed-in');

/** Where the parts of files lie that are being sent. */
export function openPartsFolder(dataDir: string): string {
  const folder = join(arrivingFolder(dataDir), 'parts');
  mkdirSync(folder, { recursive: true });
  return folder;
}

/** Other uploads of a file that has arrived: nobody goes on with them. */
export async function forgetParts(dataDir: string, id: number, position: number): Promise<void> {
  const folder = openPartsFolder(dataDir);
  const others = (await readdir(folder)).filter((name) => name.startsWith(`${id}-${position}-`));
  for (const name of others) await rm(join(folder, name), { force: true });
}

/** How many uploads are open whose names begin like this. */
export async function openParts(dataDir: string, beginning: string): Promise<number> {
  const names = await readdir(openPartsFolder(dataDir));
  return names.filter((name) => name.startsWith(beginning) && !name.endsWith('.json')).length;
}

/** What somebody who hands in can choose from: names only. */
export async function handInChoices(house: House, personId: number): Promise<HandInChoices> {
  const [contributors, { assignments }, bounds] = await Promise.all([
    listContributors(house.db, houseTime(house, house.clock()).slice(0, 10)),
    assignmentPage(house.db, AssignmentQuery.parse({ retired: 'false', limit: 60 })),
    boundsOf(house.db, personId),
  ]);
  const { until, contributorId, assignmentId } = bounds;
  const kind = bounds.ofKind?.toLowerCase();
  const offered = contributors.filter(
    (one) => !one.retired && one.id === (contributorId ?? one.id) && (kind === undefined || one.kind.toLowerCase() === kind),
  );
  const bound = assignmentId === null ? null : await nameOf(house.db, 'assignment', assignmentId);
  return {
    house: house.settings.house,
    zone: house.settings.zone,
    contributors: toldApart(offered),
    assignments: bound === null ? assignments.map(({ id, title, from, to }) => ({ id, title, from, to })) : [],
    bound: {
      contributorId,
      assignment: bound === null ? null : { id: assignmentId!, title: bound },
      ofKind: bounds.ofKind,
      quotaBytes: bounds.quotaBytes,
      quotaFiles: bounds.quotaFiles,
      ...(await handedInBy(house.db, personId)),
    },
    until: until?.toISOString() ?? null,
  };
}

/** Two of one name are told apart by their codes. */
function toldApart(all: readonly { id: number; name: string; code: string }[]): HandInChoices['contributors'] {
  const times = new Map<string, number>();
  for (const { name } of all) times.set(name, (times.get(name) ?? 0) + 1);
  return all.map(({ id, name, code }) => ({ id, name: times.get(name)! > 1 ? `${name} (${code})` : name }));
}

/**
 * Begins to take in a card through a browser, or goes on with it when the same files are chosen again. Says which files
 * stand on the drive already: those need not be sent.
 */
export async function beginHandIn(house: House, said: HandInStart, who: Who): Promise<HandInView> {
  const { db } = house;
  const start = await withinBounds(db, said, await boundsOf(db, who.id));
  const free = await freeWhereFilesArrive(house);
  const lines = start.files.map((file) => `${file.path}\0${file.bytes}\0${file.quickHash}`).sort();
  const listing = createHash('sha256')
    .update(JSON.stringify([start.contributorId, start.saysName, start.assignmentId, lines]))
    .digest();
  const id = await inTransaction(db, async (tx) => {
    await mustExist(tx, 'contributor', start.contributorId);
    await mustExist(tx, 'assignment', start.assignmentId);
    const before = await handInLike(tx, who.id, listing);
    if (before !== null) return before;
    const identities = start.files.map(({ bytes, quickHash }) => ({ bytes, quickHash: Buffer.from(quickHash, 'hex') }));
    const known = new Set((await filedByIdentity(tx, identities)).map((one) => `${one.bytes} ${one.quickHash.toString('hex')}`));
    const filed = new Set(start.files.flatMap((file, i) => (known.has(`${file.bytes} ${file.quickHash}`) ? [i] : [])));
    const wanted = wantedOf(start, filed);
    await roomFor(tx, who.id, wanted, free);
    return addHandIn(tx, { ...start, personId: who.id, listing, begunAt: house.clock(), wanted }, filed);
  });
  return handInView(db, id);
}

function wantedOf({ files }: HandInStart, filed: ReadonlySet<number>): { files: number; bytes: number } {
  const wanted = files.filter((_, position) => !filed.has(position));
  return { files: wanted.length, bytes: wanted.reduce((sum, { bytes }) => sum + bytes, 0) };
}

/** A hand-in that is this person's. @throws Refusal for anybody else's, as if there were none. */
export async function theirHandIn(house: House, id: number, personId: number): Promise<HandInRow> {
  const handIn = await handInById(house.db, id);
  if (handIn?.personId !== personId) throw new Refusal('not found', 'There is no such hand-in.');
  return handIn;
}

/** A file that is still to be sent. @throws Refusal when it is not. */
export async function wantedFile(house: House, id: number, position: number, personId: number): Promise<HandInFileRow> {
  const handIn = await theirHandIn(house, id, personId);
  const file = await handInFile(house.db, id, position);
  if (!file) throw new Refusal('not found', 'There is no such file in this hand-in.');
  if (handIn.done || file.state !== 'wanted') throw new Refusal('conflict', `${file.path} has arrived already.`);
  return file;
}

/**
 * A file has been sent whole: flushes it, reads it back, compares it with what the browser read from the card, and only
 * then counts it as arrived.
 * @param hash XXH128 of the bytes in the browser. @returns false when the bytes are not the same; then it stays wanted.
 */
export async function fileArrived(house: House, id: number, position: number, stored: string, hash: string): Promise<boolean> {
  const { db, settings } = house;
  const file = (await handInFile(db, id, position))!;
  const handIn = await handInById(db, id);
  // Sent twice at once: the other one was quicker. What was handed in is not touched again.
  if (file.state !== 'wanted' || handIn?.done !== false) {
    await rm(stored, { force: true });
    return true;
  }
  const handle = await open(stored, 'r+');
  await handle.sync();
  await handle.close();
  if ((await hashFile(stored)).toString('hex') !== hash) {
    await rm(stored, { force: true });
    await setHandInFile(db, id, position, 'wanted', 'what arrived was not what was sent: it is sent again');
    return false;
  }
  const target = join(arrivingFolder(settings.dataDir), handIn.folder, file.path);
  await mkdir(dirname(target), { recursive: true });
  await rename(stored, target);
  await utimes(target, file.modifiedAt, file.modifiedAt);
  await setHandInFile(db, id, position, 'arrived', null);
  return true;
}

/**
 * Everything is there: from now on it is an intake like any other, on the coordinator's desk.
 * @param withoutMissing hands in what arrived, though some did not.
 */
export async function finishHandIn(house: House, id: number, withoutMissing: boolean, who: Who): Promise<HandInView> {
  const { db } = house;
  const handIn = await theirHandIn(house, id, who.id);
  const { files } = await handInView(db, id);
  const count = (state: string) => files.filter((file) => file.state === state).length;
  if (count('wanted') > 0 && !withoutMissing)
    throw new Refusal('conflict', `${count('wanted')} of ${files.length} files have not arrived yet.`);
  // Closed first, moved then, received then: each step is found again by a sweep when somebody is killed between two.
  const closed = await inTransaction(db, (tx) => closeHandIn(tx, id));
  if (closed && count('arrived') > 0) await takeIn(house, handIn, who.name);
  return handInView(db, id);
}

/** Moves a closed hand-in to where it is read like any card, and opens its intake. Called again, it goes on. */
async function takeIn(house: House, handIn: HandInRow, who: string): Promise<void> {
  const { db, settings, clock } = house;
  const { id } = handIn;
  const folder = join(handedInFolder(settings.dataDir), `${mendName(handIn.name)} ${handIn.folder}`);
  await moveFolder(join(arrivingFolder(settings.dataDir), handIn.folder), folder);
  const intakeId = await receiveCard(house, folder, who);
  const { files } = await handInView(db, id);
  const count = (state: string) => files.filter((file) => file.state === state).length;
  await inTransaction(db, async (tx) => {
    await lockIntake(tx, intakeId);
    if (!(await setHandInIntake(tx, id, intakeId))) return;
    if (handIn.contributorId === null)
      await setNote(tx, intakeId, `${UNKNOWN_NOTE}${handIn.saysName}”, whom the list does not know: say who it is.`);
    if ((await theIntake({ db: tx }, intakeId)).state === 'open')
      await setSlip(tx, intakeId, { contributorId: handIn.contributorId, assignmentId: handIn.assignmentId });
    await refreshTotals(tx, intakeId);
    const rest = [
      count('filed') ? `${count('filed')} were on the drive already` : '',
      count('wanted') ? `${count('wanted')} did not arrive` : '',
    ];
    const text = [`Handed in through the browser: ${count('arrived')} of ${files.length} files`, ...rest]
      .filter(Boolean)
      .join(', ');
    await record(tx, { at: clock(), kind: 'handed in', intakeId, who, text: `${text}.` });
  });
}

/** Hand-ins that were closed and have no intake yet: whoever took them in was killed. */
export async function finishHandIns(house: House): Promise<void> {
  for (const { who, ...handIn } of await unfinishedHandIns(house.db)) {
    const here = join(arrivingFolder(house.settings.dataDir), handIn.folder);
    const there = join(handedInFolder(house.settings.dataDir), `${mendName(handIn.name)} ${handIn.folder}`);
    // Its files may lie at another server.
    if ((await isFolder(here)) || (await isFolder(there))) await takeIn(house, handIn, who);
  }
}

/** Moves a folder; one that a crash left moved already is as good. */
async function moveFolder(from: string, to: string): Promise<void> {
  await mkdir(dirname(to), { recursive: true });
  await rename(from, to).catch(async (error: unknown) => {
    if (!(await isFolder(to))) throw error;
  });
}

/**
 * Hand-ins whose days are over are forgotten: of those that were taken in what was said and listed, of those that nobody
 * went on with the files that arrived, too. @returns how many
 */
export async function forgetHandIns(house: House): Promise<number> {
  const { db, settings, clock } = house;
  const ago = (days: number) => new Date(clock().getTime() - days * 86_400_000);
  const over = await overHandIns(db, ago(settings.keep.handInDays), ago(settings.keep.unfinishedDays));
  for (const { id, folder, done } of over) {
    // What was taken in lies elsewhere, and is an intake's.
    if (!done) await rm(join(arrivingFolder(settings.dataDir), folder), { recursive: true, force: true });
    await deleteHandIn(db, id);
  }
  const text = `${over.length} hand-ins whose days were over were forgotten.`;
  if (over.length) await record(db, { at: clock(), kind: 'retention', intakeId: null, who: null, text });
  return over.length;
}
