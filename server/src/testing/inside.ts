import { applyTo } from '@tally/core/fields';
import { readFile, writeFile } from 'node:fs/promises';
import { editOf } from '../crediting/index.js';
import type { PieceKept } from '../db/entities/written.js';
import { hashFile } from '../drive/hashing.js';
import type { House } from '../house/index.js';

/** Writes what a filed file was on its card: without the credit inside it, as the database knows it comes out. */
export async function writeTakenOut(house: House, path: string, to: string): Promise<void> {
  const rows = await house.db.query<{ undo: PieceKept[] }[]>('select undo from credit_written where hash = $1', [
    await hashFile(path),
  ]);
  const bytes = await readFile(path);
  await writeFile(to, rows[0] ? applyTo(bytes, editOf(rows[0].undo)) : bytes);
}
