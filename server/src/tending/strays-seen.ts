import { finding, type Finding, type KnownCopy, maybeMoved, type Stood } from '@tally/core/drive';
import { folderOf } from '@tally/core/rule';
import { join } from 'node:path';
import pLimit from 'p-limit';
import { fastIdentityOf, hashFile } from '../drive/hashing.js';
import type { House } from '../house/index.js';
import { groupedBy } from './grouped.js';
import type { MovedCopy, Place } from './looking.js';
import { Spilled } from '../drive/spilled.js';
import type { NewFinding } from './store/findings.js';
import { type CopyRow, filedAlike, filedAtNow, type FiledBytes, sizesFiled } from './store/known.js';
import { keepStrays, setTwins, straysOfFolders } from './store/stood.js';

const READ_AT_ONCE = 4;
/** Folders without strays are kept so many at a time. */
const FOLDERS_AT_ONCE = 2000;

/** What a file is by its size and both ends. */
const endsOf = ({ bytes, quickHash }: { bytes: number; quickHash: Buffer }) => `${bytes} ${quickHash.toString('hex')}`;

/** What whoever looks is told. */
export interface StrayTold {
  readonly found: (one: Finding, where?: Partial<Pick<NewFinding, 'folder' | 'files'>>) => void;
  /** Nothing sure can be said of something in this folder now: it is to be looked at again. */
  readonly unsure: (folder: string) => void;
}

/**
 * Files that a look found and nobody filed, in memory only in part: a drive that the house does not know yet has as many as it
 * has files. Tells which are copies that somebody moved, which are filed already somewhere else, and keeps the others.
 */
export class StraysSeen {
  private readonly seen = new Spilled<Stood>();
  private readonly limit = pLimit(READ_AT_ONCE);

  constructor(
    private readonly house: House,
    private readonly place: Place,
    private readonly options: { readonly signal: AbortSignal },
    private readonly told: StrayTold,
  ) {}

  /** Those of one folder, all at once. */
  add(strays: readonly Stood[]): Promise<void> {
    return this.seen.add(strays);
  }

  end(): Promise<void> {
    return this.seen.end();
  }

  /** Which of what is missing stands under another name. */
  async moved(absent: readonly CopyRow[], knownOf: (row: CopyRow) => KnownCopy): Promise<MovedCopy[]> {
    if (!absent.length) return [];
    const sizes = new Set(absent.map(({ bytes }) => bytes));
    const likely: Stood[] = [];
    for await (const part of this.seen.parts()) likely.push(...part.filter(({ bytes }) => sizes.has(bytes)));
    const byId = new Map(absent.map((row) => [row.filedItemId, row]));
    const identities = new Map<string, Promise<Buffer | null>>();
    const taken = new Set<string>();
    const moved: MovedCopy[] = [];
    for (const { known, strays } of maybeMoved(absent.map(knownOf), likely)) {
      const row = byId.get(known.filedItemId)!;
      for (const stray of strays) {
        const { path } = stray;
        if (taken.has(path) || !row.hash) continue;
        const identity = identities.get(path) ?? this.identityNow(stray);
        identities.set(path, identity);
        const quick = await identity;
        if (!quick || !row.quickHash?.equals(quick)) continue;
        if (!(await this.hashNow(path))?.equals(row.hash)) continue;
        taken.add(path);
        moved.push({ row, to: path });
        break;
      }
    }
    return moved;
  }

  /**
   * Keeps what stands in the folders that were listed, and tells of it. @param cameFrom paths that are no strays: copies stand there
   * @returns how many there are
   */
  async keep(listed: readonly string[], cameFrom: ReadonlySet<string>, at: Date): Promise<number> {
    let count = 0;
    for await (const { folders, strays } of this.byFolders(listed)) {
      this.options.signal.throwIfAborted();
      const still = await this.notFiledByNow(strays.filter(({ path }) => !cameFrom.has(path)));
      const kept = still.map((one) => ({ ...one, folder: folderOf(one.path) }));
      await keepStrays(this.house.db, this.place.id, folders, kept, at);
      const twins = await this.recogniseTwins(folders);
      const perFolder = new Map<string, number>();
      for (const { folder, path } of kept) if (!twins.has(path)) perFolder.set(folder, (perFolder.get(folder) ?? 0) + 1);
      for (const [folder, files] of perFolder)
        this.told.found(finding('stray', folder, { what: files === 1 ? 'one file' : `${files} files` }), { folder, files });
      count += kept.length;
    }
    return count;
  }

  /** All folders, each once, with all of its strays: they came folder by folder. */
  private async *byFolders(listed: readonly string[]): AsyncGenerator<{ folders: string[]; strays: Stood[] }> {
    const without = new Set(listed);
    let held: Stood[] = [];
    for await (const part of this.seen.parts()) {
      const all = [...held, ...part];
      // The last folder may go on in the next part.
      const last = folderOf(all.at(-1)!.path);
      const whole = all.filter(({ path }) => folderOf(path) !== last);
      held = all.filter(({ path }) => folderOf(path) === last);
      const folders = [...new Set(whole.map(({ path }) => folderOf(path)))];
      for (const folder of folders) without.delete(folder);
      if (folders.length) yield { folders, strays: whole };
    }
    if (held.length) {
      const folder = folderOf(held[0]!.path);
      without.delete(folder);
      yield { folders: [folder], strays: held };
    }
    const rest = [...without];
    for (let from = 0; from < rest.length; from += FOLDERS_AT_ONCE)
      yield { folders: rest.slice(from, from + FOLDERS_AT_ONCE), strays: [] };
  }

  /** A mend may have given one of them its name since it was listed. */
  private async notFiledByNow(strays: readonly Stood[]): Promise<Stood[]> {
    const filed = new Set<string>();
    for (let from = 0; from < strays.length; from += 5000) {
      const paths = strays.slice(from, from + 5000).map(({ path }) => path);
      for (const path of await filedAtNow(this.house.db, this.place.id, paths)) filed.add(path);
    }
    for (const path of filed) this.told.unsure(folderOf(path));
    return filed.size ? strays.filter(({ path }) => !filed.has(path)) : [...strays];
  }

  /** @returns paths of strays whose bytes are filed already. */
  private async recogniseTwins(folders: readonly string[]): Promise<Set<string>> {
    const { db } = this.house;
    const twins = new Set<string>();
    const strays = await straysOfFolders(db, this.place.id, folders);
    for (const { path, twin } of strays)
      if (twin !== null) {
        twins.add(path);
        this.told.found(finding('twin', path, { other: twin }));
      }
    const fresh = strays.filter(({ compared }) => !compared);
    for (let from = 0; from < fresh.length; from += 2000) {
      const some = fresh.slice(from, from + 2000);
      const sizes = [...new Set(some.map(({ bytes }) => bytes).filter((bytes) => bytes > 0))];
      const filed = await sizesFiled(db, sizes);
      const looked = await Promise.all(
        some
          .filter(({ bytes }) => filed.has(bytes))
          .map((stray) => this.limit(async () => ({ ...stray, quickHash: await this.identityNow(stray) }))),
      );
      const known = looked.flatMap(({ bytes, quickHash }) => (quickHash ? [{ bytes, quickHash }] : []));
      const alike = groupedBy(await filedAlike(db, known), endsOf);
      const twinOf = new Map<string, FiledBytes>();
      await Promise.all(
        looked.map(({ path, bytes, quickHash }) =>
          this.limit(async () => {
            const likely = (quickHash && alike.get(endsOf({ bytes, quickHash }))) ?? [];
            const hash = likely.length ? await this.hashNow(path) : null;
            const twin = likely.find((one) => hash && one.hash.equals(hash));
            if (twin) twinOf.set(path, twin);
          }),
        ),
      );
      for (const [path, twin] of twinOf) {
        twins.add(path);
        this.told.found(finding('twin', path, { other: twin.path }));
      }
      const compared = some.map(({ path }) => ({ path, twinOf: twinOf.get(path)?.filedItemId ?? null }));
      await setTwins(db, this.place.id, compared);
    }
    return twins;
  }

  /** null: it went: it is nobody's twin. */
  private identityNow({ path, bytes }: { path: string; bytes: number }): Promise<Buffer | null> {
    this.options.signal.throwIfAborted();
    return fastIdentityOf(join(this.place.root, path), bytes).catch(() => null);
  }

  /** null: it went, or cannot be read: it is nobody's twin. */
  private hashNow(path: string): Promise<Buffer | null> {
    this.options.signal.throwIfAborted();
    return hashFile(join(this.place.root, path), this.options.signal).catch(() => null);
  }
}
