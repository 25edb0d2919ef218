import { applyTo } from '@tally/core/fields';
import { readFile, writeFile } from 'node:fs/promises';
import { editOf } from '../crediting/index.js';
import type { PieceKept } from '../db/entities/written.js';
import { hashFile } from '../drive/hashing.js';
import { recordOfFile } from '../drive/records-beside.js';
import { withoutInside } from '../drive/without-inside.js';
import type { House } from '../house/index.js';

/** Writes what a filed file was on its card: without the credit inside it, as the database knows it comes out. */
export async function writeTakenOut(house: House, path: string, to: string): Promise<void> {
  const rows = await house.db.query<{ undo: PieceKept[] }[]>('select undo from credit_written where hash = $1', [
    await hashFile(path),
  ]);
  const bytes = await readFile(path);
  await writeFile(to, rows[0] ? applyTo(bytes, editOf(rows[0].undo)) : bytes);
}

/** The same by the record beside the file alone. */
export async function writeByRecord(path: string, to: string): Promise<void> {
  const record = await recordOfFile(path, (await hashFile(path)).toString('hex'));
  const parts: Uint8Array[] = [];
  for await (const part of withoutInside(path, editOf(record?.inside?.undo ?? []))) parts.push(part);
  await writeFile(to, Buffer.concat(parts));
}
