import { extensionOf, stemOf } from '@tally/core/card';
import type { Insertion } from '@tally/core/fields';
import { foldName } from '@tally/core/rule';
import { join } from 'node:path';
import pLimit from 'p-limit';
import type { Clock } from '../clock.js';
import { copyFile, isFeasible, SourceError, type Source } from '../drive/copy-file.js';
import { removeTemporary, flushFolder, giveFinalName, makeFolder, stands, temporaryName } from '../drive/final-name.js';
import type { Files } from '../drive/files.js';
import { codeOf, joinBytes } from '../drive/list-card.js';
import { namesIn, type Abilities, type Place } from '../drive/place.js';
import { proveFile, type ProofMethod, toldAt } from '../drive/prove-file.js';
import type { CopyOutcome, Unfinished } from './store/filed.js';

export type BatchPlace = Place & Abilities;

/** What a batch needs to know of the intake, and how it reaches the outside. */
export interface BatchWork {
  readonly intakeId: number;
  /** Root that the items' paths start from: the card, or a place when copies are made from another copy. */
  readonly sourcePath: string;
  /** Is what is copied from still there? A mount point stays when its card is gone. */
  readonly sourceStands: () => Promise<boolean>;
  readonly from: 'card' | 'copy';
  readonly files: Files;
  readonly places: readonly BatchPlace[];
  readonly now: Clock;
  readonly signal: AbortSignal;
  /** Promises another name to an item; false when that one is promised to somebody already. */
  readonly rename: (item: Unfinished, name: string) => Promise<boolean>;
  readonly onBytes: (bytes: number) => void;
  /** What is put into the copies of an item; without it they are what they are made from, to the byte. */
  readonly inside?: PuttingIn;
}

export interface PuttingIn {
  /** @param head the first 4 MiB of its file, or all of it. @returns null when nothing is put into it. */
  readonly plan: (item: Unfinished, head: Uint8Array) => Insertion | null;
  /** Keeps what was put in, before a file that has it gets its name. @returns the number of each, by filed item. */
  readonly keep: (put: readonly PutInside[]) => Promise<ReadonlyMap<number, number>>;
  /** What was put into copies of an item before: the file's hash with it, and its number. */
  readonly before: (item: Unfinished) => Promise<readonly { hash: Buffer; version: number }[]>;
}

/** What was put into the copies of an item, and what they are with it. */
export interface PutInside {
  readonly filedItemId: number;
  readonly itemId: number;
  readonly insertion: Insertion;
  readonly bytes: number;
  /** XXH128 and fast identity of the file as it stands. */
  readonly hash: Buffer;
  readonly quickHash: Buffer;
}

export interface BatchOutcome {
  readonly copies: readonly CopyOutcome[];
  readonly sources: readonly { filedItemId: number; hash: Buffer; quickHash: Buffer; filedAt: Date }[];
  /** Places that failed as a whole, with what happened. */
  readonly lostPlaces: ReadonlyMap<string, string>;
  readonly cardGone: boolean;
  /** What the log should say about single items. */
  readonly events: readonly string[];
}

/** Files over this size are copied two at once, smaller ones eight at once. */
const LARGE_BYTES = 1e6;
const PROOFS_AT_ONCE = 4;

/** One item on its way through a batch. */
interface Job {
  readonly item: Unfinished;
  name: string;
  hash: Buffer | null;
  quickHash: Buffer | null;
  /** Places with a written temporary file. */
  written: BatchPlace[];
  /** Places with a proven temporary file and how it was proven. */
  proven: Map<BatchPlace, ProofMethod>;
  /** What is put into its copies, what they are with it, and the number it is kept under. */
  insertion: Insertion | null;
  changed: { bytes: number; quickHash: Buffer } | null;
  stands: Buffer | null;
  version: number;
}

const jobOf = (item: Unfinished): Job => ({
  ...{ item, name: item.name, hash: null, quickHash: null, written: [], proven: new Map() },
  ...{ insertion: null, changed: null, stands: null, version: 0 },
});

/**
 * Files some items: one read of each source feeds its temporary files and its hash; then every copy is read back, and
 * what equals its source gets the final name. Reports every copy; throws only when told to stop or when the database
 * refuses, and then leaves no temporary file of these items behind.
 */
export async function fileBatch(items: readonly Unfinished[], work: BatchWork): Promise<BatchOutcome> {
  const report = new Report(items, work);
  const jobs = items.map(jobOf);
  try {
    await makeFolders(items, work, report);
    const strangers = new Strangers();
    const large = items.reduce((sum, item) => sum + item.bytes, 0) > items.length * LARGE_BYTES;
    const copying = pLimit(large ? 2 : 8);
    await allAtRest(jobs.map((job) => copying(() => copyJob(job, work, report, strangers))));
    const proving = pLimit(PROOFS_AT_ONCE);
    // The first copy of each is proven both ways; the others then need only be the same as it.
    const [first, others] = [jobs.map((job) => job.written.slice(0, 1)), jobs.map((job) => job.written.slice(1))];
    for (const places of [first, others])
      await allAtRest(jobs.flatMap((job, i) => places[i]!.map((place) => proving(() => proveJob(job, place, work, report)))));
    await keepInside(jobs, work);
    for (const job of jobs) await nameJob(job, work, report);
    await flushFolders(jobs, work, report);
    return report.outcome(jobs);
  } finally {
    for (const job of jobs) for (const place of job.written) await removeTemporary(temporaryPath(job, place, work));
  }
}

/** The first error is thrown once all have ended: what is removed then is not written again by one that was still at it. */
async function allAtRest(work: readonly Promise<void>[]): Promise<void> {
  for (const end of await Promise.allSettled(work)) if (end.status === 'rejected') throw end.reason;
}

/** Collects what happens. The first word on a copy stands, unless a better one comes. */
class Report {
  readonly copies = new Map<string, CopyOutcome>();
  readonly lost = new Map<string, string>();
  readonly events: string[] = [];
  cardGone = false;

  constructor(
    items: readonly Unfinished[],
    private readonly work: BatchWork,
  ) {
    for (const item of items) {
      for (const place of placesFor(item, work)) this.set(item, place, 'waiting', null);
    }
  }

  set(
    item: Unfinished,
    place: Place,
    state: CopyOutcome['state'],
    problem: string | null,
    proof: ProofMethod | null = null,
    version = 0,
  ): void {
    const talliedAt = state === 'tallied' ? this.work.now() : null;
    this.copies.set(`${item.filedItemId} ${place.id}`, {
      filedItemId: item.filedItemId,
      placeId: place.id,
      state,
      talliedAt,
      proof,
      problem,
      version,
    });
  }

  all(item: Unfinished, state: CopyOutcome['state'], problem: string): void {
    for (const place of placesFor(item, this.work)) this.set(item, place, state, problem);
  }

  /** A place failed for one item. What speaks of the place as a whole ends its part in this filing. */
  async failed(item: Unfinished, place: Place, error: unknown): Promise<void> {
    const code = typeof error === 'string' ? error : codeOf(error);
    const gone = code === 'ENOENT' && !(await stands(place.root).catch(() => false));
    const problem = gone ? 'is not there any more' : PLACE_PROBLEMS[code];
    if (problem !== undefined) this.lost.set(place.id, problem);
    this.set(item, place, 'waiting', `${place.name} ${problem ?? `reports an error (${code})`}`);
  }

  outcome(jobs: readonly Job[]): BatchOutcome {
    const filedAt = this.work.now();
    const sources = jobs.flatMap(({ item, hash, quickHash }) =>
      hash && quickHash ? [{ filedItemId: item.filedItemId, hash, quickHash, filedAt }] : [],
    );
    return { copies: [...this.copies.values()], sources, lostPlaces: this.lost, cardGone: this.cardGone, events: this.events };
  }
}

/** What only the place as a whole can be to blame for. */
const PLACE_PROBLEMS: Readonly<Partial<Record<string, string>>> = {
  ENOSPC: 'is full',
  EDQUOT: 'has used up its quota',
  EIO: 'reports a fault of its device',
  ENODEV: 'is not there any more',
  ENXIO: 'is not there any more',
  ENOTCONN: 'is not connected any more',
  ESTALE: 'is not connected any more',
  EROFS: 'cannot be written: it is read-only',
  EACCES: 'may not be written',
  EPERM: 'may not be written',
  ENOTDIR: 'has a file where a folder should be made',
  EEXIST: 'has a file where a folder should be made',
};

const placesFor = (item: Unfinished, work: BatchWork) => work.places.filter((place) => item.waiting.includes(place.id));
const temporaryPath = (job: Job, place: Place, work: BatchWork) =>
  join(place.root, job.item.folder, temporaryName(work.intakeId, job.item.filedItemId));

async function makeFolders(items: readonly Unfinished[], work: BatchWork, report: Report): Promise<void> {
  for (const place of work.places) {
    for (const folder of new Set(items.map((item) => item.folder))) {
      try {
        await makeFolder(place.root, folder);
      } catch (error) {
        for (const item of items.filter((candidate) => candidate.folder === folder)) await report.failed(item, place, error);
      }
    }
  }
}

/** What stands in the folders already, looked up once a batch. */
class Strangers {
  private readonly known = new Map<string, Promise<Map<string, string>>>();

  /** The name that stands at a place where this one should: spelt the same or only alike; null when it is free. */
  async at(place: Place, folder: string, name: string): Promise<string | null> {
    const key = `${place.root}\0${folder}`;
    const names =
      this.known.get(key) ?? namesIn(place.root, folder).then((list) => new Map(list.map((spelt) => [foldName(spelt), spelt])));
    this.known.set(key, names);
    return (await names).get(foldName(name)) ?? null;
  }
}

async function copyJob(job: Job, work: BatchWork, report: Report, strangers: Strangers): Promise<void> {
  work.signal.throwIfAborted();
  if (report.cardGone) return;
  const { item } = job;
  const source: Source = { path: joinBytes(work.sourcePath, item.pathBytes), bytes: item.bytes, modifiedAt: item.modifiedAt };
  const places = placesFor(item, work).filter((place) => !report.lost.has(place.id));
  const standing = new Map<BatchPlace, string>();
  for (const place of places) {
    const name = await strangers.at(place, item.folder, job.name).catch(() => null);
    if (name !== null) standing.set(place, name);
  }
  try {
    const copied = await copyTo(
      job,
      source,
      places.filter((place) => !standing.has(place)),
      work,
      report,
    );
    job.hash = copied.hash;
    job.quickHash = copied.quickHash;
    job.changed = copied.changed;
    const strange: BatchPlace[] = [];
    for (const [place, name] of standing) if (!(await isOurs(job, place, name, work, report))) strange.push(place);
    if (strange.length && (await moveAside(job, strange, work, report, strangers)))
      job.changed = (await copyTo(job, source, strange, work, report)).changed;
  } catch (error) {
    if (!(error instanceof SourceError)) throw error;
    await discard(job, job.written, work);
    // A card that is gone is not an unreadable file: its items wait.
    if (error.code !== 'ECHANGED' && !(await work.sourceStands())) report.cardGone = true;
    else if (work.from === 'card') report.all(item, 'unreadable', error.message);
    else report.all(item, 'waiting', `the copy it would be made from ${error.message}`);
  }
}

/** Removes temporary files of a job. */
async function discard(job: Job, places: readonly BatchPlace[], work: BatchWork): Promise<void> {
  for (const place of places) await removeTemporary(temporaryPath(job, place, work));
  job.written = job.written.filter((place) => !places.includes(place));
}

async function copyTo(job: Job, source: Source, places: readonly BatchPlace[], work: BatchWork, report: Report) {
  const targets = places.map((place) => ({
    placeId: place.id,
    temporary: temporaryPath(job, place, work),
    direct: place.direct,
  }));
  // Noted before the copy: whatever happens from here on, these temporary files are ours to remove.
  job.written = [...new Set([...job.written, ...places])];
  const copied = await copyFile(source, targets, work.signal, work.onBytes, work.files, (head) => {
    const insertion = work.inside?.plan(job.item, head) ?? null;
    job.insertion = insertion && isFeasible(insertion.edit) ? insertion : null;
    return job.insertion?.edit ?? null;
  });
  // What was read from the card once is what every copy is compared with, whenever it is made.
  const { hash, quickHash } = job.item;
  if (hash && !copied.hash.equals(hash)) throw new SourceError('holds other bytes now than were filed', 'ECHANGED');
  if (quickHash && !copied.quickHash.equals(quickHash))
    throw new SourceError('is not what was read when the card came', 'ECHANGED');
  for (const place of places) {
    const failure = copied.failed.get(place.id);
    if (failure === undefined) continue;
    await report.failed(job.item, place, failure);
    await discard(job, [place], work);
  }
  return copied;
}

/** A file stands under the name already. When it holds the same bytes an interrupted run of this intake put it there. */
async function isOurs(job: Job, place: BatchPlace, name: string, work: BatchWork, report: Report): Promise<boolean> {
  if (name !== job.name) return false;
  try {
    const { hash, method } = await proveFile(join(place.root, job.item.folder, name), place.direct, work.signal, work.files);
    // As it came, or with something that an interrupted run put into it.
    const known = hash.equals(job.hash!)
      ? { version: 0 }
      : (await work.inside?.before(job.item))?.find((one) => one.hash.equals(hash));
    if (!known) return false;
    report.set(job.item, place, 'tallied', null, toldAt(place, method), known.version);
    return true;
  } catch {
    work.signal.throwIfAborted();
    return false;
  }
}

/** Another file stands under the name: the item gets the next free suffix, in the open. */
async function moveAside(
  job: Job,
  strange: readonly BatchPlace[],
  work: BatchWork,
  report: Report,
  strangers: Strangers,
  justNamed: readonly BatchPlace[] = [],
): Promise<boolean> {
  const { item } = job;
  const settled = (place: BatchPlace) => isTallied(report, item, place) && !justNamed.includes(place);
  const elsewhere = item.tallied.length > 0 || placesFor(item, work).some(settled);
  if (elsewhere) {
    for (const place of strange) report.set(item, place, 'differs', `another file stands under this name on ${place.name}`);
    return false;
  }
  const ext = extensionOf(job.name);
  for (let copy = 2; copy < 1000; copy++) {
    const name = `${stemOf(job.name)}-${copy}${ext ? `.${ext}` : ''}`;
    const taken = await Promise.all(work.places.map((place) => strangers.at(place, item.folder, name)));
    if (taken.some((found) => found !== null) || !(await work.rename(item, name))) continue;
    report.events.push(
      `${job.name} was taken on ${strange.map((place) => place.name).join(' and ')} by another file: ${item.path} is filed as ${name}.`,
    );
    job.name = name;
    return true;
  }
  report.all(item, 'differs', 'no free name was found');
  return false;
}

const isTallied = (report: Report, item: Unfinished, place: Place) =>
  report.copies.get(`${item.filedItemId} ${place.id}`)?.state === 'tallied';

async function proveJob(job: Job, place: BatchPlace, work: BatchWork, report: Report): Promise<void> {
  try {
    const path = temporaryPath(job, place, work);
    const asBefore = job.stands;
    const { hash, original, method } = await proveFile(
      path,
      place.direct,
      work.signal,
      work.files,
      asBefore ? null : job.insertion,
    );
    work.onBytes(job.item.bytes);
    // Both must be what they should: the file as it stands, and without what was put into it. A copy that is the same as
    // one that was both is both.
    const isWhole = asBefore ? hash.equals(asBefore) : original?.equals(job.hash!) === true && (job.stands ??= hash).equals(hash);
    if (isWhole) job.proven.set(place, toldAt(place, method));
    else report.set(job.item, place, 'differs', `the copy on ${place.name} differs from the card`);
  } catch (error) {
    work.signal.throwIfAborted();
    await report.failed(job.item, place, error);
  }
}

/** Nothing gets a name before it is known how what was put into it comes out again. */
async function keepInside(jobs: readonly Job[], work: BatchWork): Promise<void> {
  const put = jobs.flatMap(({ item: { filedItemId, itemId }, insertion, changed, stands, proven }): PutInside[] =>
    insertion && changed && stands && proven.size ? [{ filedItemId, itemId, insertion, ...changed, hash: stands }] : [],
  );
  if (!put.length || !work.inside) return;
  const versions = await work.inside.keep(put);
  for (const job of jobs) job.version = (job.insertion && versions.get(job.item.filedItemId)) ?? 0;
}

async function nameJob(job: Job, work: BatchWork, report: Report): Promise<void> {
  const named: BatchPlace[] = [];
  const finalAt = (place: BatchPlace) => join(place.root, job.item.folder, job.name);
  for (const [place, method] of job.proven) {
    try {
      const temporary = temporaryPath(job, place, work);
      let isNamed = await giveFinalName(temporary, finalAt(place), place.links);
      // Somebody took the name since it was looked up. Another one, unless an earlier copy bears this one already.
      const before = named.map((one) => [one, finalAt(one)] as const);
      if (!isNamed && (await moveAside(job, [place], work, report, new Strangers(), named))) {
        // Copies that got the old name a moment ago go along.
        for (const [one, old] of before) {
          if (!(await giveFinalName(old, finalAt(one), one.links)))
            report.set(job.item, one, 'differs', `another file stands under this name on ${one.name}`);
        }
        isNamed = await giveFinalName(temporary, finalAt(place), place.links);
      }
      if (!isNamed) continue;
      named.push(place);
      report.set(job.item, place, 'tallied', null, method, job.version);
    } catch (error) {
      await report.failed(job.item, place, error);
    }
  }
}

async function flushFolders(jobs: readonly Job[], work: BatchWork, report: Report): Promise<void> {
  for (const place of work.places) {
    const named = jobs.filter((job) => job.proven.has(place) && isTallied(report, job.item, place));
    for (const folder of new Set(named.map((job) => job.item.folder))) {
      try {
        await flushFolder(join(place.root, folder));
      } catch (error) {
        for (const job of named.filter((candidate) => candidate.item.folder === folder))
          await report.failed(job.item, place, error);
      }
    }
  }
}
