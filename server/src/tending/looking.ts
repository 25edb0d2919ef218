import {
  ASIDE_FOLDER,
  compareFolder,
  finding,
  type Finding,
  type FindingKind,
  FINDINGS,
  isAside,
  isHalfMade,
  isOurs,
  isOwnFolder,
  type KnownCopy,
  leftoverFolder,
  nameFindings,
  type Stood,
} from '@tally/core/drive';
import { kindOf, treeRoots } from '@tally/core/card';
import { sidecarOf } from '@tally/core/fields';
import { CHECKSUM_FILE, readChecksums } from '@tally/core/manifest';
import { folderOf, nameOf, pathIn } from '@tally/core/rule';
import { join } from 'node:path';
import { restsFor, stands } from '../drive/final-name.js';
import { readOwn } from '../drive/own-file.js';
import type { Abilities } from '../drive/place.js';
import type { ListedFolder, Walker } from '../drive/walk.js';
import type { StandingPlace } from '../driving/index.js';
import { markMissing } from '../filing/index.js';
import { type House, record } from '../house/index.js';
import { othersRecords } from './others-records.js';
import { BesideLook } from './beside-look.js';
import { gone, Judge, ofRow } from './judging.js';
import { StraysSeen } from './strays-seen.js';
import type { CheckHow } from './store/checks.js';
import { forgetFindings, keepFindings, type NewFinding } from './store/findings.js';
import { movesPendingFrom } from './store/mends.js';
import { type CopyRow, copiesInFolders, filedFoldersAfter } from './store/known.js';
import { type FolderRow, type FolderSums, foldersOfPlace, forgetFolders, keepFolders, listAgain } from './store/stood.js';

/** What one look at folders tells; names are judged elsewhere. */
const TOLD: readonly FindingKind[] = [
  ...(['missing', 'changed', 'unreadable', 'spoilt list', 'only here', 'moved', 'stray', 'twin', 'illegal', 'too long'] as const),
  'record of others',
  ...(['case apart', 'left alone', 'leftover', 'empty folder', 'odd'] as const),
];
const FOLDERS_AT_ONCE = 128;
/** So many times as many are being listed, or wait to be compared. */
const LISTED_AHEAD = 3;

type FoundWhere = Partial<Pick<NewFinding, 'folder' | 'files' | 'ofFolder'>>;

/** Somebody may still be at a file that was written to so lately. */
const STILL_MS = 8_000;
/** Nobody is at a temporary file of ours that was not touched for so long. */
const ABANDONED_MS = 3_600_000;

export type Place = StandingPlace & Abilities;

/** A copy that stands under another name than the logbook has it. */
export interface MovedCopy {
  readonly row: CopyRow;
  readonly to: string;
}

export interface Looked {
  readonly files: number;
  readonly bytes: number;
  readonly folders: number;
  readonly moved: readonly MovedCopy[];
  readonly strays: number;
}

export interface LookOptions {
  readonly how: CheckHow;
  readonly signal: AbortSignal;
  readonly onProgress?: (sums: { files: number; bytes: number; folders: number }) => Promise<void>;
  /** Do moves on this place lead, so that the logbook follows them? Else they are findings. */
  readonly follows: boolean;
}

/**
 * Looks at a place: all of it, or some folders. What stands is compared with what the logbook has there, folder by folder;
 * what differs by size or time is read. Keeps what was found: folders with their sums, strays, findings, and the states of
 * copies that are lost, spoilt or back. Writes nothing at the place.
 */
export class Looking {
  private readonly folders = new Map<string, FolderRow>();
  private readonly findings: NewFinding[] = [];
  private readonly absent: CopyRow[] = [];
  private readonly strays: StraysSeen;
  private readonly judge: Judge;
  private readonly beside: BesideLook;
  private readonly now = Date.now();
  private readonly listedFolders = new Set<string>();
  /** Folders of which something could not be said for sure: somebody was at it. */
  private readonly unsure = new Set<string>();
  /** Roots of cameras' trees, as far as they were seen: a folder is looked at after the one that it stands in. */
  private readonly trees = new Set<string>();
  private files = 0;
  private bytes = 0;

  constructor(
    private readonly house: House,
    private readonly place: Place,
    private readonly walker: Pick<Walker, 'list'>,
    private readonly options: LookOptions,
  ) {
    this.beside = new BesideLook(house, place, walker, options);
    this.strays = new StraysSeen(house, place, options, {
      found: (one, where) => this.found(one, where),
      unsure: (folder) => this.unsure.add(folder),
    });
    this.judge = new Judge(house, place, options, {
      found: (kind, row, what) =>
        this.found(
          finding(kind, pathIn(row.folder, row.name), { filedItemId: row.filedItemId, what: `${what}; ${this.stillAt(row)}` }),
        ),
      unsure: (folder) => this.unsure.add(folder),
    });
  }

  /** Whoever has looked ends it. */
  end(): Promise<void> {
    return this.strays.end();
  }

  /** Everything below the root. */
  async whole(): Promise<Looked> {
    this.before = new Map((await foldersOfPlace(this.house.db, this.place.id)).map((one) => [one.path, one]));
    await this.walk([''], true);
    // What is filed in folders that do not stand there is missing as a whole.
    for (let after = ''; ;) {
      const some = await filedFoldersAfter(this.house.db, after, 2000);
      const unseen = some.map(({ folder }) => folder).filter((folder) => !this.listedFolders.has(folder));
      if (unseen.length) await this.notThere(unseen);
      if (some.length < 2000) break;
      after = some.at(-1)!.folded;
    }
    return this.settle(null);
  }

  /** These folders, and what is new below them. @param gone folders that do not stand any more. */
  async some(changed: readonly string[], gone: readonly string[]): Promise<Looked> {
    const before = new Map((await foldersOfPlace(this.house.db, this.place.id)).map((one) => [one.path, one]));
    this.before = new Map(before);
    for (const root of treeRoots([...before.keys()])) this.trees.add(root);
    const lost = [...before.keys()].filter((path) => gone.some((one) => path === one || path.startsWith(`${one}/`)));
    await this.walk(changed, false, (path) => !before.has(path));
    await this.notThere(lost);
    for (const path of lost) before.delete(path);
    await forgetFolders(this.house.db, this.place.id, lost);
    for (const [path, row] of before) if (!this.folders.has(path)) this.folders.set(path, row);
    return this.settle([...this.listedFolders, ...lost]);
  }

  /** @param goesInto which of the folders in a listed one are listed, too. */
  private async walk(from: readonly string[], all: boolean, goesInto: (path: string) => boolean = () => true): Promise<void> {
    const { signal } = this.options;
    const queue = [...from];
    const next: Promise<ListedFolder[]>[] = [];
    let told = Date.now();
    while (queue.length || next.length) {
      signal.throwIfAborted();
      const listed = (await next.shift()) ?? [];
      for (const folder of listed)
        if (folder.problem === null)
          for (const name of folder.folders) {
            const path = pathIn(folder.path, name);
            if (this.goesInto(folder.path, name) && (all || goesInto(path))) queue.push(path);
          }
      // The next folders are listed while these are compared.
      while (queue.length && next.length < LISTED_AHEAD) {
        const list = this.walker.list(this.place.root, queue.splice(0, FOLDERS_AT_ONCE));
        // What is awaited later must not be taken for a failure that nobody hears of.
        list.catch(() => undefined);
        next.push(list);
      }
      if (listed.length) await this.compare(listed);
      if (this.options.onProgress && Date.now() - told > 700) {
        told = Date.now();
        await this.options.onProgress({ files: this.files, bytes: this.bytes, folders: this.listedFolders.size });
      }
    }
  }

  private async hasOthersRecord({ path, names }: ListedFolder): Promise<boolean> {
    return (await othersRecords(this.house, this.place.root, path, { names, written: [] })).length > 0;
  }

  private goesInto(folder: string, name: string): boolean {
    if (isOwnFolder(name) || name.startsWith('.tally-')) return false;
    const reason = leftoverFolder(name);
    if (reason === null) return true;
    this.found(finding('leftover', pathIn(folder, name), { what: reason }));
    return false;
  }

  private async compare(listed: readonly ListedFolder[]): Promise<void> {
    const rows = await copiesInFolders(
      this.house.db,
      this.place.id,
      listed.map(({ path }) => path),
    );
    const known = new Map<string, CopyRow[]>();
    for (const row of rows) {
      const here = known.get(row.folder);
      if (here) here.push(row);
      else known.set(row.folder, [row]);
    }
    for (const folder of listed) await this.compareOne(folder, known.get(folder.path) ?? []);
    await this.beside.inFolders(listed, known);
  }

  private async compareOne(folder: ListedFolder, rows: readonly CopyRow[]): Promise<void> {
    const { path } = folder;
    this.listedFolders.add(path);
    if (folder.problem !== null && path === '') throw gone(this.place, folder.problem);
    if (folder.problem !== null) {
      if (['ENOENT', 'ENOTDIR'].includes(folder.problem)) return this.notThere([path]);
      this.found(finding('odd', path, { what: `it cannot be listed (${folder.problem})` }), { ofFolder: true });
      return;
    }
    const odd = new Map(folder.odd);
    const stood = folder.names.map((name, index): Stood => ({
      ...{ path: pathIn(path, name), bytes: folder.bytes[index]!, modifiedMs: folder.times[index]! },
      problem: odd.get(index) ?? null,
    }));
    const byId = new Map(rows.map((row) => [row.filedItemId, row]));
    const settled = rows.filter(({ moving }) => !moving);
    const share = this.house.settings.sharePrefix.length;
    if (folder.folders.length)
      for (const root of treeRoots(folder.folders.map((name) => pathIn(path, name)))) this.trees.add(root);
    const inTree = this.isInTree(path);
    const compared = compareFolder(stood, settled.map(this.knownOf), {
      ...{ writtenLately: this.writtenLately, prefixLength: share, inTree, listed: await this.listedIn(folder, settled) },
    });
    const inTray = isAside(path);
    await this.findHalfMade(stood);
    const strays = inTray ? [] : compared.strays;
    for (const one of compared.findings) if (!inTray || one.filedItemId !== null) this.found(one);
    if (path && path !== ASIDE_FOLDER) nameFindings(path, null, share).forEach((one) => this.found(one, { ofFolder: true }));
    const lost = compared.absent.map(({ filedItemId }) => byId.get(filedItemId)!);
    this.absent.push(...lost);
    await this.strays.add(strays);
    const changed = await this.judge.lookCloser(
      compared.same.map(({ filedItemId }) => byId.get(filedItemId)!),
      compared.doubtful.map(({ known, stood: file }) => ({ row: byId.get(known.filedItemId)!, file })),
    );
    const alone = compared.same.filter(({ elsewhere, waiting }) => elsewhere === 0 && !waiting).length;
    if (alone)
      this.found(finding('only here', path, { what: alone === 1 ? 'one file' : `${alone} files` }), {
        folder: path,
        files: alone,
      });
    const sidecars = new Set(rows.flatMap((row) => (row.hasSidecar ? [sidecarOf(pathIn(row.folder, row.name))] : [])));
    const mine = stood.filter((file) => !isOurs(file.path) && !sidecars.has(file.path));
    const isBare = !mine.length && !folder.folders.some((name) => !isOwnFolder(name)) && path !== '' && !inTray && !rows.length;
    // What another house wrote there is nobody's to remove.
    if (isBare && !(await this.hasOthersRecord(folder)))
      this.found(finding('empty folder', path, { what: stood.length ? 'only lists of ours stand in it' : '' }), {
        ofFolder: true,
      });
    this.files += mine.length;
    const bytes = mine.reduce((sum, file) => sum + file.bytes, 0);
    this.bytes += bytes;
    this.folders.set(path, {
      ...{ path, parent: path ? folderOf(path) : null, name: nameOf(path) },
      // Somebody is at a file in it: it is looked at again, whatever its time says.
      changedMs: compared.half.length || this.unsure.has(path) ? null : folder.changedMs,
      ...{ files: mine.length, bytes, known: compared.same.length + compared.doubtful.length },
      ...{ strays: strays.length + (inTray ? 0 : compared.half.length), trouble: lost.length + changed },
    });
  }

  /** What a list names that stands there: asked where a sidecar might be somebody's alone. */
  private async listedIn({ path, names }: ListedFolder, known: readonly CopyRow[]): Promise<ReadonlySet<string>> {
    if (!names.includes(CHECKSUM_FILE)) return new Set();
    const filed = new Set(known.flatMap(({ name, hasSidecar }) => (hasSidecar ? [name, sidecarOf(name)] : [name])));
    if (!names.some((name) => kindOf(name) === 'sidecar' && !filed.has(name))) return new Set();
    const text = await readOwn(join(this.place.root, path), CHECKSUM_FILE).catch(() => null); // What cannot be read names nothing.
    return new Set((readChecksums(text ?? '') ?? []).map(({ name }) => name));
  }

  /** Temporary files of ours that nobody has been at for long: whoever made them died, and does not come back to this folder. */
  private async findHalfMade(stood: readonly Stood[]): Promise<void> {
    const { house, place } = this;
    const ours = stood.filter(({ path, problem }) => problem === null && isHalfMade(path)).map(({ path }) => path);
    if (!ours.length) return;
    const pending = await movesPendingFrom(house.db, place.id, ours);
    for (const path of ours)
      if (!pending.isTold(path) && (await restsFor(join(place.root, path), ABANDONED_MS)))
        this.found(finding('leftover', path, { what: 'half made by us, and nobody is at it any more' }));
  }

  private readonly knownOf = (row: CopyRow): KnownCopy => ({
    ...{ filedItemId: row.filedItemId, path: pathIn(row.folder, row.name), bytes: row.bytes, state: row.state },
    ...{ modifiedMs: row.modifiedAt.getTime(), hasSidecar: row.hasSidecar },
    ...{ elsewhere: this.otherDevices(row), waiting: row.waiting },
  });

  /** Devices beside this one that have it. A place that is away stands on one of its own, as far as anybody can say. */
  private otherDevices({ tallied }: CopyRow): number {
    const { device } = this.place.standing as { device?: string };
    return new Set((tallied ?? []).map((id) => this.devices.get(id) ?? `place ${id}`).filter((one) => one !== device)).size;
  }

  /** Devices of the places that are here, by their ids. */
  devices: ReadonlyMap<string, string> = new Map();

  private readonly writtenLately = (file: Stood) => file.modifiedMs > this.now - STILL_MS;

  private stillAt(row: CopyRow): string {
    const names = (row.tallied ?? []).map((id) => this.names.get(id) ?? id);
    return names.length ? `${names.join(' and ')} ${names.length === 1 ? 'has' : 'have'} it as it was` : 'no other place has it';
  }

  /** Names of places, by their ids. */
  names: ReadonlyMap<string, string> = new Map();

  private async notThere(folders: readonly string[]): Promise<void> {
    const rows = await copiesInFolders(this.house.db, this.place.id, folders);
    const due = ({ state, moving }: CopyRow) => !moving && state !== 'waiting' && state !== 'copying';
    const wanted = new Set(folders);
    this.absent.push(...rows.filter((row) => due(row) && wanted.has(row.folder)));
  }

  private found(one: Finding, { folder = folderOf(one.path), files = 1, ofFolder = false }: FoundWhere = {}): void {
    this.findings.push({ ...one, folder, files, ofFolder });
  }

  private isInTree(folder: string): boolean {
    if (this.trees.size) for (let path = folder; path; path = folderOf(path)) if (this.trees.has(path)) return true;
    return false;
  }

  /** Which of what is missing was only moved, which strays are twins; then everything is kept. */
  private async settle(folders: readonly string[] | null): Promise<Looked> {
    const { house, place, options } = this;
    const { db } = house;
    const at = house.clock();
    // What was not found at a place that went away in the middle is not lost.
    await this.judge.mustStand();
    const isGone = async ({ row }: { row: CopyRow }) => !(await stands(join(place.root, row.folder, row.name)));
    const absent = (await this.judge.lastWord(this.absent.map(ofRow), isGone, () => Promise.resolve())).map(({ row }) => row);
    const moved = await this.strays.moved(absent, this.knownOf);
    const goneNow = new Set(moved.map(({ row }) => row.filedItemId));
    const cameFrom = new Set(moved.map(({ to }) => to));
    let newlyMissing = 0;
    const lost = absent.filter(({ filedItemId }) => !goneNow.has(filedItemId)).map(ofRow);
    const missing = await this.judge.lastWord(
      lost,
      isGone,
      async (some) => (newlyMissing += await markMissing(db, some.map(this.judge.copyOf))),
    );
    for (const { row } of missing)
      this.found(finding('missing', pathIn(row.folder, row.name), { filedItemId: row.filedItemId, what: this.stillAt(row) }));
    if (!options.follows)
      for (const { row, to } of moved)
        this.found(finding('moved', pathIn(row.folder, row.name), { filedItemId: row.filedItemId, other: to }));
    for (const { finding: one, folder } of await this.beside.found(() => this.judge.mustStand())) this.found(one, { folder });
    const strays = await this.strays.keep(folders ?? [...this.listedFolders], cameFrom, at);
    if (newlyMissing) {
      const text = `${newlyMissing} ${newlyMissing === 1 ? 'copy is' : 'copies are'} not at ${newlyMissing === 1 ? 'its' : 'their'} place on ${place.name} any more.`;
      await record(db, { at, kind: 'missing', intakeId: null, who: null, text, data: { placeId: place.id } });
    }
    await keepFolders(db, place.id, this.summed().filter(this.isNews));
    if (this.unsure.size) await listAgain(db, place.id, [...this.unsure]);
    if (folders === null) await this.forgetOthers();
    await keepFindings(db, place.id, this.findings, at);
    await forgetFindings(db, place.id, TOLD, folders, this.findings);
    await options.onProgress?.({ files: this.files, bytes: this.bytes, folders: this.listedFolders.size });
    return { ...{ files: this.files, bytes: this.bytes, folders: this.listedFolders.size }, moved, strays };
  }

  /** Folders as they stood before: only what is other now is written. */
  private before: ReadonlyMap<string, FolderSums> = new Map();

  private readonly isNews = (now: FolderSums): boolean => {
    const was = this.before.get(now.path);
    return !was || (Object.keys(now) as (keyof FolderSums)[]).some((key) => was[key] !== now[key]);
  };

  /** Folders that stood there when they were looked at last, and do not any more. */
  private async forgetOthers(): Promise<void> {
    const gone = [...this.before.keys()].filter((path) => !this.folders.has(path));
    if (gone.length) await forgetFolders(this.house.db, this.place.id, gone);
  }

  /** Each folder with what is in it and below. */
  private summed(): FolderSums[] {
    const sums = new Map<string, FolderSums>();
    for (const [path, row] of this.folders)
      sums.set(path, {
        ...row,
        ...{ allFiles: row.files, allBytes: row.bytes, allKnown: row.known, allStrays: row.strays, allTrouble: row.trouble },
      });
    // The deepest first: each adds all that it has to the one above.
    for (const path of [...sums.keys()].sort((a, b) => depth(b) - depth(a))) {
      const [own, above] = [sums.get(path)!, path ? sums.get(folderOf(path)) : undefined];
      if (!above || path === '') continue;
      sums.set(above.path, {
        ...above,
        ...{ allFiles: above.allFiles + own.allFiles, allBytes: above.allBytes + own.allBytes },
        ...{ allKnown: above.allKnown + own.allKnown, allStrays: above.allStrays + own.allStrays },
        allTrouble: above.allTrouble + own.allTrouble,
      });
    }
    return [...sums.values()];
  }
}

const depth = (path: string) => (path ? path.split('/').length : 0);

/** What is lost or about to be, of what was found. */
export const isTrouble = (kind: FindingKind): boolean => FINDINGS[kind].trouble;
