import { finding, type Finding, isSameTime, SECOND_FOLDER } from '@tally/core/drive';
import { propertiesInSidecar, sidecarOf } from '@tally/core/fields';
import { HASH_LIST_FOLDER } from '@tally/core/manifest';
import { folderOf, nameOf, pathIn } from '@tally/core/rule';
import { join } from 'node:path';
import pLimit from 'p-limit';
import { readHistory } from '../drive/hash-lists.js';
import { hashFile } from '../drive/hashing.js';
import { codeOf } from '../drive/list-card.js';
import { sizeAndTime } from '../drive/move-file.js';
import { readSidecar } from '../drive/sidecar-file.js';
import type { ListedFolder, Walker } from '../drive/walk.js';
import type { House } from '../house/index.js';
import { type BesideWritten, dueIn, writtenIn } from '../proving/index.js';
import { othersRecords } from './others-records.js';
import { groupedBy } from './grouped.js';
import type { Place } from './looking.js';
import type { CheckHow } from './store/checks.js';
import { type CopyRow, copiesOfFiled, listsIn } from './store/known.js';

const READ_AT_ONCE = 4;
/** So many are judged for good while the place is held. */
const SAID_AT_ONCE = 200;

const IS_GONE = 'it is gone';
const IS_OTHER = 'it is not as we wrote it';

/** Something we wrote that may be gone or spoilt: a list, record or history of a folder, or a sidecar of a copy. */
interface Doubt {
  /** The folder that it explains. */
  readonly folder: string;
  readonly path: string;
  readonly written: BesideWritten;
  readonly copy: CopyRow | null;
}

/** Sizes of the files in a folder, by their names. */
type Sizes = ReadonlyMap<string, number>;

const sizesIn = ({ names, bytes }: ListedFolder): Sizes => new Map(names.map((name, index) => [name, bytes[index]!]));

/**
 * Looks whether what we wrote beside filed files stands as we wrote it: lists, records, histories, sidecars. By their sizes, or
 * by all their bytes. A sidecar that somebody wrote in is theirs: it is not what this is about.
 */
export class BesideLook {
  private readonly doubts: Doubt[] = [];
  private readonly others: { finding: Finding; folder: string }[] = [];
  private readonly limit = pLimit(READ_AT_ONCE);

  constructor(
    private readonly house: House,
    private readonly place: Place,
    private readonly walker: Pick<Walker, 'list'>,
    private readonly options: { readonly how: CheckHow; readonly signal: AbortSignal },
  ) {}

  /** Looks at these folders, as they were listed. @param rows copies of the place in them */
  async inFolders(listed: readonly ListedFolder[], rows: ReadonlyMap<string, readonly CopyRow[]>): Promise<void> {
    const { db } = this.house;
    const standing = listed.filter(({ problem }) => problem === null);
    const byFolder = groupedBy(
      await writtenIn(
        db,
        this.place.id,
        standing.map(({ path }) => path),
      ),
      ({ folder }) => folder,
    );
    const below = [...byFolder].flatMap(([folder, some]) =>
      [HASH_LIST_FOLDER, SECOND_FOLDER]
        .filter((own) => some.some(({ name }) => name.startsWith(`${own}/`)))
        .map((own) => pathIn(folder, own)),
    );
    const own = new Map(
      (below.length ? await this.walker.list(this.place.root, below) : []).map((folder) => [folder.path, sizesIn(folder)]),
    );
    const looks: Promise<void>[] = [];
    for (const folder of standing) {
      looks.push(this.lookForOthers(folder, byFolder.get(folder.path) ?? []));
      const sizes = new Map([[folder.path, sizesIn(folder)]]);
      const sizeOf = (path: string) => (sizes.get(folderOf(path)) ?? own.get(folderOf(path)))?.get(nameOf(path));
      for (const written of byFolder.get(folder.path) ?? [])
        looks.push(this.look({ folder: folder.path, path: pathIn(folder.path, written.name), written, copy: null }, sizeOf));
      for (const copy of rows.get(folder.path) ?? []) {
        const written = sidecarWritten(copy);
        if (!written || copy.moving || copy.state !== 'tallied') continue;
        looks.push(this.look({ folder: copy.listFolder, path: pathIn(folder.path, written.name), written, copy }, sizeOf));
      }
    }
    await Promise.all(looks);
  }

  private async lookForOthers({ path, names }: ListedFolder, written: readonly BesideWritten[]): Promise<void> {
    for (const { name, house, number } of await othersRecords(this.house, this.place.root, path, { names, written }))
      this.others.push({
        folder: path,
        finding: finding('record of others', pathIn(path, name), { what: `intake ${number} of ${house}` }),
      });
  }

  private async look(doubt: Doubt, sizeOf: (path: string) => number | undefined): Promise<void> {
    const { written, path } = doubt;
    const isSize = sizeOf(path) === written.bytes;
    if (isSize && (this.options.how === 'size and time' || (await this.limit(() => this.isWhole(doubt))))) return;
    this.doubts.push(doubt);
  }

  /** What cannot be read is looked at again. */
  private async isWhole({ path, written }: Doubt): Promise<boolean> {
    const { signal } = this.options;
    signal.throwIfAborted();
    try {
      return written.hash.equals(await hashFile(join(this.place.root, path), signal, this.house.files));
    } catch (error) {
      signal.throwIfAborted();
      mustBeOfTheSystem(error);
      return false;
    }
  }

  /**
   * What is found for good, with the folder that each explains: what is not to be written anew anyhow, and is gone or spoilt while
   * nobody else is at the place. @param mustStand throws when the place is not there
   */
  async found(mustStand: () => Promise<void>): Promise<{ finding: Finding; folder: string }[]> {
    const { house, place, options } = this;
    const found = [...this.others];
    for (let from = 0; from < this.doubts.length; from += SAID_AT_ONCE) {
      const part = this.doubts.slice(from, from + SAID_AT_ONCE);
      const some: { finding: Finding; folder: string }[] = [];
      const judge = async () => {
        for (const doubt of await this.stillExpected(part)) {
          const what = await this.whatIsWrong(doubt);
          const { path, folder, copy } = doubt;
          if (what !== null)
            some.push({ folder, finding: finding('spoilt list', path, { filedItemId: copy?.filedItemId ?? null, what }) });
        }
        if (some.length) await mustStand();
      };
      while (!(await house.locks.holdInTurn('place', place.id, options.signal, judge))) options.signal.throwIfAborted();
      found.push(...some);
    }
    return found;
  }

  /** Of these, what is to stand there still as it was written, and is not due to be written anew. */
  private async stillExpected(doubts: readonly Doubt[]): Promise<Doubt[]> {
    const { db } = this.house;
    const { id } = this.place;
    const folders = [...new Set(doubts.map(({ folder }) => folder))];
    const due = await dueIn(db, id, folders);
    const explains = new Set((await listsIn(db, id, folders)).map(({ folder }) => folder));
    const written = new Map((await writtenIn(db, id, folders)).map((one) => [pathIn(one.folder, one.name), one]));
    const ids = doubts.flatMap(({ copy }) => copy?.filedItemId ?? []);
    const copies = new Map((await copiesOfFiled(db, id, ids)).map((copy) => [copy.filedItemId, copy]));
    return doubts.filter(({ folder, path, copy, written: then }) => {
      if (due.has(folder) || !explains.has(folder)) return false;
      if (!copy) return written.get(path)?.hash.equals(then.hash) ?? false;
      const now = copies.get(copy.filedItemId);
      if (now?.state !== 'tallied' || now.moving || pathIn(now.folder, now.name) !== pathIn(copy.folder, copy.name)) return false;
      return sidecarWritten(now)?.hash.equals(then.hash) ?? false;
    });
  }

  /** @returns null when it stands as it was written, or is somebody else's by now. */
  private async whatIsWrong(doubt: Doubt): Promise<string | null> {
    const { path, copy, folder, written } = doubt;
    const file = join(this.place.root, path);
    try {
      const here = await sizeAndTime(file);
      if (!here) return IS_GONE;
      const isRight =
        here.bytes === written.bytes && written.hash.equals(await hashFile(file, this.options.signal, this.house.files));
      if (isRight) return null;
      if (copy) return await this.sidecarIsWrong(file, copy, here.modifiedAt);
      if (!path.startsWith(`${pathIn(folder, HASH_LIST_FOLDER)}/`)) return IS_OTHER;
      // Another program may have added to the history: then it is whole.
      const { problems } = await readHistory(join(this.place.root, folder));
      return problems.length ? IS_OTHER : null;
    } catch (error) {
      this.options.signal.throwIfAborted();
      mustBeOfTheSystem(error);
      return `it cannot be read (${codeOf(error)})`;
    }
  }

  private async sidecarIsWrong(file: string, { sidecarModifiedAt }: CopyRow, modifiedAt: Date): Promise<string | null> {
    const bytes = await readSidecar(file);
    if (bytes === null) return IS_GONE;
    if (typeof bytes === 'string') return bytes;
    // Whoever writes in a file changes its time; a disk that fails does not.
    if (sidecarModifiedAt && isSameTime(sidecarModifiedAt.getTime(), modifiedAt.getTime())) return IS_OTHER;
    return typeof propertiesInSidecar(bytes) === 'string' ? 'it is no sidecar any more' : null;
  }
}

/** @throws what is no fault of a file or its device. */
function mustBeOfTheSystem(error: unknown): void {
  if (typeof (error as NodeJS.ErrnoException).code !== 'string') throw error;
}

const sidecarWritten = ({ name, hasSidecar, sidecarStands: hash, sidecarBytes: bytes }: CopyRow): BesideWritten | null =>
  hasSidecar && hash && bytes !== null ? { name: sidecarOf(name), bytes, hash } : null;
