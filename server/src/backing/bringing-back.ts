import type { BackupManifest } from '@tally/contract';
import { constants } from 'node:fs';
import { copyFile, mkdir, mkdtemp, rename, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { knownMigrations, migrate, ownTables } from '../db/database.js';
import { atDatabase, countRows, removeAll, type Standing, standingOf } from '../db/whole-database.js';
import { codeOf } from '../drive/list-card.js';
import { isThere } from '../drive/walk.js';
import type { Settings } from '../settings.js';
import { BACKED_UP, DUMP, FILE_NAMES, FileNames, FILES, filesBelow, flushFile, sha256, verifyBackup } from './contents.js';
import { listDump, restoreDatabase } from './dump.js';
import { KEY_FILE, type Seal, SEALED, sealOf } from './seal.js';
import { BackupError } from './errors.js';

/** What is asked for when a backup is brought back. */
export interface BringBack {
  readonly settings: Settings;
  /** The backup's folder. */
  readonly folder: string;
  readonly passphrase: string | null;
  readonly signal: AbortSignal;
}

/** A backup that was read, and proved to be whole. */
export interface WholeBackup {
  readonly manifest: BackupManifest;
  readonly bytes: number;
  /** What opens it; null: it is not sealed. */
  readonly seal: Seal | null;
}

const ownerUrl = ({ databaseAdminUrl, databaseUrl }: Settings) => databaseAdminUrl ?? databaseUrl;

/**
 * Reads a whole backup, and looks whether it can be brought back here. Changes nothing.
 * @throws BackupError when it is damaged, of a newer version, sealed by another passphrase, or the database is not empty
 */
export async function lookAtBackup({ settings, folder, passphrase, signal }: BringBack): Promise<WholeBackup> {
  const whole = await verifyBackup(folder, signal);
  const known = new Set(knownMigrations());
  const newer = whole.manifest.migrations.filter((name) => !known.has(name));
  if (newer.length)
    throw new BackupError(`it was made by a newer version of this program (${newer[0]}): bring it back with that one`);
  const seal = whole.manifest.sealed ? await sealFor(folder, passphrase) : null;
  if (!seal) await listDump(join(folder, DUMP), signal);
  await atDatabase(ownerUrl(settings), async (client) => mustBeEmpty(await standingOf(client, ownTables())));
  return { ...whole, seal };
}

async function sealFor(folder: string, passphrase: string | null): Promise<Seal> {
  if (passphrase === null)
    throw new BackupError(
      'it is sealed: say its passphrase by TALLY_BACKUP_PASSPHRASE, or by backup.passphraseFile in the settings',
    );
  return sealOf(passphrase, join(folder, KEY_FILE));
}

function mustBeEmpty({ intakes, contributors, assignments, others, foreign }: Standing): void {
  if (intakes || contributors || assignments)
    throw new BackupError(
      `the database of these settings is not empty (${intakes} intakes, ${contributors} contributors, ${assignments} assignments): a backup is brought back into an empty one. Name another: TALLY_DATABASE_URL`,
    );
  if (foreign.length)
    throw new BackupError(
      `the database holds tables of other programs (${foreign.slice(0, 3).join(', ')}): a backup is brought back into a database of its own. Name another: TALLY_DATABASE_URL`,
    );
  if (others)
    throw new BackupError('somebody is connected to the database: end the server, and everything else that uses it, first');
}

/**
 * Brings a backup back into the empty database that the settings name, and its files into the data folder, where nothing is
 * replaced. The files first: whoever is killed in between begins again. The database as a whole, or not at all.
 * @returns files that stand there already and are others: they stay
 */
export async function bringBack(ask: BringBack, { manifest, seal }: WholeBackup): Promise<{ others: string[] }> {
  const { settings, folder, signal } = ask;
  await mkdir(join(settings.dataDir, 'run'), { recursive: true, mode: 0o700 });
  const scratch = await mkdtemp(join(settings.dataDir, 'run', 'bring-back-'));
  try {
    const dump = seal ? join(scratch, DUMP) : join(folder, DUMP);
    if (seal) {
      await seal.open(join(folder, `${DUMP}${SEALED}`), dump);
      await listDump(dump, signal);
    }
    const others = await bringFiles(ask, seal, scratch);
    await atDatabase(ownerUrl(settings), async (client) => {
      const standing = await standingOf(client, ownTables());
      mustBeEmpty(standing);
      if (standing.isMade) await removeAll(client);
    });
    await restoreDatabase(ownerUrl(settings), dump, signal);
    await atDatabase(ownerUrl(settings), async (client) => mustBeWhole(manifest, await countRows(client)));
    await migrate(ownerUrl(settings), settings.databaseUrl, settings.databaseBackupUrl);
    return { others };
  } finally {
    await rm(scratch, { recursive: true, force: true });
  }
}

function mustBeWhole({ rows }: BackupManifest, now: Record<string, number>): void {
  const wrong = Object.entries(rows).filter(([table, count]) => now[table] !== count);
  if (wrong.length)
    throw new BackupError(
      `what was read in is not what was written: ${wrong.map(([table, count]) => `${table} has ${now[table] ?? 'no'} rows of ${count}`).join(', ')}`,
    );
}

async function bringFiles({ settings, folder, signal }: BringBack, seal: Seal | null, scratch: string): Promise<string[]> {
  const names = seal ? await namesIn(seal, folder) : null;
  const others: string[] = [];
  for (const path of await filesBelow(join(folder, FILES))) {
    signal.throwIfAborted();
    const to = names ? names[path] : path;
    if (to === undefined || !BACKED_UP.some((one) => to.startsWith(`${one}/`)))
      throw new BackupError(`${FILES}/${path} belongs nowhere`);
    let from = join(folder, FILES, path);
    if (seal) {
      from = join(scratch, 'opened');
      await rm(from, { force: true });
      await seal.open(join(folder, FILES, path), from);
    }
    if (!(await bring(from, join(settings.dataDir, to), signal))) others.push(to);
  }
  return others;
}

async function namesIn(seal: Seal, folder: string): Promise<Record<string, string>> {
  const file = join(folder, `${FILE_NAMES}${SEALED}`);
  if (!(await isThere(file))) return {};
  const names = FileNames.safeParse(JSON.parse(await seal.openText(file)));
  if (!names.success) throw new BackupError(`${FILE_NAMES}${SEALED} does not say where its files belong`);
  return names.data;
}

/** Copies a file to where nothing stands, or where it stands already. @returns false when something else stands there */
async function bring(from: string, to: string, signal: AbortSignal): Promise<boolean> {
  await mkdir(dirname(to), { recursive: true, mode: 0o700 });
  const temporary = `${to}.${process.pid}.part`;
  try {
    await copyFile(from, temporary, constants.COPYFILE_EXCL);
    await flushFile(temporary);
    if (await isThere(to)) return (await sha256(to, signal)) === (await sha256(temporary, signal));
    await rename(temporary, to);
    return true;
  } catch (error) {
    throw new BackupError(`${to} cannot be written (${codeOf(error)})`);
  } finally {
    await rm(temporary, { force: true });
  }
}
