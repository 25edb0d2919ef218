import { copied } from './edit.js';
import { joined } from './jpeg.js';

/** A text of the first image directory, by its tag. */
export type ExifLines = ReadonlyMap<number, string>;

const ASCII = 2;
const ENTRY = 12;
const MOST_ENTRIES = 1000;

interface Directory {
  readonly little: boolean;
  readonly entries: readonly { readonly tag: number; readonly bytes: Uint8Array }[];
  /** Where the next directory stands. */
  readonly next: number;
}

/** The first image directory of an Exif block (TIFF 6.0, section 2). @param tiff behind `Exif\0\0`. */
function directoryOf(tiff: Uint8Array): Directory | null {
  if (tiff.length < 14) return null;
  const view = new DataView(tiff.buffer, tiff.byteOffset, tiff.length);
  const order = view.getUint16(0);
  if (order !== 0x4949 && order !== 0x4d4d) return null;
  const little = order === 0x4949;
  if (view.getUint16(2, little) !== 42) return null;
  const at = view.getUint32(4, little);
  if (at < 8 || at + 2 > tiff.length) return null;
  const count = view.getUint16(at, little);
  const end = at + 2 + count * ENTRY;
  if (count === 0 || count > MOST_ENTRIES || end + 4 > tiff.length) return null;
  const entries = Array.from({ length: count }, (_one, i) => {
    const from = at + 2 + i * ENTRY;
    return { tag: view.getUint16(from, little), bytes: copied(tiff, from, from + ENTRY) };
  });
  if (!entries.every(({ bytes }) => isEntry(bytes, little, tiff.length))) return null;
  return { little, entries, next: view.getUint32(end, little) };
}

/** Bytes of one value of each type (TIFF 6.0, section 2; Exif 2.32, 4.6.2). */
const SIZES: Readonly<Record<number, number>> = {
  1: 1,
  2: 1,
  3: 2,
  4: 4,
  5: 8,
  6: 1,
  7: 1,
  8: 2,
  9: 4,
  10: 8,
  11: 4,
  12: 8,
  13: 4,
};

/** Does an entry lead to what it says? A directory with one that does not is nothing to build on. */
function isEntry(bytes: Uint8Array, little: boolean, end: number): boolean {
  const view = new DataView(bytes.buffer, bytes.byteOffset, ENTRY);
  const size = SIZES[view.getUint16(2, little)];
  if (size === undefined) return false;
  const length = size * view.getUint32(4, little);
  return length <= 4 || view.getUint32(8, little) + length <= end;
}

/** Texts of the first image directory. Letters are UTF-8 where that is valid, else Latin-1 (common practice, no source). */
export function readExifLines(tiff: Uint8Array, tags: readonly number[]): ExifLines {
  const directory = directoryOf(tiff);
  const found = new Map<number, string>();
  for (const { tag, bytes } of directory?.entries ?? []) {
    if (!tags.includes(tag)) continue;
    const { little } = directory!;
    const view = new DataView(bytes.buffer, bytes.byteOffset, ENTRY);
    const count = view.getUint32(4, little);
    if (view.getUint16(2, little) !== ASCII || count === 0) continue;
    const from = count <= 4 ? null : view.getUint32(8, little);
    if (from !== null && from + count > tiff.length) continue;
    const data = from === null ? bytes.subarray(8, 8 + count) : tiff.subarray(from, from + count);
    // A copyright may have two parts, of whoever took and whoever edited it (Exif 2.32, tag 8298).
    const parts = decoded(data)
      .split('\0')
      .map((part) => part.trim());
    const text = parts.filter(Boolean).join(' ').normalize('NFC');
    if (text) found.set(tag, text);
  }
  return found;
}

function decoded(data: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(data);
  } catch {
    return new TextDecoder('latin1').decode(data);
  }
}

/** How an Exif block changes without one of its bytes moving: its directory is written anew behind everything else. */
export interface ExifChange {
  /** The four bytes at offset 4 of the TIFF block, which say where the directory stands. */
  readonly offset: Uint8Array;
  /** What comes behind the block. */
  readonly added: Uint8Array;
}

/**
 * Says texts in the first image directory. Nothing that is there moves, since makers point into it with offsets of their
 * own: texts and the directory itself come behind the block. Texts end with NUL and are UTF-8 (Exif 2.32 knows ASCII only;
 * the Metadata Working Group asks for UTF-8; both from memory).
 * @returns null when the block has no directory that can be read, or nothing changes.
 */
export function exifChange(tiff: Uint8Array, lines: ExifLines): ExifChange | null {
  const directory = directoryOf(tiff);
  if (!directory || lines.size === 0) return null;
  const { little } = directory;
  const fill = tiff.length & 1 ? new Uint8Array(1) : new Uint8Array(0);
  const texts = [...lines].map(([tag, text]) => {
    const bytes = new TextEncoder().encode(`${text.replaceAll('\0', '')}\0`);
    return { tag, bytes, padded: joined([bytes, new Uint8Array(bytes.length & 1)]) };
  });
  let at = tiff.length + fill.length;
  const added = texts.map(({ tag, bytes, padded }) => {
    const entry = new Uint8Array(ENTRY);
    const view = new DataView(entry.buffer);
    view.setUint16(0, tag, little);
    view.setUint16(2, ASCII, little);
    view.setUint32(4, bytes.length, little);
    if (bytes.length <= 4) entry.set(bytes, 8);
    else view.setUint32(8, at, little);
    at += padded.length;
    return { tag, bytes: entry };
  });
  const kept = directory.entries.filter(({ tag }) => !lines.has(tag));
  // TIFF wants entries in the order of their tags.
  const entries = [...kept, ...added].sort((a, b) => a.tag - b.tag);
  const head = new Uint8Array(2);
  new DataView(head.buffer).setUint16(0, entries.length, little);
  const next = new Uint8Array(4);
  new DataView(next.buffer).setUint32(0, directory.next, little);
  const offset = new Uint8Array(4);
  new DataView(offset.buffer).setUint32(0, at, little);
  return {
    offset,
    added: joined([fill, ...texts.map(({ padded }) => padded), head, ...entries.map(({ bytes }) => bytes), next]),
  };
}
