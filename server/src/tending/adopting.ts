import type { AdoptAsk } from '@tally/contract';
import { mustHold } from '@tally/core/copies';
import { captureTime } from '@tally/core/capture';
import { kindOf } from '@tally/core/card';
import type { NameReader } from '@tally/core/drive';
import { foldName, pathIn, proposeSlug } from '@tally/core/rule';
import { formatBytes } from '@tally/core/logbook';
import pLimit from 'p-limit';
import { basename, join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { inTransaction } from '../db/database.js';
import type { AdoptedFolder } from '../db/entities/tending.js';
import { hashFile } from '../drive/hashing.js';
import { sizeAndTime } from '../drive/move-file.js';
import { placesStanding } from '../driving/index.js';
import { type AdoptedFile, adoptFiled, keepingNow } from '../filing/index.js';
import { adopts, anybodyFiling, happens, type House, lockIntake, record, Refusal, setSlip, tell } from '../house/index.js';
import { assignmentsOf, makeAssignment, mustExist } from '../people/index.js';
import { folderDue } from '../proving/index.js';
import {
  addItems,
  correctFiled,
  type ListedItem,
  objectsOnCard,
  refreshTotals,
  settleAlreadyFiled,
  unreadItems,
  writeRead,
} from '../seeing/index.js';
import { placeHere } from './checking.js';
import type { Place } from './looking.js';
import { foldersSay, nameReader } from './reading.js';
import {
  addAdoption,
  adoptionById,
  adoptionsGoing,
  assignmentsIn,
  type AdoptionRow,
  addToAdoption,
  endAdoption,
  intakesOfAdoption,
  lastAdoption,
  notAdopted,
  resumeAdoption,
  strayFolders,
} from './store/adoptions.js';
import { filedOfSizes } from './store/known.js';
import { forgetStrays, listAgain, setTwins, straysIn } from './store/stood.js';
import { slugsLike } from './store/lists.js';

const BY_ITSELF = 'the house';
const READ_AT_ONCE = 8;
const HASHED_AT_ONCE = 4;
const BATCH_FILES = 48;
const BATCH_BYTES = 256e6;

/**
 * Takes folders of strays into the logbook where they stand: what names do not say is answered by folder. Nothing is moved
 * and nothing is written into the files. @returns the adoption's id; it goes on behind, at whatever station has the place.
 */
export async function askAdopt(house: House, placeId: string, ask: AdoptAsk, who: string): Promise<number> {
  const place = await placeHere(house, placeId);
  const wanted = new Map(ask.folders.map((one) => [one.folder, one]));
  const going = (await adoptionsGoing(house.db, [placeId])).flatMap(({ folders: underWay }) =>
    underWay.map(({ folder }) => folder),
  );
  const twice = going.find((folder) => wanted.has(folder));
  if (twice !== undefined) throw new Refusal('conflict', `${twice || 'The root'} is being adopted already.`);
  const folders: AdoptedFolder[] = [];
  let [files, bytes] = [0, 0];
  const said = new Map<string, Awaited<ReturnType<typeof foldersSay>>['folders'][number]>();
  for (const { folder } of ask.folders)
    if (!said.has(folder)) for (const one of (await foldersSay(house, placeId, folder)).folders) said.set(one.folder, one);
  const made = new Map<string, number>();
  for (const [folder, answer] of wanted) {
    const says = said.get(folder);
    if (!says) throw new Refusal('not found', `There are no strays in ${folder || 'the root'} of ${place.name}.`);
    await mustExist(house.db, 'contributor', answer.contributorId);
    await mustExist(house.db, 'assignment', answer.assignmentId);
    let assignmentId = answer.assignmentId ?? says.assignmentId;
    const title = answer.assignmentId === null ? (answer.title ?? (says.assignmentId === null ? null : undefined)) : undefined;
    if (title) {
      assignmentId = made.get(title) ?? (await newAssignment(house, title, answer.day ?? says.from, answer.day ?? says.to, who));
      made.set(title, assignmentId);
    }
    folders.push({ folder, contributorId: answer.contributorId ?? says.contributorId, assignmentId, day: answer.day });
    files += says.files;
    bytes += says.bytes;
  }
  return inTransaction(house.db, async (tx) => {
    const at = house.clock();
    const id = await addAdoption(tx, { placeId, who, begunAt: at, files, bytes, folders });
    const text = `${folders.length} ${folders.length === 1 ? 'folder' : 'folders'} of ${place.name} adopted: ${files} files (${formatBytes(bytes)}).`;
    await record(tx, { at, kind: 'adoption', intakeId: null, who, text, data: { adoption: id } });
    await tell(tx, { type: 'drive', placeId });
    return id;
  });
}

async function newAssignment(house: House, title: string, from: string | null, to: string | null, who: string): Promise<number> {
  const base = proposeSlug(title) || 'adopted';
  const taken = new Set(await slugsLike(house.db, base));
  let slug = base;
  for (let n = 2; taken.has(slug); n++) slug = `${base.slice(0, 56)}-${n}`;
  const day = from ?? house.clock().toISOString().slice(0, 10);
  const assignment = { title, slug, code: '', from: day, to: to ?? day, place: '', expectedCards: 0, expectedContributorIds: [] };
  return makeAssignment(house, assignment, who);
}

export async function stopAdoption(house: House, id: number): Promise<void> {
  const adoption = await adoptionById(house.db, id);
  if (!adoption) throw new Refusal('not found', 'There is no such adoption.');
  if (!(await endAdoption(house.db, id, 'stopped', house.clock()))) throw new Refusal('conflict', 'This adoption is over.');
  await tell(house.db, { type: 'drive', placeId: adoption.placeId });
}

export async function goOnAdopting(house: House, id: number): Promise<void> {
  const adoption = await adoptionById(house.db, id);
  if (!adoption) throw new Refusal('not found', 'There is no such adoption.');
  if (!(await resumeAdoption(house.db, id))) throw new Refusal('conflict', 'This adoption was not stopped.');
  await tell(house.db, { type: 'drive', placeId: adoption.placeId });
}

/** Goes on with an adoption, folder by folder. Safe to be killed at any moment and called again. */
export async function runAdoption(house: House, id: number, outer: AbortSignal): Promise<void> {
  const adoption = await adoptionById(house.db, id);
  if (adoption?.state !== 'going') return;
  const place = await placeHere(house, adoption.placeId);
  const { reader } = await nameReader(house);
  const stopped = new AbortController();
  const signal = AbortSignal.any([outer, stopped.signal]);
  const run = new Run(house, place, adoption, reader, signal, async () => {
    if ((await adoptionById(house.db, id))?.state !== 'going') stopped.abort();
  });
  for (const folder of adoption.folders) {
    if (signal.aborted) return;
    await run.folder(folder);
  }
  if (signal.aborted || !(await endAdoption(house.db, id, 'done', house.clock(), run.problem))) return;
  const { adopted, twins } = (await adoptionById(house.db, id))!;
  const text = `${adopted} files of ${place.name} were adopted${twins ? `, ${twins} left because the same bytes are filed already` : ''}.`;
  await record(house.db, {
    at: house.clock(),
    kind: 'adoption',
    intakeId: null,
    who: adoption.who,
    text,
    data: { adoption: id },
  });
  await tell(house.db, { type: 'drive', placeId: place.id });
  await tell(house.db, { type: 'desk' });
}

class Run {
  problem: string | null = null;

  constructor(
    private readonly house: House,
    private readonly place: Place,
    private readonly adoption: AdoptionRow,
    private readonly names: NameReader,
    private readonly signal: AbortSignal,
    private readonly ask: () => Promise<void>,
  ) {}

  async folder(one: AdoptedFolder): Promise<void> {
    const { house, place, adoption } = this;
    const sourcePath = join(place.root, one.folder);
    const known = (await intakesOfAdoption(house.db, adoption.id)).find((intake) => intake.sourcePath === sourcePath);
    if (known?.state === 'closed') return;
    const intakeId = known?.id ?? (await this.begin(one, sourcePath));
    if (intakeId === null) return;
    if (!(await this.read(intakeId, one)) || !(await this.adopt(intakeId, one))) return;
    await inTransaction(house.db, async (tx) => {
      await lockIntake(tx, intakeId);
      await refreshTotals(tx, intakeId);
      await happens(tx, house, intakeId, { what: 'adopted' });
      if (house.settings.besideAdopted !== 'nothing') await folderDue(tx, [{ intakeId, folder: one.folder, placeId: place.id }]);
      await listAgain(tx, place.id, [one.folder]);
      await tell(tx, { type: 'intake', intakeId });
      await tell(tx, { type: 'drive', placeId: place.id });
    });
  }

  /** An intake of the folder, with what stands there and nobody filed. @returns null when nothing does any more. */
  private async begin(one: AdoptedFolder, sourcePath: string): Promise<number | null> {
    const { house, place, adoption } = this;
    const strays: Awaited<ReturnType<typeof straysIn>> = [];
    for (let after = 0; ;) {
      const some = await straysIn(house.db, place.id, one.folder, after, 5_000);
      strays.push(...some);
      if (some.length < 5_000) break;
      after = some.at(-1)!.id;
    }
    const entries: { path: string; pathBytes: Buffer; bytes: number; modifiedAt: Date; problem: null }[] = [];
    for (const { path } of strays) {
      const stands = await sizeAndTime(join(place.root, path));
      const name = basename(path);
      if (stands)
        entries.push({
          path: name,
          pathBytes: Buffer.from(name),
          bytes: stands.bytes,
          modifiedAt: stands.modifiedAt,
          problem: null,
        });
    }
    if (!entries.length) return null;
    const placed = objectsOnCard(entries, await keepingNow(house.db));
    const items = entries.map((entry): ListedItem => ({
      ...{ ...entry, ...placed(entry.path), kind: kindOf(entry.path) },
      // What stands on the drive is somebody's, whatever a camera would call it.
      ...{ setAside: null, structureRoot: null },
      captured: captureTime({ exifDates: [], fileTime: entry.modifiedAt }, house.settings.zone),
    }));
    return inTransaction(house.db, async (tx) => {
      const of = { id: adoption.id, placeId: place.id, placeName: place.name };
      const id = await adopts(tx, house, { sourcePath, station: house.settings.station }, of, adoption.who);
      await addItems(tx, id, items, false);
      await setSlip(tx, id, { contributorId: one.contributorId, assignmentId: one.assignmentId });
      await refreshTotals(tx, id);
      const text = `${items.length} files of ${one.folder || 'the root'} on ${place.name} are adopted where they stand.`;
      await record(tx, { at: house.clock(), kind: 'adopted', intakeId: id, who: adoption.who, text });
      return id;
    });
  }

  /** Filing goes first. @returns false when it was told to stop. */
  private async mayGoOn(): Promise<boolean> {
    await this.ask();
    while (!this.signal.aborted && (await anybodyFiling(this.house.db, this.house.settings.station)))
      await sleep(500, undefined, { signal: this.signal }).catch(() => undefined); // Told to stop: seen by whoever asks.
    return !this.signal.aborted;
  }

  private async read(intakeId: number, one: AdoptedFolder): Promise<boolean> {
    const { house, place } = this;
    const unread = await unreadItems(house.db, intakeId);
    const limit = pLimit(READ_AT_ONCE);
    for (let from = 0; from < unread.length; from += BATCH_FILES) {
      if (!(await this.mayGoOn())) return false;
      await house.calm();
      const read = await Promise.all(
        unread.slice(from, from + BATCH_FILES).map((item) =>
          limit(async () => {
            const path = Buffer.from(join(place.root, one.folder, item.path));
            const found = await house.reader.read({ path, kind: item.kind, bytes: item.bytes, modifiedAt: item.modifiedAt });
            return { id: item.id, ...found };
          }),
        ),
      );
      if (read.some(({ quickHash }) => quickHash === null)) await placeHere(house, place.id);
      await inTransaction(house.db, async (tx) => {
        await lockIntake(tx, intakeId);
        await writeRead(tx, read);
        await this.sayWhatNamesSay(tx, one, unread.slice(from, from + BATCH_FILES), read);
      });
    }
    return true;
  }

  /** Files without a date of their own were taken on the day their names say, or that was answered; a name's code says whose. */
  private async sayWhatNamesSay(
    tx: House['db'],
    one: AdoptedFolder,
    items: readonly { id: number; path: string }[],
    read: readonly { id: number; captured: { local: string; source: string } }[],
  ): Promise<void> {
    const found = new Map(read.map(({ id, captured }) => [id, captured]));
    const corrected = items.flatMap(({ id, path }) => {
      const says = this.names.read(pathIn(one.folder, path));
      const captured = found.get(id)!;
      const day = says.day ?? one.day;
      const isGuessed = captured.source === 'file time' && day !== null && captured.local.slice(0, 10) !== day;
      const isOthers = says.contributorId !== null && says.contributorId !== one.contributorId;
      if (!isGuessed && !isOthers) return [];
      return [
        {
          itemId: id,
          ...(isGuessed ? { capturedLocal: `${day}T12:00:00` } : {}),
          ...(isOthers ? { contributorId: says.contributorId } : {}),
        },
      ];
    });
    if (corrected.length) await correctFiled(tx, corrected);
  }

  private async adopt(intakeId: number, one: AdoptedFolder): Promise<boolean> {
    const { house, place } = this;
    const left = await notAdopted(house.db, intakeId);
    const others = await this.othersFor(one);
    const limit = pLimit(HASHED_AT_ONCE);
    for (let from = 0; from < left.length;) {
      if (!(await this.mayGoOn())) return false;
      const batch: typeof left = [];
      for (let bytes = 0; from < left.length && batch.length < BATCH_FILES && (bytes < BATCH_BYTES || !batch.length); from++) {
        batch.push(left[from]!);
        bytes += left[from]!.bytes;
      }
      const hashed = await Promise.all(batch.map((item) => limit(async () => ({ item, hash: await this.hash(one, item.path) }))));
      if (this.signal.aborted) return false;
      const whole = hashed.filter(({ item, hash }) => hash !== null && item.quickHash !== null);
      if (whole.length < hashed.length) {
        await placeHere(house, place.id);
        this.problem = `${hashed.length - whole.length} files of ${one.folder || 'the root'} could not be read: they stay strays`;
      }
      await this.take(intakeId, one, whole as { item: (typeof left)[number]; hash: Buffer }[], others);
    }
    return true;
  }

  private async take(
    intakeId: number,
    one: AdoptedFolder,
    whole: readonly { item: Awaited<ReturnType<typeof notAdopted>>[number]; hash: Buffer }[],
    others: (kind: ReturnType<typeof kindOf>) => readonly string[],
  ): Promise<void> {
    const { house, place, adoption } = this;
    const alike = await filedOfSizes(house.db, [...new Set(whole.map(({ item }) => item.bytes))]);
    const twinOf = (bytes: number, hash: Buffer) => alike.find((filed) => filed.bytes === bytes && filed.hash.equals(hash));
    const fresh = whole.filter(({ item, hash }) => !twinOf(item.bytes, hash));
    const twins = whole.flatMap(({ item, hash }) => {
      const twin = twinOf(item.bytes, hash);
      return twin ? [{ item, hash, twin }] : [];
    });
    await inTransaction(house.db, async (tx) => {
      await lockIntake(tx, intakeId);
      const files = fresh.map(({ item, hash }): AdoptedFile => ({
        ...{ itemId: item.id, folder: one.folder, name: item.path, listFolder: one.folder, n: null },
        ...{ bytes: item.bytes, hash, quickHash: item.quickHash! },
      }));
      const kinds = new Map(fresh.map(({ item }) => [item.id, kindOf(item.path)]));
      const made = await adoptFiled(tx, intakeId, place.id, files, (itemId) => others(kinds.get(itemId)!), house.clock());
      const taken = new Set(made.map(({ itemId }) => itemId));
      const adopted = fresh.filter(({ item }) => taken.has(item.id));
      if (adopted.length < fresh.length)
        this.problem = `${fresh.length - adopted.length} files of ${one.folder || 'the root'} have names that are filed already in another spelling: they stay strays`;
      for (const { item, hash } of twins) await settleAlreadyFiled(tx, item.id, hash);
      await setTwins(
        tx,
        place.id,
        twins.map(({ item, twin }) => ({ path: pathIn(one.folder, item.path), twinOf: twin.filedItemId })),
      );
      await forgetStrays(
        tx,
        place.id,
        adopted.map(({ item }) => pathIn(one.folder, item.path)),
      );
      const adoptedBytes = adopted.reduce((sum, { item }) => sum + item.bytes, 0);
      await addToAdoption(tx, adoption.id, { adopted: adopted.length, adoptedBytes, twins: twins.length });
      await refreshTotals(tx, intakeId);
      await tell(tx, { type: 'items', intakeId });
      await tell(tx, { type: 'drive', placeId: place.id });
    });
  }

  private hash(one: AdoptedFolder, name: string): Promise<Buffer | null> {
    return hashFile(join(this.place.root, one.folder, name), this.signal).catch(() => null); // Told with how many could not be read.
  }

  /** Places that are to have copies of what is adopted here, by kind. */
  private async othersFor(one: AdoptedFolder): Promise<(kind: ReturnType<typeof kindOf>) => string[]> {
    const slug =
      one.assignmentId === null
        ? null
        : ((await assignmentsOf(this.house.db, [one.assignmentId])).get(one.assignmentId)?.slug ?? null);
    const places = (await placesStanding(this.house)).filter(({ id, known }) => known && id !== this.place.id);
    return (kind) => places.flatMap(({ id, holds }) => (mustHold(holds, { kind, assignment: slug }) ? [id] : []));
  }
}

/** Strays that a house takes in by itself: in folders where all that is filed is of one assignment. */
export async function adoptByItself(house: House, place: Place): Promise<number | null> {
  // What could not be taken in is a person's to look at, not to be tried for ever.
  const last = await lastAdoption(house.db, place.id);
  if (last?.who === BY_ITSELF && last.problem !== null) return null;
  const folders = (await strayFolders(house.db, place.id, '', 1, 500)).filter(({ files, twins }) => files > twins);
  const known = new Map(
    (
      await assignmentsIn(
        house.db,
        folders.map(({ folder }) => foldName(folder)),
      )
    ).map((one) => [one.folded, one]),
  );
  const sure = folders.flatMap(({ folder }) => {
    const one = known.get(foldName(folder));
    if (one?.assignments.length !== 1) return [];
    const contributorId = one.contributors.length === 1 ? one.contributors[0]! : null;
    return [{ folder, assignmentId: one.assignments[0]!, contributorId, title: null, day: null }];
  });
  return sure.length ? askAdopt(house, place.id, { folders: sure }, BY_ITSELF) : null;
}
