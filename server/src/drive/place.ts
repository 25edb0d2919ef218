import { constants } from 'node:fs';
import { access, link, open, readFile, readdir, realpath, rm, stat, statfs, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { randomBytes } from 'node:crypto';
import { BLOCK_BYTES, withChunk } from './aligned.js';
import { z } from 'zod';
import { codeOf } from './list-card.js';
import { readOwn, writeOwn } from './own-file.js';

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
  /** It stands on another machine: what was read back may have come from that one's memory. */
  readonly remote: boolean;
}

export type Standing =
  | { readonly online: true; readonly freeBytes: number; readonly totalBytes: number; readonly device: string }
  | {
      readonly online: false;
      readonly problem: string;
      /** The folder is there, and may be written, but does not carry this place's mark. */
      readonly unknown?: { readonly mark: PlaceMark | null };
    };

const PlaceMark = z.object({
  place: z.string().catch(''),
  mark: z.string(),
  /** What the place and its house are called, and the house's id; null in marks of before these were written. */
  name: z.string().nullable().catch(null),
  house: z.string().nullable().catch(null),
  houseId: z.string().nullable().catch(null),
});
/** What stands in the root of a place. */
export type PlaceMark = z.infer<typeof PlaceMark>;

/** Whose place it is. */
export type MarkedBy = Pick<PlaceMark, 'house' | 'houseId'>;

/** What a mark says of the place that it was given, in words. */
export const markWords = ({ name, house }: PlaceMark): string =>
  name === null || house === null ? 'another place' : `“${name}” of “${house}”, another house or an earlier life of this one`;

const IF_IT_IS = (id: string) => `If this is that drive, say so: on the Drive page, or by tally drive known ${id}`;
const OR_REBUILT = (id: string) => `. In a new house its logbook can be rebuilt from it, there or by tally rebuild ${id}`;

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
      return {
        online: false,
        problem: `${place.root} does not carry this place's mark: is the drive mounted? ${IF_IT_IS(place.id)}`,
        unknown: { mark: null },
      };
    if (found.mark !== mark)
      return {
        online: false,
        problem: `${place.root} carries the mark of ${markWords(found)}. ${IF_IT_IS(place.id)}${OR_REBUILT(place.id)}`,
        unknown: { mark: found },
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
export async function markPlace(place: Place, mark: string, by: MarkedBy): Promise<boolean> {
  const found = await readMark(place.root);
  if (found !== null) return found.mark === mark;
  if (!(await isFolder(place.root))) return false;
  await writeFile(join(place.root, MARKER), markText(place, mark, by), { flag: 'wx' });
  return true;
}

const WHY = 'Tally Stick files here. Without this file it takes the drive for absent.';

const markText = ({ id, name }: Place, mark: string, by: MarkedBy): string =>
  `${JSON.stringify({ place: id, mark, name, ...by, why: WHY }, null, 2)}\n`;

/**
 * Gives the root of a place its mark, whatever mark stands there: knowingly. In one step: it never stands without one.
 * Whoever calls holds the place. @param isMarked did a mark stand there, whichever? One that is gone since went away with its drive
 * @throws ENODEV when it is gone
 */
export async function markAnew(
  place: Place,
  mark: string,
  by: MarkedBy,
  { links, isMarked }: { readonly links: boolean; readonly isMarked: boolean },
): Promise<void> {
  const text = markText(place, mark, by);
  const before = await readOwn(place.root, MARKER);
  if (isMarked && before === null) throw Object.assign(new Error(`${place.root} went away`), { code: 'ENODEV' });
  if (before !== text && !(await writeOwn(place.root, MARKER, text, before !== null, links)))
    throw Object.assign(new Error(`${place.root} was marked by somebody else just now`), { code: 'EEXIST' });
}

/** Was a root marked as this place? */
export const carriesMark = async (root: string, mark: string): Promise<boolean> => (await readMark(root))?.mark === mark;

/** Does a folder stand on the disk that the system starts from? A mount point without its drive does. @param system a folder of it */
export async function isOnSystemDisk(root: string, system = '/'): Promise<boolean> {
  const [here, there] = await Promise.all([stat(root), stat(system)]);
  return here.dev === there.dev;
}

const isFolder = (path: string): Promise<boolean> =>
  stat(path).then(
    (found) => found.isDirectory(),
    (error: unknown) => {
      if (['ENOENT', 'ENOTDIR'].includes(codeOf(error))) return false;
      throw error;
    },
  );

async function readMark(root: string): Promise<PlaceMark | null> {
  const text = await readFile(join(root, MARKER), 'utf8').catch((error: unknown) => {
    if (['ENOENT', 'ENOTDIR'].includes(codeOf(error))) return '';
    throw error;
  });
  try {
    return PlaceMark.parse(JSON.parse(text));
  } catch {
    // Spoilt, or cut short: it is no mark.
    return null;
  }
}

/** File systems of other machines, as Linux names them. From memory. */
const REMOTE: readonly string[] = [
  ...['nfs', 'nfs4', 'cifs', 'smb3', 'smbfs', '9p', 'afs', 'ceph', 'lustre', 'glusterfs', 'davfs'],
  ...['fuse.sshfs', 'fuse.smbnetfs', 'fuse.davfs', 'fuse.rclone', 'fuse.s3fs', 'fuse.glusterfs', 'fuse.ceph'],
];

/** Does a folder stand on another machine? As the kernel's table of mounts says; no where there is none. */
async function isRemote(root: string): Promise<boolean> {
  const table = await readFile('/proc/self/mountinfo', 'utf8').catch(() => '');
  const path = await realpath(root);
  let found = { at: '', type: '' };
  for (const line of table.split('\n')) {
    const [before, after] = line.split(' - ');
    // Source: proc(5): the fifth field is the mount point, with spaces and the like as octal; behind the dash stands the type.
    const at = before?.split(' ')[4]?.replace(/\\([0-7]{3})/g, (_, octal: string) => String.fromCharCode(parseInt(octal, 8)));
    const isAbove = at !== undefined && (path === at || path.startsWith(at.endsWith('/') ? at : `${at}/`));
    if (isAbove && at.length >= found.at.length) found = { at, type: after?.split(' ')[0] ?? '' };
  }
  return REMOTE.includes(found.type);
}

/** Tries what the place's file system can do. Leaves nothing behind. */
export async function probe(place: Pick<Place, 'root'>): Promise<Abilities> {
  const remote = await isRemote(place.root);
  const base = join(place.root, `.tally-probe-${randomBytes(6).toString('hex')}`);
  // Past this machine's memory is not past that of another one, and not every such file system can cut off what that needs.
  const direct =
    !remote &&
    (await withChunk(async (chunk) => {
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
    }));
  try {
    if (!direct) await writeFile(base, 'x');
    await link(base, `${base}-link`);
    return { direct, links: true, remote };
  } catch {
    return { direct, links: false, remote };
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
