import { randomUUID } from 'node:crypto';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';

/** What was made and kept in the data folder. An empty file says that nothing can be made, so that nobody tries again. */
export async function readKept(file: string): Promise<Buffer | null> {
  return readFile(file).catch(() => null);
}

/** Keeps a result under its final name in one step. */
export async function keep(file: string, content: Buffer | null): Promise<void> {
  await mkdir(dirname(file), { recursive: true });
  // Two may make the same thing at once, in one process or in several.
  const temporary = `${file}.${randomUUID()}.part`;
  await writeFile(temporary, content ?? Buffer.alloc(0));
  await rename(temporary, file);
}
