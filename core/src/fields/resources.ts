import { joined } from './jpeg.js';

/** An image resource: a block of the segment that IIM stands in. */
export interface Resource {
  readonly id: number;
  /** Pascal string with its length, as it stands. */
  readonly name: Uint8Array;
  readonly data: Uint8Array;
}

export const IIM_RESOURCE = 0x0404;
/** MD5 of the IIM that whoever wrote it has brought into line with the XMP (Metadata Working Group 2.0, from memory). */
export const DIGEST_RESOURCE = 0x0425;

const SIGN = [0x38, 0x42, 0x49, 0x4d]; // 8BIM
const even = (length: number) => length + (length & 1);

/** Takes image resources apart. @returns null when they are none. */
export function readResources(bytes: Uint8Array): readonly Resource[] | null {
  const found: Resource[] = [];
  for (let at = 0; at < bytes.length;) {
    // One byte may be left over to fill up.
    if (bytes.length - at < 12) return bytes.subarray(at).every((byte) => byte === 0) ? found : null;
    if (!SIGN.every((byte, i) => bytes[at + i] === byte)) return null;
    const id = (bytes[at + 4]! << 8) | bytes[at + 5]!;
    const nameLength = even(1 + bytes[at + 6]!);
    const from = at + 6 + nameLength + 4;
    if (from > bytes.length) return null;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    const length = view.getUint32(from - 4);
    if (from + length > bytes.length) return null;
    found.push({ id, name: bytes.subarray(at + 6, at + 6 + nameLength), data: bytes.subarray(from, from + length) });
    at = from + even(length);
  }
  return found;
}

export function writeResources(resources: readonly Resource[]): Uint8Array {
  return joined(
    resources.map(({ id, name, data }) => {
      const head = new Uint8Array(4);
      new DataView(head.buffer).setUint32(0, data.length);
      const filled = new Uint8Array(even(data.length));
      filled.set(data);
      return joined([Uint8Array.from([...SIGN, id >> 8, id & 0xff]), name, head, filled]);
    }),
  );
}

/** Puts IIM and its digest in the place of those that were there. */
export function withIim(resources: readonly Resource[], iim: Uint8Array, digest: Uint8Array): Resource[] {
  const named = Uint8Array.of(0, 0);
  const others = resources.filter(({ id }) => id !== IIM_RESOURCE && id !== DIGEST_RESOURCE);
  return [...others, { id: IIM_RESOURCE, name: named, data: iim }, { id: DIGEST_RESOURCE, name: named, data: digest }];
}
