/**
 * Writes TIFF structures, as cameras do for EXIF and DNG (TIFF 6.0, section 2: header, image file directories of sorted
 * 12-byte entries, values of up to four bytes in place, longer ones behind). Little-endian.
 */
export type Value =
  | { readonly ascii: string }
  | { readonly byte: readonly number[] }
  | { readonly short: readonly number[] }
  | { readonly long: readonly number[] }
  | { readonly rational: readonly (readonly [number, number])[] }
  | { readonly undefined: Buffer }
  | { readonly ifds: readonly Ifd[] }
  /** Bytes elsewhere in the file; the entry holds their offset. */
  | { readonly blob: Buffer };

export interface Ifd {
  readonly entries: Readonly<Record<number, Value>>;
  readonly next?: Ifd;
}

export function writeTiff(first: Ifd): Buffer {
  const parts: { at: number; bytes: Buffer }[] = [];
  let cursor = 8;
  const put = (bytes: Buffer): number => {
    const at = cursor;
    parts.push({ at, bytes });
    cursor += bytes.length + (bytes.length % 2);
    return at;
  };
  const header = Buffer.from('II*\0\0\0\0\0', 'latin1');
  parts.push({ at: 0, bytes: header });

  const place = (ifd: Ifd): number => {
    const entries = Object.entries(ifd.entries).map(([tag, value]) => ({ tag: Number(tag), value }));
    entries.sort((a, b) => a.tag - b.tag);
    const table = Buffer.alloc(2 + entries.length * 12 + 4);
    const at = put(table);
    table.writeUInt16LE(entries.length, 0);
    entries.forEach(({ tag, value }, index) => {
      const entry = 2 + index * 12;
      const { type, count, bytes } = encode(value, place, put);
      table.writeUInt16LE(tag, entry);
      table.writeUInt16LE(type, entry + 2);
      table.writeUInt32LE(count, entry + 4);
      if (bytes.length <= 4) bytes.copy(table, entry + 8);
      else table.writeUInt32LE(put(bytes), entry + 8);
    });
    if (ifd.next) table.writeUInt32LE(place(ifd.next), table.length - 4);
    return at;
  };
  header.writeUInt32LE(place(first), 4);

  const out = Buffer.alloc(cursor);
  for (const { at, bytes } of parts) bytes.copy(out, at);
  return out;
}

function encode(
  value: Value,
  place: (ifd: Ifd) => number,
  put: (bytes: Buffer) => number,
): { type: number; count: number; bytes: Buffer } {
  if ('ascii' in value) {
    const bytes = Buffer.from(`${value.ascii}\0`, 'latin1');
    return { type: 2, count: bytes.length, bytes };
  }
  if ('byte' in value) return { type: 1, count: value.byte.length, bytes: Buffer.from(value.byte) };
  if ('undefined' in value) return { type: 7, count: value.undefined.length, bytes: value.undefined };
  if ('short' in value) return { type: 3, count: value.short.length, bytes: Buffer.from(new Uint16Array(value.short).buffer) };
  if ('rational' in value)
    return { type: 5, count: value.rational.length, bytes: Buffer.from(new Uint32Array(value.rational.flat()).buffer) };
  const longs = 'long' in value ? value.long : 'ifds' in value ? value.ifds.map(place) : [put(value.blob)];
  return { type: 4, count: longs.length, bytes: Buffer.from(new Uint32Array(longs).buffer) };
}
