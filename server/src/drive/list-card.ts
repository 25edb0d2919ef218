import { lstat, opendir, stat } from 'node:fs/promises';
import { Buffer } from 'node:buffer';

/** One entry of a card as the file system gives it. Paths are bytes: a name need not be valid text. */
export interface CardEntry {
  /** Relative to the card's root, `/` between folders; what is not UTF-8 is U+FFFD. */
  readonly path: string;
  readonly pathBytes: Buffer;
  readonly bytes: number;
  readonly modifiedAt: Date;
  /** Why it cannot be filed: not a regular file, or not to be looked at. */
  readonly problem: string | null;
}

const SLASH = Buffer.from('/');

/** Joins a root and a relative path of bytes. */
export function joinBytes(root: string | Buffer, relative: Buffer): Buffer {
  return Buffer.concat([typeof root === 'string' ? Buffer.from(root) : root, SLASH, relative]);
}

/**
 * Lists every file below a folder, without following links (so that a loop of them cannot trap it) and without opening
 * anything. Folders that cannot be listed become one entry with a problem; an unreadable root is an error.
 * @throws when the root itself cannot be listed.
 */
export async function listCard(root: string): Promise<CardEntry[]> {
  const entries: CardEntry[] = [];
  const folders: Buffer[] = [Buffer.alloc(0)];
  while (folders.length) {
    const folder = folders.pop()!;
    const isRoot = folder.length === 0;
    const absolute = isRoot ? Buffer.from(root) : joinBytes(root, folder);
    const names: { name: Buffer; directory: boolean }[] = [];
    try {
      // The Buffer encoding keeps names that are not UTF-8; the type definitions only know strings.
      const options = { encoding: 'buffer' as BufferEncoding, bufferSize: 256 };
      for await (const entry of await opendir(absolute, options)) {
        names.push({ name: entry.name as unknown as Buffer, directory: entry.isDirectory() });
      }
    } catch (error) {
      if (isRoot) throw error;
      entries.push(withProblem(folder, `this folder cannot be listed (${codeOf(error)})`));
      continue;
    }
    const files: Buffer[] = [];
    for (const { name, directory } of names) {
      const path = isRoot ? name : Buffer.concat([folder, SLASH, name]);
      if (directory) folders.push(path);
      else files.push(path);
    }
    for (let from = 0; from < files.length; from += 64) {
      entries.push(...(await Promise.all(files.slice(from, from + 64).map((path) => look(root, path)))));
    }
  }
  return entries.sort((a, b) => Buffer.compare(a.pathBytes, b.pathBytes));
}

async function look(root: string, path: Buffer): Promise<CardEntry> {
  try {
    const stats = await lstat(joinBytes(root, path));
    const entry = { path: path.toString('utf8'), pathBytes: path, bytes: stats.size, modifiedAt: stats.mtime };
    if (stats.isFile()) return { ...entry, problem: null };
    return {
      ...entry,
      bytes: 0,
      problem: stats.isSymbolicLink() ? 'a symbolic link: not followed, not filed' : 'not a regular file: not filed',
    };
  } catch (error) {
    return withProblem(path, `cannot be looked at (${codeOf(error)})`);
  }
}

function withProblem(path: Buffer, problem: string): CardEntry {
  return { path: path.toString('utf8'), pathBytes: path, bytes: 0, modifiedAt: new Date(0), problem };
}

/** Is there a folder at this path now? */
export async function isFolder(path: string): Promise<boolean> {
  return stat(path).then(
    (stats) => stats.isDirectory(),
    () => false,
  );
}

/** The system's code of an error (`EIO`), or its message. */
export function codeOf(error: unknown): string {
  return (error as NodeJS.ErrnoException).code ?? (error as Error).message;
}
