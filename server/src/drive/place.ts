import { constants } from 'node:fs';
import { access, link, open, readFile, readdir, rm, stat, statfs, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { randomBytes } from 'node:crypto';
import { BLOCK_BYTES, withChunk } from './aligned.js';
import { codeOf } from './list-card.js';

const MARKER = '.tally-place.json';

/** A place as a file system. */
export interface Place {
  readonly id: string;
  readonly name: string;
  readonly root: string;
}

/** What a place's file system can do, found out by trying. */
export interface Abilities {
  /** Direct input and output, past the page cache. */
  readonly direct: boolean;
  /** Hard links, so that a final name can be given without ever replacing one. */
  readonly links: boolean;
}

export type Standing =
  | { readonly online: true; readonly freeBytes: number; readonly totalBytes: number; readonly device: string }
  | { readonly online: false; readonly problem: string };

/**
 * Is the place there? Its root must be a writable folder that carries the mark this place was given: an empty mount
 * point is not the drive. A file system that says 0 bytes of 0, as some over a network do, has room that nobody knows: `Infinity`.
 */
export async function standingOf(place: Place, mark: string): Promise<Standing> {
  try {
    const stats = await stat(place.root);
    if (!stats.isDirectory()) return { online: false, problem: `${place.root} is not a folder` };
    await access(place.root, constants.W_OK | constants.X_OK);
    const found = await readMark(place.root);
    if (found === null)
      return { online: false, problem: `${place.root} does not carry this place's mark: is the drive mounted?` };
    if (found !== mark)
      return {
        online: false,
        problem: `${place.root} carries the mark of another place (if that is meant, remove ${MARKER} there)`,
      };
    const { blocks, bavail, bsize } = await statfs(place.root);
    return {
      online: true,
      freeBytes: blocks > 0 ? bavail * bsize : Infinity,
      totalBytes: blocks > 0 ? blocks * bsize : Infinity,
      device: String(stats.dev),
    };
  } catch (error) {
    const code = codeOf(error);
    const problem =
      code === 'ENOENT'
        ? `${place.root} is not there`
        : code === 'EACCES'
          ? `${place.root} may not be written`
          : `${place.root}: ${code}`;
    return { online: false, problem };
  }
}

/** @throws ENODEV when a place is not there any more: what was not found on it is not gone. */
export async function mustStillStand(place: Place & { readonly mark: string }): Promise<void> {
  const standing = await standingOf(place, place.mark);
  if (!standing.online) throw Object.assign(new Error(`${place.name} ${standing.problem}`), { code: 'ENODEV' });
}

/**
 * Marks the root of a place that was never marked before. The root is not made: one that is mistyped would be taken for a drive.
 * @returns whether it carries the place's mark now. @throws the system's error but that it is not there.
 */
export async function markPlace(place: Place, mark: string): Promise<boolean> {
  const found = await readMark(place.root);
  if (found !== null) return found === mark;
  if (!(await isFolder(place.root))) return false;
  const text = `${JSON.stringify({ place: place.id, mark, why: 'Tally Stick files here. Without this file it takes the drive for absent.' }, null, 2)}\n`;
  await writeFile(join(place.root, MARKER), text, { flag: 'wx' });
  return true;
}

const isFolder = (path: string): Promise<boolean> =>
  stat(path).then(
    (found) => found.isDirectory(),
    (error: unknown) => {
      if (['ENOENT', 'ENOTDIR'].includes(codeOf(error))) return false;
      throw error;
    },
  );

async function readMark(root: string): Promise<string | null> {
  try {
    const content: unknown = JSON.parse(await readFile(join(root, MARKER), 'utf8'));
    const mark = (content as { mark?: unknown } | null)?.mark;
    return typeof mark === 'string' ? mark : null;
  } catch (error) {
    if (['ENOENT', 'ENOTDIR'].includes(codeOf(error))) return null;
    throw error;
  }
}

/** Tries what the place's file system can do. Leaves nothing behind. */
export async function probe(place: Pick<Place, 'root'>): Promise<Abilities> {
  const base = join(place.root, `.tally-probe-${randomBytes(6).toString('hex')}`);
  const direct = await withChunk(async (chunk) => {
    try {
      const handle = await open(base, constants.O_CREAT | constants.O_EXCL | constants.O_RDWR | constants.O_DIRECT);
      try {
        await handle.write(chunk, 0, BLOCK_BYTES, 0);
        await handle.read(chunk, 0, BLOCK_BYTES, 0);
        return true;
      } finally {
        await handle.close();
      }
    } catch {
      return false;
    }
  });
  try {
    if (!direct) await writeFile(base, 'x');
    await link(base, `${base}-link`);
    return { direct, links: true };
  } catch {
    return { direct, links: false };
  } finally {
    await rm(base, { force: true });
    await rm(`${base}-link`, { force: true });
  }
}

/** Free bytes of the file system that a folder stands on, for this user; `Infinity` where it does not say. */
export async function freeBytesAt(folder: string): Promise<number> {
  const { blocks, bavail, bsize } = await statfs(folder);
  return blocks > 0 ? bavail * bsize : Infinity;
}

/** Names in a folder of a place as they are spelt there; none when the folder is not there. */
export async function namesIn(root: string, folder: string): Promise<string[]> {
  try {
    return await readdir(join(root, folder));
  } catch (error) {
    if (codeOf(error) === 'ENOENT') return [];
    throw error;
  }
}
