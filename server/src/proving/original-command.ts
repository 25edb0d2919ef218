import { copyFile, constants, open, rm, stat } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { formatBytes } from '@tally/core/logbook';
import { EXIT, printable, say, WrongUse } from '../cli/output.js';
import { editOf } from '../crediting/index.js';
import { giveFinalName } from '../drive/final-name.js';
import { hashFile } from '../drive/hashing.js';
import { codeOf } from '../drive/list-card.js';
import { probe } from '../drive/place.js';
import { withoutInside } from '../drive/without-inside.js';
import { recordOfFile } from '../drive/records-beside.js';

/**
 * `tally original PATH --to FILE`: the bytes of the card, without what was put into the file since. The record beside it
 * knows how; no house and no database is needed. What stands under FILE is never replaced.
 */
export async function originalCommand(path: string, to: string): Promise<number> {
  const known = await stat(path).catch((error: unknown) => {
    throw new WrongUse(`${path} cannot be read (${codeOf(error)}).`);
  });
  if (!known.isFile()) throw new WrongUse(`${path} is no file.`);
  const record = await recordOfFile(path);
  if (!record) throw new WrongUse(`No record beside ${path} or above it knows this file.`);
  const { inside, xxh128, bytes } = record;
  const stands = (await hashFile(path)).toString('hex');
  if (stands !== (inside?.xxh128 ?? xxh128) && stands !== xxh128) {
    say(`${printable(path)} is not what its record says: nothing was written.`);
    return EXIT.attention;
  }
  const temporary = join(dirname(to), `.tally-original-${process.pid}.part`);
  const folder = resolve(dirname(to));
  try {
    if (inside?.xxh128 === stands) await writeAll(temporary, withoutInside(path, editOf(inside.undo)));
    else await copyFile(path, temporary, constants.COPYFILE_EXCL);
    if ((await hashFile(temporary)).toString('hex') !== xxh128) {
      say('What came out is not what was on the card: nothing was written.');
      return EXIT.attention;
    }
    const { links } = await probe({ root: folder });
    if (!(await giveFinalName(temporary, to, links))) throw new WrongUse(`${to} stands there already.`);
  } catch (error) {
    if (error instanceof WrongUse) throw error;
    throw new WrongUse(`${to} cannot be written (${codeOf(error)}).`);
  } finally {
    await rm(temporary, { force: true });
  }
  say(`${printable(to)} written: ${printable(record.from)} as it was on the card (${formatBytes(bytes)}, ${xxh128}).`);
  return EXIT.done;
}

async function writeAll(path: string, parts: AsyncIterable<Uint8Array>): Promise<void> {
  const handle = await open(path, 'wx');
  try {
    for await (const part of parts) await handle.writeFile(part);
    await handle.sync();
  } finally {
    await handle.close();
  }
}
