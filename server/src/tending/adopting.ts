import { mustHold } from '@tally/core/copies';
import { captureTime } from '@tally/core/capture';
import { kindOf, treeHolders } from '@tally/core/card';
import type { NameReader } from '@tally/core/drive';
import { folderOf, nameOf, pathIn } from '@tally/core/rule';
import pLimit from 'p-limit';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { inTransaction } from '../db/database.js';
import type { AdoptedFolder } from '../db/entities/tending.js';
import { hashFile } from '../drive/hashing.js';
import { sizeAndTime } from '../drive/move-file.js';
import { meetPlaces, placesStanding } from '../driving/index.js';
import { type AdoptedFile, adoptFiled, keepingNow } from '../filing/index.js';
import { adopts, anybodyFiling, happens, type House, lockIntake, record, setSlip, tell } from '../house/index.js';
import { assignmentsOf } from '../people/index.js';
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
import { ahead } from './ahead.js';
import { placeHere } from './checking.js';
import type { Place } from './looking.js';
import { nameReader } from './reading.js';
import {
  addProblem,
  addToAdoption,
  adoptionById,
  type AdoptionRow,
  endAdoption,
  foldersOfIntake,
  intakesOfAdoption,
  notAdopted,
  strayFolders,
} from './store/adoptions.js';
import { filedAlike } from './store/known.js';
import { forgetStrays, listAgain, setTwins, straysOfFolders } from './store/stood.js';

const READ_AT_ONCE = 8;
const HASHED_AT_ONCE = 4;
const BATCH_FILES = 200;
const BATCH_BYTES = 256e6;
/** So many folders are looked through for trees that a folder holds. */
const MOST_BELOW = 20_000;

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
  await meetPlaces(house, signal);
  for (const folder of adoption.folders) {
    if (signal.aborted) return;
    await run.folder(folder);
  }
  if (signal.aborted || !(await endAdoption(house.db, id, 'done', house.clock()))) return;
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

type ToAdopt = Pick<Awaited<ReturnType<typeof notAdopted>>[number], 'id' | 'path' | 'bytes' | 'quickHash'>;
interface Hashed {
  readonly item: ToAdopt;
  /** null: it cannot be read. */
  readonly hash: Buffer | null;
}
type Others = (kind: ReturnType<typeof kindOf>) => readonly string[];

class Run {
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
    // By its folder, whatever another station calls the place's root; before that was kept, by the whole path.
    const known = (await intakesOfAdoption(house.db, adoption.id)).find((intake) =>
      intake.folder === null ? intake.sourcePath === sourcePath : intake.folder === one.folder,
    );
    if (known?.state === 'closed') return;
    const intakeId = known?.id ?? (await this.begin(one, sourcePath));
    if (intakeId === null) return;
    if (!(await this.read(intakeId, one)) || !(await this.adopt(intakeId, one))) return;
    await inTransaction(house.db, async (tx) => {
      await lockIntake(tx, intakeId);
      await refreshTotals(tx, intakeId);
      await happens(tx, house, intakeId, { what: 'adopted' });
      if (house.settings.besideAdopted !== 'nothing') await folderDue(tx, [{ intakeId, folder: one.folder, placeId: place.id }]);
      await listAgain(tx, place.id, [one.folder, ...(await foldersOfIntake(tx, intakeId))]);
      await tell(tx, { type: 'intake', intakeId });
      await tell(tx, { type: 'drive', placeId: place.id });
    });
  }

  /** The folder itself, and those of the cameras' trees that it holds: they stand as on their card, and stay together. */
  private async foldersOf({ folder }: AdoptedFolder): Promise<string[]> {
    const below = (await strayFolders(this.house.db, this.place.id, folder, 1, MOST_BELOW)).map((row) => row.folder);
    const holders = treeHolders(below);
    return [folder, ...below.filter((path) => path !== folder && holders.get(path) === folder)];
  }

  /** An intake of the folder, with what stands there and nobody filed. @returns null when nothing does any more. */
  private async begin(one: AdoptedFolder, sourcePath: string): Promise<number | null> {
    const { house, place, adoption } = this;
    const strays = await straysOfFolders(house.db, place.id, await this.foldersOf(one));
    const entries: { path: string; pathBytes: Buffer; bytes: number; modifiedAt: Date; problem: null }[] = [];
    for (const { path } of strays) {
      const stands = await sizeAndTime(join(place.root, path));
      const below = one.folder ? path.slice(one.folder.length + 1) : path;
      if (stands) entries.push({ path: below, pathBytes: Buffer.from(below), ...stands, problem: null });
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
      const of = { id: adoption.id, placeId: place.id, placeName: place.name, folder: one.folder };
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
    const others = await this.othersFor(one);
    const limit = pLimit(READ_AT_ONCE);
    const batches = batchesOf(await unreadItems(house.db, intakeId), BATCH_BYTES);
    return ahead(
      batches,
      () => this.mayGoOn(),
      async (batch) => {
        await house.calm();
        return Promise.all(
          batch.map((item) =>
            limit(async () => {
              const path = Buffer.from(join(place.root, one.folder, item.path));
              const found = await house.reader.read({ path, kind: item.kind, bytes: item.bytes, modifiedAt: item.modifiedAt });
              // While the disk is at it: what was read of it need not be fetched twice.
              const hash = found.quickHash === null ? null : await this.hash(one, item.path);
              return { read: { id: item.id, ...found }, hashed: { item: { ...item, quickHash: found.quickHash }, hash } };
            }),
          ),
        );
      },
      async (batch, found) => {
        const read = found.map((each) => each.read);
        if (read.some(({ quickHash }) => quickHash === null)) await placeHere(house, place.id);
        await inTransaction(house.db, async (tx) => {
          await lockIntake(tx, intakeId);
          await writeRead(tx, read);
          await this.sayWhatNamesSay(tx, one, batch, read);
        });
        await this.adoptHashed(
          intakeId,
          one,
          found.map(({ hashed }) => hashed),
          others,
        );
      },
    );
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
      const says = this.names.read(pathIn(one.folder, nameOf(path)));
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

  /** What was read before somebody was killed, and not taken into the logbook. */
  private async adopt(intakeId: number, one: AdoptedFolder): Promise<boolean> {
    const { house } = this;
    const others = await this.othersFor(one);
    const limit = pLimit(HASHED_AT_ONCE);
    const batches = batchesOf(await notAdopted(house.db, intakeId), BATCH_BYTES);
    const through = await ahead(
      batches,
      () => this.mayGoOn(),
      (batch) => Promise.all(batch.map((item) => limit(async () => ({ item, hash: await this.hash(one, item.path) })))),
      (_batch, hashed) => this.adoptHashed(intakeId, one, hashed, others),
    );
    return through && !this.signal.aborted;
  }

  private async adoptHashed(intakeId: number, one: AdoptedFolder, hashed: readonly Hashed[], others: Others): Promise<void> {
    if (this.signal.aborted) return;
    const whole = hashed.filter(({ item, hash }) => hash !== null && item.quickHash !== null);
    if (whole.length < hashed.length) {
      await placeHere(this.house, this.place.id);
      const text = `${hashed.length - whole.length} files of ${one.folder || 'the root'} could not be read: they stay strays`;
      await addProblem(this.house.db, this.adoption.id, text);
    }
    await this.take(intakeId, one, whole as { item: ToAdopt; hash: Buffer }[], others);
  }

  private async take(
    intakeId: number,
    one: AdoptedFolder,
    whole: readonly { item: ToAdopt; hash: Buffer }[],
    others: Others,
  ): Promise<void> {
    const { house, place, adoption } = this;
    const alike = await filedAlike(
      house.db,
      whole.map(({ item }) => ({ bytes: item.bytes, quickHash: item.quickHash! })),
    );
    const twinOf = (bytes: number, hash: Buffer) => alike.find((filed) => filed.bytes === bytes && filed.hash.equals(hash));
    const fresh = whole.filter(({ item, hash }) => !twinOf(item.bytes, hash));
    const twins = whole.flatMap(({ item, hash }) => {
      const twin = twinOf(item.bytes, hash);
      return twin ? [{ item, hash, twin }] : [];
    });
    await inTransaction(house.db, async (tx) => {
      await lockIntake(tx, intakeId);
      const files = fresh.map(({ item, hash }): AdoptedFile => ({
        ...{ itemId: item.id, folder: folderOf(pathIn(one.folder, item.path)), name: nameOf(item.path) },
        ...{ listFolder: one.folder, n: null },
        ...{ bytes: item.bytes, hash, quickHash: item.quickHash! },
      }));
      const kinds = new Map(fresh.map(({ item }) => [item.id, kindOf(item.path)]));
      const made = await adoptFiled(tx, intakeId, place.id, files, (itemId) => others(kinds.get(itemId)!), house.clock());
      const taken = new Set(made.map(({ itemId }) => itemId));
      const adopted = fresh.filter(({ item }) => taken.has(item.id));
      if (adopted.length < fresh.length) {
        const text = `${fresh.length - adopted.length} files of ${one.folder || 'the root'} have names that are filed already in another spelling: they stay strays`;
        await addProblem(tx, adoption.id, text);
      }
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
  private async othersFor(one: AdoptedFolder): Promise<Others> {
    const slug =
      one.assignmentId === null
        ? null
        : ((await assignmentsOf(this.house.db, [one.assignmentId])).get(one.assignmentId)?.slug ?? null);
    const places = (await placesStanding(this.house)).filter(({ id, known }) => known && id !== this.place.id);
    return (kind) => places.flatMap(({ id, holds }) => (mustHold(holds, { kind, assignment: slug }) ? [id] : []));
  }
}

/** As many as are done at a time: not too many files, and not too many bytes. */
function batchesOf<T extends { readonly bytes: number }>(all: readonly T[], mostBytes: number): T[][] {
  const batches: T[][] = [];
  let bytes = Infinity;
  for (const one of all) {
    const last = batches.at(-1);
    if (last && last.length < BATCH_FILES && bytes < mostBytes) last.push(one);
    else {
      batches.push([one]);
      bytes = 0;
    }
    bytes += one.bytes;
  }
  return batches;
}
