import { BackupManifest } from '@tally/contract';
import { staysBelow } from '@tally/core/rule';
import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { lstat, open, readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { z } from 'zod';
import { BackupError } from './errors.js';

/** What stands in a backup's folder. */
export const MANIFEST = 'backup.json';
export const SUMS = 'SHA256SUMS';
export const DUMP = 'database.dump';
export const SETTINGS = 'settings.json';
/** Of the data folder: what cannot be made again. */
export const FILES = 'files';
/** Where the files of a sealed backup belong: their names tell of people. */
export const FILE_NAMES = 'files.json';
/** Folders of the data folder that a backup holds. */
export const BACKED_UP = ['receipts', 'handed-in', 'arriving'] as const;

/** No manifest of ours is larger; what is was written by somebody else. */
const MANIFEST_BYTES = 4e6;
const SUMS_BYTES = 64e6;
/** A name in a list of checksums: no way out of the folder, nothing that a terminal or another tool reads as more than a name. */
const SafePath = z
  .string()
  .max(2_000)
  // eslint-disable-next-line no-control-regex -- that is what is refused
  .regex(/^[^/\\\u0000-\u001f][^\\\u0000-\u001f]*$/)
  .refine(staysBelow, 'leads out of the folder');

/** SHA-256 of a file, 64 hexadecimal digits: what `sha256sum` says. */
export async function sha256(path: string, signal: AbortSignal): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path, { highWaterMark: 1 << 20 }), hash, { signal });
  return hash.digest('hex');
}

/** Sums as `sha256sum` writes and checks them (GNU coreutils manual, md5sum invocation). @param sums by path */
export const writeSums = (sums: ReadonlyMap<string, string>): string =>
  [...sums]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([path, sum]) => `${sum}  ${path}\n`)
    .join('');

function readSums(text: string): Map<string, string> {
  const sums = new Map<string, string>();
  for (const line of text.split('\n').filter(Boolean)) {
    const [, sum, path] = /^([0-9a-f]{64}) [ *](.+)$/.exec(line) ?? [];
    if (!sum || !SafePath.safeParse(path).success) throw new BackupError(`${SUMS} holds a line that is no checksum`);
    sums.set(path!, sum);
  }
  return sums;
}

/** Files in a folder at any depth, by paths from there; links and devices are none. */
export async function filesBelow(root: string, folder = ''): Promise<string[]> {
  const entries = await readdir(join(root, folder), { withFileTypes: true }).catch((error: unknown) => {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return [];
    throw error;
  });
  const found: string[] = [];
  for (const entry of entries) {
    const path = folder ? `${folder}/${entry.name}` : entry.name;
    if (entry.isDirectory()) found.push(...(await filesBelow(root, path)));
    else if (entry.isFile()) found.push(path);
  }
  return found;
}

/** A small file of ours. @throws BackupError when it is not there, or too large to be one */
async function smallText(path: string, most: number): Promise<string> {
  const stats = await lstat(path).catch(() => null);
  if (!stats?.isFile()) throw new BackupError(`${path} is not there: this is no backup, or it was cut short`);
  if (stats.size > most) throw new BackupError(`${path} is too large to be one of ours`);
  return readFile(path, 'utf8');
}

export async function readManifest(folder: string): Promise<BackupManifest> {
  const text = await smallText(join(folder, MANIFEST), MANIFEST_BYTES);
  let content: unknown;
  try {
    content = JSON.parse(text);
  } catch {
    throw new BackupError(`${MANIFEST} is damaged`);
  }
  const { format, version } = z
    .object({ format: z.unknown(), version: z.unknown() })
    .catch({ format: 0, version: 0 })
    .parse(content);
  if (format === 'tally-stick-backup' && typeof version === 'number' && version > 1)
    throw new BackupError('it was made by a newer version of this program: bring it back with that one');
  const parsed = BackupManifest.safeParse(content);
  if (!parsed.success) throw new BackupError(`${MANIFEST} is not what we write, or is damaged`);
  return parsed.data;
}

/**
 * Reads a whole backup and compares it with its checksums. @returns what it says of itself, and how many bytes were read
 * @throws BackupError naming what is gone, altered or came in
 */
export async function verifyBackup(folder: string, signal: AbortSignal): Promise<{ manifest: BackupManifest; bytes: number }> {
  const manifest = await readManifest(folder);
  const sums = readSums(await smallText(join(folder, SUMS), SUMS_BYTES));
  const standing = new Set((await filesBelow(folder)).filter((path) => path !== SUMS));
  const gone = [...sums.keys()].filter((path) => !standing.has(path));
  if (gone.length) throw new BackupError(`${named(gone)} ${gone.length === 1 ? 'is' : 'are'} gone`);
  const more = [...standing].filter((path) => !sums.has(path));
  if (more.length) throw new BackupError(`${named(more)} came in since it was made`);
  if (!sums.has(MANIFEST)) throw new BackupError(`${SUMS} does not name ${MANIFEST}`);
  let bytes = 0;
  for (const [path, sum] of sums) {
    if ((await sha256(join(folder, path), signal)) !== sum) throw new BackupError(`${path} is not what it was`);
    bytes += (await lstat(join(folder, path))).size;
  }
  return { manifest, bytes };
}

const NAMED = 3;
const named = (paths: readonly string[]): string =>
  paths.slice(0, NAMED).join(', ') + (paths.length > NAMED ? ` and ${paths.length - NAMED} more` : '');

/** Where the files of a sealed backup belong, by their names in it. */
export const FileNames = z.record(z.string().regex(/^\d{6}\.age$/), SafePath);

/** Flushes a file that was written to its disk. */
export async function flushFile(path: string): Promise<void> {
  const handle = await open(path, 'r+');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}
