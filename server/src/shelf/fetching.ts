import type { BeforeFetching, FetchQuery, FoundItem } from '@tally/contract';
import { PassThrough, type Readable } from 'node:stream';
import { once } from 'node:events';
import yazl from 'yazl';
import { openOriginal } from '../drive/originals.js';
import type { House } from '../house/index.js';
import { filedCopy } from '../seeing/index.js';
import { foundItems, idsOf } from './asking.js';
import { shelfNow } from './kept-shelf.js';
import { useQuickCrc } from './quick-crc.js';

useQuickCrc();

/** Items that are meant, in the order of the shelf. */
export const meantIds = (
  house: House,
  { itemIds, question }: { itemIds?: number[] | undefined; question?: string | undefined },
) => (itemIds ? Promise.resolve([...new Set(itemIds)]) : idsOf(house, question ?? ''));

const AT_A_TIME = 500;

/** Items as the shelf shows them, some hundred at a time; what is no more is left out. */
async function* found(house: House, ids: readonly number[]): AsyncGenerator<FoundItem, void, undefined> {
  for (let at = 0; at < ids.length; at += AT_A_TIME)
    yield* await foundItems(house, await shelfNow(house), ids.slice(at, at + AT_A_TIME));
}

/** What has to be said before originals go out: what may not be shown, what has to be asked for, what is not here. */
export async function beforeFetching(house: House, ids: readonly number[]): Promise<BeforeFetching> {
  const [no, ask] = [new Map<string, number>(), new Map<string, number>()];
  let [items, bytes, away] = [0, 0, 0];
  for await (const item of found(house, ids)) {
    items++;
    bytes += item.bytes;
    if (item.away) away++;
    const list = item.terms.mark === 'no' ? no : item.terms.mark === 'ask' ? ask : null;
    list?.set(item.terms.words, (list.get(item.terms.words) ?? 0) + 1);
  }
  const lines = (list: ReadonlyMap<string, number>) =>
    [...list].map(([words, count]) => ({ words, items: count })).sort((a, b) => b.items - a.items);
  return { items, bytes, no: lines(no), ask: lines(ask), away };
}

/** Names in a zip: no two the same, also where letter case does not count. */
export class Names {
  private readonly used = new Set<string>();

  of(path: string): string {
    // Parts that mean a folder are no names (a card may hold anything).
    const parts = path.split(/[/\\]+/).filter((part) => part !== '' && part !== '.' && part !== '..');
    const wanted = parts.join('/').replace(/^[A-Za-z]:/, '') || 'file';
    const dot = wanted.lastIndexOf('.') > wanted.lastIndexOf('/') ? wanted.lastIndexOf('.') : wanted.length;
    let name = wanted;
    for (let n = 2; this.used.has(name.normalize('NFC').toLowerCase()); n++)
      name = `${wanted.slice(0, dot)} (${n})${wanted.slice(dot)}`;
    this.used.add(name.normalize('NFC').toLowerCase());
    return name;
  }
}

/** What a fetch calls a file: by the house, with its folders; or as it was on its card, under the intake's number. */
export const nameFor = (item: FoundItem, names: FetchQuery['names']): string =>
  names === 'house' ? (item.filedAs ?? item.path) : `${item.intake.number}/${item.path}`;

/** A file that is fetched, or why it is not. */
export type Fetched =
  | { readonly name: string; readonly file: string; readonly problem?: never }
  | { readonly name: string; readonly problem: string; readonly file?: never };

/** Each item with the copy of it that is read: looked for when its turn comes, so that what was moved meanwhile is found. */
export async function* toFetch(house: House, ids: readonly number[], names: FetchQuery['names']): AsyncGenerator<Fetched> {
  const called = new Names();
  const missing = new Set(ids);
  for await (const item of found(house, ids)) {
    missing.delete(item.id);
    const name = called.of(nameFor(item, names));
    const copy = await filedCopy(house, item.id).catch((error: unknown) => ({ problem: (error as Error).message }));
    yield 'path' in copy ? { name, file: copy.path } : { name, problem: copy.problem };
  }
  for (const id of missing) yield { name: `item ${id}`, problem: 'is not filed any more.' };
}

/**
 * Originals as one zip, file after file as whoever reads it takes them: stored, not packed, since pictures and clips are
 * packed already. What cannot be read is named in `NOT FETCHED.txt` at its end. When a file breaks off in the middle the zip
 * does too: it must not look whole. (APPNOTE.TXT 6.3.10 with ZIP64 where it is needed.)
 */
export function zipOf(house: House, ids: readonly number[], names: FetchQuery['names']): Readable {
  const zip = new yazl.ZipFile();
  // Some are read while the last are taken.
  const out = new PassThrough({ highWaterMark: 4 << 20 });
  // Said of a file that was not read whole; nobody else listens, and then it would end the process.
  zip.on('error', (error: Error) => out.destroy(error));
  zip.outputStream.pipe(out);
  const fill = async () => {
    const not: string[] = [];
    for await (const one of toFetch(house, ids, names)) {
      if (out.destroyed) return;
      if (one.file === undefined) not.push(`${one.name}: ${one.problem}`);
      else if (!(await addFile(zip, out, one.file, one.name))) not.push(`${one.name}: cannot be read now.`);
    }
    if (not.length) zip.addBuffer(Buffer.from(`${not.join('\r\n')}\r\n`), 'NOT FETCHED.txt', { compress: false });
    zip.end();
  };
  fill().catch((error: unknown) => out.destroy(error as Error));
  return out;
}

/** Adds a file and waits until it went out. @returns false when it cannot be opened. */
async function addFile(zip: yazl.ZipFile, out: Readable, path: string, name: string): Promise<boolean> {
  const original = await openOriginal(path);
  if (!original) return false;
  const { bytes, size, mtime } = original;
  // Whoever reads may have gone while it was opened.
  if (out.destroyed) bytes.destroy();
  const closed = once(bytes, 'close');
  const ended = () => bytes.destroy();
  out.once('close', ended);
  bytes.once('error', (error) => out.destroy(error));
  if (!out.destroyed) zip.addReadStream(bytes, name, { compress: false, mtime, size });
  await closed;
  out.off('close', ended);
  return true;
}
