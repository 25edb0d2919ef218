import { BackupManifest } from '@tally/contract';
import { type BackupKept, isOtherWeek, toThin } from '@tally/core/backup';
import { formatBytes } from '@tally/core/logbook';
import { createHash, randomBytes } from 'node:crypto';
import { createReadStream, createWriteStream, readFileSync } from 'node:fs';
import { link, mkdir, mkdtemp, readdir, readFile, rename, rm, rmdir, stat, utimes, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { atOneMoment, type Facts } from '../db/whole-database.js';
import { flushFolder } from '../drive/final-name.js';
import { codeOf } from '../drive/list-card.js';
import { freeBytesAt } from '../drive/place.js';
import { isThere } from '../drive/walk.js';
import { houseId, type House, houseTime, record, Refusal, tell } from '../house/index.js';
import {
  BACKED_UP,
  DUMP,
  FILE_NAMES,
  FILES,
  filesBelow,
  flushFile,
  MANIFEST,
  readManifest,
  SETTINGS,
  sha256,
  SUMS,
  writeSums,
} from './contents.js';
import { calledBy, type Destination } from './destinations.js';
import { dumpDatabase, listDump } from './dump.js';
import { KEY_FILE, newSeal, type Seal, SEALED } from './seal.js';
import { addMade, type MadeRow } from './store.js';
import { BackupError } from './errors.js';

const packageFile = new URL('../../../package.json', import.meta.url);
const VERSION = (JSON.parse(readFileSync(packageFile, 'utf8')) as { version: string }).version;
/** The house's time, then the system's in milliseconds: of two of one second the later one sorts behind. */
const NAME = /^(\d{4}-\d\d-\d\d)_(\d\d)(\d\d)(\d\d)_[0-9a-f]{11}$/;
/** What other users of a disk need not see. */
const CLOSED = 0o700;
/** Besides what is backed up, that nothing else stops for want of room. */
const SPARE_BYTES = 64e6;

/** A file of the data folder, by its path from there. */
interface ToBack {
  readonly path: string;
  readonly bytes: number;
  readonly mtime: Date;
}

/**
 * Backs the house up: the database as it is at one moment, then the files that it knows of. At each destination a folder of its
 * own under a temporary name; read back, then renamed, then older ones are thinned, unless somebody makes it by hand. One at a time.
 * @returns what became of it at each destination @throws Refusal when another one is being made
 */
export async function backUp(
  house: House,
  destinations: readonly Destination[],
  { who, passphrase, signal }: { readonly who: string | null; readonly passphrase: string | null; readonly signal: AbortSignal },
): Promise<MadeRow[]> {
  const made: MadeRow[] = [];
  const held = await house.locks.hold('backing', 0, signal, async (inner) => {
    made.push(...(await new Backup(house, passphrase, who === null, inner).to(destinations)));
  });
  if (!held) throw new Refusal('conflict', 'The house is being backed up just now: wait until that is done.');
  await tellOf(house, made, who);
  return made;
}

async function tellOf(house: House, made: readonly MadeRow[], who: string | null): Promise<void> {
  const good = made.filter(({ problem }) => problem === null);
  const words = [
    ...(good.length
      ? [
          `The house was backed up to ${good.map(({ to, bytes }) => `${calledBy(house.settings, to)} (${formatBytes(bytes)})`).join(', ')}.`,
        ]
      : []),
    ...made.flatMap(({ to, problem }) =>
      problem === null ? [] : [`It could not be backed up to ${calledBy(house.settings, to)}: ${problem}.`],
    ),
  ];
  for (const one of made) await addMade(house.db, one);
  await record(house.db, { at: house.clock(), kind: 'backup', intakeId: null, who, text: words.join(' ') });
  await tell(house.db, { type: 'desk' });
}

class Backup {
  private readonly at: Date;

  constructor(
    private readonly house: House,
    private readonly passphrase: string | null,
    /** Do older ones go? What somebody makes before they try something is to be there after the next one, too. */
    private readonly thins: boolean,
    private readonly signal: AbortSignal,
  ) {
    this.at = house.clock();
  }

  async to(destinations: readonly Destination[]): Promise<MadeRow[]> {
    const { settings } = this.house;
    const scratch = await mkdtemp(join(settings.dataDir, 'run', 'backup-'));
    try {
      const dump = join(scratch, DUMP);
      const facts = await this.dump(dump).catch((error: unknown) => {
        this.signal.throwIfAborted();
        return inWords(error);
      });
      const files = typeof facts === 'string' ? [] : await this.files();
      const made: MadeRow[] = [];
      for (const { to, folder, problem, apart, mustStand } of destinations) {
        const row = { at: this.at, to, apart, folder: null, bytes: 0 };
        if (typeof facts === 'string') made.push({ ...row, problem: facts });
        else if (folder === null) made.push({ ...row, problem });
        else
          made.push(
            await this.inFolder({ folder, mustStand }, dump, facts, files).then(
              (done) => ({ ...row, ...done, problem: null }),
              (error: unknown) => {
                this.signal.throwIfAborted();
                return { ...row, problem: inWords(error) };
              },
            ),
          );
      }
      return made;
    } finally {
      await rm(scratch, { recursive: true, force: true });
    }
  }

  private async dump(file: string): Promise<Facts> {
    const { databaseBackupUrl, databaseUrl } = this.house.settings;
    const url = databaseBackupUrl ?? databaseUrl;
    return atOneMoment(url, async (snapshot, facts) => {
      await dumpDatabase(url, file, snapshot, this.signal);
      // Cut short by a disk that is full it would list nothing.
      await listDump(file, this.signal);
      return facts;
    });
  }

  /** What of the data folder cannot be made again. What arrives is looked at first: what moves on meanwhile is found where it goes. */
  private async files(): Promise<ToBack[]> {
    const { dataDir } = this.house.settings;
    const found: ToBack[] = [];
    for (const folder of [...BACKED_UP].reverse())
      for (const below of await filesBelow(dataDir, folder)) {
        if (below.startsWith('arriving/parts/') || below.endsWith('.part')) continue;
        const stats = await stat(join(dataDir, below)).catch(() => null);
        if (stats) found.push({ path: below, bytes: stats.size, mtime: stats.mtime });
      }
    return found;
  }

  private async inFolder(
    { folder, mustStand }: { readonly folder: string; readonly mustStand: () => Promise<void> },
    dump: string,
    facts: Facts,
    files: readonly ToBack[],
  ): Promise<{ folder: string; bytes: number }> {
    await mustStand();
    // A place's root is never made: an empty one keeps its drive from coming back.
    const isNew = await mkdir(folder, { mode: CLOSED }).then(
      () => true,
      (error: unknown) => {
        if (codeOf(error) !== 'EEXIST') throw error;
        return false;
      },
    );
    const id = await houseId(this.house.db);
    const making = `.tally-making-${id.slice(-12)}-`;
    for (const left of await readdir(folder))
      if (left.startsWith(making)) await rm(join(folder, left), { recursive: true, force: true });
    const before = this.passphrase === null ? await this.newest(folder, id) : null;
    const { size } = await stat(dump);
    const bytes = size + files.reduce((sum, one) => sum + one.bytes, 0);
    const free = await freeBytesAt(folder);
    if (free < size + SPARE_BYTES || (!before && free < bytes + SPARE_BYTES))
      throw new BackupError(`there is room for ${formatBytes(free)}, and ${formatBytes(bytes)} are to be kept`);
    const temporary = join(folder, `${making}${randomBytes(6).toString('hex')}`);
    await mkdir(temporary, { mode: CLOSED });
    try {
      const sums = await this.write(temporary, dump, facts, files, before);
      const total = await this.readBack(temporary, sums);
      await mustStand();
      const local = houseTime(this.house, this.at);
      const name = `${local.slice(0, 10)}_${local.slice(11, 19).replaceAll(':', '')}_${Date.now().toString(16)}`;
      await rename(temporary, join(folder, name));
      await flushFolder(folder);
      if (this.thins) await this.thin(folder, id);
      return { folder: join(folder, name), bytes: total };
    } finally {
      await rm(temporary, { recursive: true, force: true });
      // Made just now where the place went away in that moment, it stands empty in a mount point.
      if (isNew) await rmdir(folder).catch(() => undefined);
    }
  }

  /** Writes everything that a backup holds. @returns SHA-256 of each file, as it was read where it came from */
  private async write(
    into: string,
    dump: string,
    facts: Facts,
    files: readonly ToBack[],
    before: Before | null,
  ): Promise<Map<string, string>> {
    const sums = new Map<string, string>();
    const seal = this.passphrase === null ? null : await newSeal(this.passphrase, join(into, KEY_FILE));
    if (seal) sums.set(KEY_FILE, await sha256(join(into, KEY_FILE), this.signal));
    await this.put(seal, into, dump, DUMP, sums);
    await this.putText(seal, into, SETTINGS, this.settings(), sums);
    if (files.length) await mkdir(join(into, FILES), { mode: CLOSED });
    const names: Record<string, string> = {};
    for (const [index, file] of files.entries()) {
      this.signal.throwIfAborted();
      const name = seal ? String(index + 1).padStart(6, '0') : file.path;
      const stored = `${FILES}/${name}${seal ? SEALED : ''}`;
      await this.keep(seal, into, file, `${FILES}/${name}`, sums, before).catch(async (error: unknown) => {
        // It arrived, and was taken in, meanwhile; it stands in the folder that was looked through later.
        if (codeOf(error) !== 'ENOENT' || (await isThere(join(this.house.settings.dataDir, file.path)))) throw error;
        await rm(join(into, stored), { force: true });
      });
      if (seal && sums.has(stored)) names[`${name}${SEALED}`] = file.path;
    }
    if (seal && files.length) await this.putText(seal, into, FILE_NAMES, JSON.stringify(names, null, 2), sums);
    const { house, settings } = { house: this.house, settings: this.house.settings };
    const manifest = BackupManifest.parse({
      ...{ format: 'tally-stick-backup', version: 1, house: settings.house, houseId: await houseId(house.db) },
      ...{ epoch: facts.epoch, madeAt: this.at.toISOString(), program: VERSION, postgres: facts.postgres },
      ...{ migrations: facts.migrations, places: facts.places, rows: facts.rows, log: facts.log, sealed: seal !== null },
    });
    await this.putText(null, into, MANIFEST, `${JSON.stringify(manifest, null, 2)}\n`, sums);
    await writeFile(join(into, SUMS), writeSums(sums), { flag: 'wx', mode: 0o600 });
    await flushFile(join(into, SUMS));
    return sums;
  }

  private async put(seal: Seal | null, into: string, from: string, name: string, sums: Map<string, string>): Promise<void> {
    const path = seal ? `${name}${SEALED}` : name;
    const to = join(into, path);
    if (seal) {
      await seal.seal(from, to);
      sums.set(path, await sha256(to, this.signal));
    } else sums.set(path, await copySummed(from, to, this.signal));
    await flushFile(to);
  }

  private async putText(seal: Seal | null, into: string, name: string, text: string, sums: Map<string, string>): Promise<void> {
    const path = seal ? `${name}${SEALED}` : name;
    const to = join(into, path);
    if (seal) await seal.sealText(text, to);
    else await writeFile(to, text, { flag: 'wx', mode: 0o600 });
    sums.set(path, seal ? await sha256(to, this.signal) : createHash('sha256').update(text).digest('hex'));
    await flushFile(to);
  }

  /** A file of the data folder: linked to where the backup before has it, on a file system that can; else copied. */
  private async keep(
    seal: Seal | null,
    into: string,
    { path, bytes, mtime }: ToBack,
    name: string,
    sums: Map<string, string>,
    before: Before | null,
  ): Promise<void> {
    const from = join(this.house.settings.dataDir, path);
    await mkdir(dirname(join(into, name)), { recursive: true, mode: CLOSED });
    const known = before?.sums.get(name);
    if (before && known !== undefined) {
      const there = await stat(join(before.folder, name)).catch(() => null);
      const isSame = there?.size === bytes && Math.abs(there.mtimeMs - mtime.getTime()) < 2_000;
      // Where there are no hard links, or no more of this file, it is copied.
      if (
        isSame &&
        (await link(join(before.folder, name), join(into, name)).then(
          () => true,
          () => false,
        ))
      ) {
        sums.set(name, known);
        return;
      }
    }
    await this.put(seal, into, from, name, sums);
    await utimes(join(into, seal ? `${name}${SEALED}` : name), mtime, mtime);
  }

  /** Compares what was written with what was read. What is linked was compared when it was written, and is by every check. */
  private async readBack(folder: string, sums: ReadonlyMap<string, string>): Promise<number> {
    const others = (await filesBelow(folder)).filter((path) => path !== SUMS && !sums.has(path));
    if (others.length) throw new BackupError(`${others[0]} stands in it and is in no list`);
    let bytes = 0;
    for (const [path, sum] of sums) {
      const { size, nlink } = await stat(join(folder, path));
      bytes += size;
      if (nlink > 1) continue;
      if ((await sha256(join(folder, path), this.signal)) !== sum)
        throw new BackupError(`${path} does not read as it was written`);
    }
    return bytes;
  }

  /** The newest backup of this house in a folder: what did not change since need not be copied again, but once a week. */
  private async newest(folder: string, id: string): Promise<Before | null> {
    const last = (await ownBackups(folder, id)).at(-1);
    // Then all of it is written, and read back, anew.
    if (!last || isOtherWeek(last.local, houseTime(this.house, this.at))) return null;
    const text = await readFile(join(folder, last.name, SUMS), 'utf8').catch(() => '');
    const sums = new Map(text.split('\n').flatMap((line) => (line ? [[line.slice(66), line.slice(0, 64)] as const] : [])));
    return { folder: join(folder, last.name), sums };
  }

  private async thin(folder: string, id: string): Promise<void> {
    const { backup } = this.house.settings;
    if (backup === 'by hand') return;
    for (const name of toThin(await ownBackups(folder, id), backup.keep)) {
      // Under a name that nobody takes for a backup before the first of its files goes.
      const gone = join(folder, `.tally-making-${id.slice(-12)}-gone-${name}`);
      await rename(join(folder, name), gone);
      await rm(gone, { recursive: true, force: true });
    }
  }

  /** The settings, without what is secret: addresses of databases have passwords in them. */
  private settings(): string {
    const { databaseUrl: _url, databaseAdminUrl: _admin, databaseBackupUrl: _backup, ...rest } = this.house.settings;
    return `${JSON.stringify(rest, null, 2)}\n`;
  }
}

interface Before {
  readonly folder: string;
  readonly sums: ReadonlyMap<string, string>;
}

/** Backups of a house in a folder, the oldest first; what others keep there is theirs. */
export async function ownBackups(folder: string, id: string): Promise<BackupKept[]> {
  const found: BackupKept[] = [];
  for (const name of (await readdir(folder).catch(() => [])).sort()) {
    const [, day, hour, minute, second] = NAME.exec(name) ?? [];
    if (!day) continue;
    const manifest = await readManifest(join(folder, name)).catch(() => null); // Not ours, or damaged: nothing of it is removed.
    if (manifest?.houseId === id) found.push({ name, local: `${day}T${hour}:${minute}:${second}` });
  }
  return found;
}

/** Copies a file to where nothing stands. @returns SHA-256 of what was read */
async function copySummed(from: string, to: string, signal: AbortSignal): Promise<string> {
  const hash = createHash('sha256');
  const summing = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      hash.update(chunk);
      done(null, chunk);
    },
  });
  await pipeline(
    createReadStream(from, { highWaterMark: 1 << 20 }),
    summing,
    createWriteStream(to, { flags: 'wx', mode: 0o600 }),
    {
      signal,
    },
  );
  return hash.digest('hex');
}

const IN_WORDS: Readonly<Record<string, string>> = {
  ...{ ENOSPC: 'its disk is full', EACCES: 'it may not be written', EROFS: 'it may not be written' },
  ...{ ENOENT: 'it went away meanwhile', EIO: 'its disk does not answer as it should' },
};

/** Why it could not be done, for people. */
function inWords(error: unknown): string {
  if (error instanceof BackupError) return error.message;
  const code = codeOf(error);
  return IN_WORDS[code] ?? (error as Error).message;
}
