import { createCipheriv } from 'node:crypto';
import { copyFile, mkdir, readdir, utimes, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** Pictures, clips and sounds of real cameras, committed with the project. */
export const FIXTURES = fileURLToPath(new URL('../../../tests/fixtures/camera', import.meta.url));

export const CAPTURED = new Date('2026-04-18T09:12:31Z');

/** Bytes that no two calls share unless the seed is the same: the key stream of a cipher, which is quick. */
export function noise(bytes: number, seed: number): Buffer {
  const key = Buffer.alloc(16);
  key.writeDoubleLE(seed);
  return createCipheriv('aes-128-ctr', key, Buffer.alloc(16)).update(Buffer.alloc(bytes));
}

/** Writes files of noise as a card: path → size in bytes. File times are a minute apart, in the order given. */
export async function makeCard(root: string, files: Readonly<Record<string, number>>, seed = 1): Promise<string> {
  let index = 0;
  for (const [path, bytes] of Object.entries(files)) {
    await put(join(root, path), noise(bytes, seed * 1000 + index), new Date(CAPTURED.getTime() + index * 60_000));
    index++;
  }
  return root;
}

export async function put(file: string, content: Buffer | string, at = CAPTURED): Promise<void> {
  await mkdir(dirname(file), { recursive: true });
  await writeFile(file, content);
  await utimes(file, at, at);
}

/** Copies some real pictures to a card. @returns their names. */
export async function realPictures(card: string, count: number, from = 'goexif'): Promise<string[]> {
  const names = (await readdir(join(FIXTURES, from))).filter((name) => name.endsWith('.jpg')).slice(0, count);
  await mkdir(join(card, 'DCIM/100REAL'), { recursive: true });
  for (const name of names) await copyFile(join(FIXTURES, from, name), join(card, 'DCIM/100REAL', name));
  return names;
}
