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
import { type RecordedFile, recordsOfFile } from '../drive/records-beside.js';

/**
 * `tally original PATH --to FILE`: the bytes of the card, without what was put into the file since. The record beside it
 * knows how; no house and no database is needed. What stands under FILE is never replaced.
 */
export async function originalCommand(path: string, to: string): Promise<number> {
  const known = await stat(path).catch((error: unknown) => {
    throw new WrongUse(`${path} cannot be read (${codeOf(error)}).`);
  });
  if (!known.isFile()) throw new WrongUse(`${path} is no file.`);
  const stands = (await hashFile(path)).toString('hex');
  const records = await recordsOfFile(path);
  if (!records.length) throw new WrongUse(`No record beside ${path} or above it knows this file.`);
  const steps = wayBack(records, stands);
  if (!steps) {
    say(`${printable(path)} is not what its record says: nothing was written.`);
    return EXIT.attention;
  }
  const folder = resolve(dirname(to));
  const temporaries = [0, 1].map((n) => join(dirname(to), `.tally-original-${process.pid}-${n}.part`));
  try {
    let now = path;
    for (const [n, { inside, xxh128 }] of steps.entries()) {
      const next = temporaries[n % 2]!;
      await rm(next, { force: true });
      if (inside) await writeAll(next, withoutInside(now, editOf(inside.undo)));
      else await copyFile(now, next, constants.COPYFILE_EXCL);
      if ((await hashFile(next)).toString('hex') !== xxh128) {
        say('What came out is not what was on the card: nothing was written.');
        return EXIT.attention;
      }
      now = next;
    }
    const { links } = await probe({ root: folder });
    if (!(await giveFinalName(now, to, links))) throw new WrongUse(`${to} stands there already.`);
  } catch (error) {
    if (error instanceof WrongUse) throw error;
    throw new WrongUse(`${to} cannot be written (${codeOf(error)}).`);
  } finally {
    for (const one of temporaries) await rm(one, { force: true });
  }
  const { from, bytes, xxh128 } = steps.at(-1)!;
  say(`${printable(to)} written: ${printable(from)} as it was on the card (${formatBytes(bytes)}, ${xxh128}).`);
  return EXIT.done;
}

/**
 * Which records lead from a file as it stands to the bytes of its card, in their order. A house that took in what another one
 * had filed took that one's credit for the file's own: then the older record goes on where the newer one ends. What is the
 * card's bytes already is one step without anything to take out. @returns null when none knows it as it stands
 */
function wayBack(records: readonly RecordedFile[], stands: string): RecordedFile[] | null {
  const steps: RecordedFile[] = [];
  for (let now = stands; ;) {
    const next = records.find((one) => one.inside?.xxh128 === now && !steps.includes(one));
    if (!next) break;
    steps.push(next);
    now = next.xxh128;
  }
  const asItIs = records.find(({ xxh128 }) => xxh128 === stands);
  return steps.length ? steps : asItIs ? [{ ...asItIs, inside: null }] : null;
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
