/** A segment between the start of a JPEG and its first scan. Offsets in bytes from the start of the file. */
export interface Segment {
  readonly marker: number;
  /** Where its marker begins, and where the next one does. */
  readonly from: number;
  readonly to: number;
}

const APP1 = 0xe1;
const APP0 = 0xe0;
const APP2 = 0xe2;
const APP13 = 0xed;

const bytesOf = (text: string) => new TextEncoder().encode(text);
export const SIGNS = {
  exif: bytesOf('Exif\0\0'),
  xmp: bytesOf('http://ns.adobe.com/xap/1.0/\0'),
  extended: bytesOf('http://ns.adobe.com/xmp/extension/\0'),
  resources: bytesOf('Photoshop 3.0\0'),
  jfif: bytesOf('JFIF\0'),
  parts: bytesOf('MPF\0'),
} as const;
export type Sign = keyof typeof SIGNS;
const MARKERS: Readonly<Record<Sign, number>> = {
  ...{ exif: APP1, xmp: APP1, extended: APP1, resources: APP13, jfif: APP0, parts: APP2 },
};

/**
 * The segments of a JPEG up to its first scan (ITU-T T.81, annex B). @param head the beginning of the file.
 * @returns words for what is wrong instead, where nothing should be put into it.
 */
export function segmentsOf(head: Uint8Array): readonly Segment[] | string {
  if (head[0] !== 0xff || head[1] !== 0xd8) return 'it does not begin as a JPEG does';
  const segments: Segment[] = [];
  for (let at = 2; ;) {
    if (at + 4 > head.length) return 'no picture follows its first segments';
    if (head[at] !== 0xff) return 'something else stands between its segments';
    const marker = head[at + 1]!;
    if (marker === 0xff) return 'filling bytes stand between its segments';
    if (marker === 0xda) return segments;
    if (marker === 0xd9 || (marker >= 0xd0 && marker <= 0xd8) || marker <= 0x01) return 'no picture follows its first segments';
    const length = (head[at + 2]! << 8) | head[at + 3]!;
    if (length < 2) return 'a segment says a length that cannot be';
    const to = at + 2 + length;
    segments.push({ marker, from: at, to });
    at = to;
  }
}

/** What a segment holds, behind marker and length. */
export const contentOf = (head: Uint8Array, { from, to }: Segment): Uint8Array => head.subarray(from + 4, to);

export function isSigned(head: Uint8Array, segment: Segment, sign: Sign): boolean {
  const content = contentOf(head, segment);
  return segment.marker === MARKERS[sign] && SIGNS[sign].every((byte, i) => content[i] === byte);
}

/** A segment as it is written. @throws RangeError when it is too long. */
export function segment(sign: Sign, content: Uint8Array): Uint8Array {
  const length = 2 + SIGNS[sign].length + content.length;
  if (length > 0xffff) throw new RangeError('a segment is too long');
  return joined([Uint8Array.of(0xff, MARKERS[sign], length >> 8, length & 0xff), SIGNS[sign], content]);
}

export function joined(parts: readonly Uint8Array[]): Uint8Array {
  const all = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}
