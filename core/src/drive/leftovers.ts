import { systemReason } from '../card/index.js';

/** What programs leave behind beside people's files. Common practice, no source. */
const OF_PROGRAMS: readonly [test: RegExp, reason: string][] = [
  [/^~\$/, 'a lock that an office program left'],
  [/^\.~lock\..*#$/, 'a lock that an office program left'],
  [/\.(tmp|temp)$/i, 'a temporary file'],
  [/\.(bak|old|orig)$/i, 'a copy that a program kept'],
  [/\.(lnk|url|webloc)$/i, 'a link of a desktop'],
  [/^Icon\r?$/, "a folder's picture"],
  [/^\.?[a-z]+\.ini$/i, 'settings of a program'],
  [/~$/, 'a copy that an editor kept'],
];

/** Folders that a storage box or a system keeps for itself, beside those of `systemReason`. Common practice, no source. */
const FOLDERS: readonly [test: RegExp, reason: string][] = [
  [/^@eaDir$/, 'small pictures that a storage box made'],
  [/^#(recycle|snapshot)$/i, 'wastebasket'],
  [/^\.AppleDouble$/, 'macOS companion files'],
  [/^lost\+found$/, 'recovered fragments of the drive'],
];

/** Names that writers use while a file is not whole. */
const HALF = /(\.part|\.partial|\.crdownload|\.download|\.filepart)$/i;

/** Why a file is what a program or a system left behind; null: a person or a camera made it. @param path `/` between folders. */
export function leftoverReason(path: string): string | null {
  const parts = path.split('/');
  const name = parts.pop() ?? '';
  for (const part of parts) {
    const reason = leftoverFolder(part);
    if (reason !== null) return reason;
  }
  // What is merely hidden on a phone or a camera is somebody's on a drive.
  const system = systemReason(name);
  if (system !== null && system !== 'hidden on the device') return system;
  return OF_PROGRAMS.find(([test]) => test.test(name))?.[1] ?? null;
}

/** The same of a folder by its name: all that is in it is left over. */
export const leftoverFolder = (name: string): string | null =>
  FOLDERS.find(([test]) => test.test(name))?.[1] ?? folderOfSystem(name);

function folderOfSystem(name: string): string | null {
  const reason = systemReason(`${name}/x`);
  return reason === null || reason === 'thumbnails folder' ? null : reason;
}

/** Does the name say that somebody is still writing it? */
export const isHalfName = (name: string): boolean => HALF.test(name);
