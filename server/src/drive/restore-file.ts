import type { Edit } from '@tally/core/fields';
import { lstat, mkdir, rm } from 'node:fs/promises';
import { copyFile, type Source } from './copy-file.js';
import { flushFolder, giveFinalName, isEmptyFile, stands } from './final-name.js';
import type { Files } from './files.js';
import { hashFile } from './hashing.js';
import { codeOf, joinBytes } from './list-card.js';
import type { Abilities } from './place.js';
import { proveFile } from './prove-file.js';

/** A file to be put back, and what it must be. */
export interface Restorable {
  /** Its path below the target, byte for byte as it was on the card. */
  readonly pathBytes: Buffer;
  readonly bytes: number;
  readonly modifiedAt: Date;
  /** XXH128 that was read from the card. */
  readonly hash: Buffer;
}

/** A copy that has something inside it: what it is with it, and how it comes out. */
export interface WithInside {
  readonly bytes: number;
  readonly hash: Buffer;
  readonly undo: Edit;
}

/** Where and how. */
export interface RestoreTo extends Abilities {
  readonly root: string;
  readonly files: Files;
  readonly signal: AbortSignal;
  /** Name of the temporary file, this file's alone: what a restoring that was killed left under it is ours to remove. */
  readonly temporaryName: string;
}

const SLASH = 0x2f;

/**
 * Puts a file back from a copy, by the rules of filing: a temporary name, flushed, read back past the page cache, compared
 * with what was once read from the card, and only then its own name, which is never taken from anything else. Folders are
 * made; a link where a folder should be is refused, since it may lead anywhere. What is inside a copy is taken out of it:
 * the card's bytes come back.
 * @returns why it was not restored; null when it stands there, now or already.
 * @throws SourceError when the copy cannot be read; the system's error when the target cannot be written.
 */
export async function restoreFile(
  file: Restorable,
  from: Buffer,
  to: RestoreTo,
  copy: WithInside | null = null,
): Promise<string | null> {
  const why = await makeFolders(to.root, file.pathBytes);
  if (why !== null) return why;
  const final = joinBytes(to.root, file.pathBytes);
  const folder = final.subarray(0, final.lastIndexOf(SLASH));
  const temporary = Buffer.concat([folder, Buffer.from(`/${to.temporaryName}`)]);
  await clearOwn(temporary, final, file, to.links);
  const there = await lstat(final).catch((error: unknown) => {
    if (codeOf(error) === 'ENOENT') return null;
    throw error;
  });
  if (there) {
    const isSame = there.isFile() && there.size === file.bytes && (await hashFile(final)).equals(file.hash);
    return isSame ? null : 'another file stands there';
  }
  const source: Source = { path: from, bytes: copy?.bytes ?? file.bytes, modifiedAt: file.modifiedAt };
  try {
    const target = { placeId: 'card', temporary, direct: to.direct };
    const copied = await copyFile(
      source,
      [target],
      to.signal,
      () => undefined,
      to.files,
      () => copy?.undo ?? null,
    );
    const failed = copied.failed.get('card');
    if (failed !== undefined) return `cannot be written (${failed})`;
    if (!copied.hash.equals(copy?.hash ?? file.hash)) return 'the copy is not what was filed';
    const { hash } = await proveFile(temporary, to.direct, to.signal, to.files);
    if (!hash.equals(file.hash)) return 'what was written is not what was filed';
    if (!(await giveFinalName(temporary, final, to.links))) return 'another file stands there';
    await flushFolder(folder);
    return null;
  } finally {
    await rm(temporary, { force: true });
  }
}

/** Removes what a restoring that was killed left: its temporary file, and the empty file that reserved the name. */
async function clearOwn(temporary: Buffer, final: Buffer, { bytes }: Restorable, links: boolean): Promise<void> {
  if (!(await stands(temporary))) return;
  if (!links && bytes > 0 && (await isEmptyFile(final))) await rm(final);
  await rm(temporary);
}

/** Makes the folders of a path one by one. @returns why that cannot be, or null. */
async function makeFolders(root: string, path: Buffer): Promise<string | null> {
  for (let end = path.indexOf(SLASH); end !== -1; end = path.indexOf(SLASH, end + 1)) {
    const folder = joinBytes(root, path.subarray(0, end));
    try {
      await mkdir(folder);
      await flushFolder(folder.subarray(0, folder.lastIndexOf(SLASH)));
    } catch (error) {
      if (codeOf(error) !== 'EEXIST') throw error;
      const there = await lstat(folder);
      if (!there.isDirectory())
        return there.isSymbolicLink() ? 'a link stands where its folder should be' : 'a file stands where its folder should be';
    }
  }
  return null;
}
