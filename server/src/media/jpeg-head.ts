import { captureTime, parseWallClock, type CaptureFields } from '@tally/core/capture';
import exifr from 'exifr';
import { embeddedInHead } from './embedded.js';
import { cleanSerial, cleanText, positiveInteger, type Metadata } from './metadata.js';

/** Bytes at the start of a JPEG that hold its metadata in practice. */
export const HEAD_BYTES = 131_072;

const OPTIONS = {
  tiff: true,
  exif: true,
  gps: true,
  interop: false,
  ifd1: false,
  xmp: false,
  icc: false,
  iptc: false,
  jfif: false,
  makerNote: true,
  userComment: false,
  translateValues: false,
  reviveValues: false,
  sanitize: true,
  mergeOutput: true,
} as const;

/**
 * Reads a JPEG's metadata from its first bytes, in this process: fast, for what is plain.
 * @returns null when it is not plain (no JPEG, no EXIF, no date, no camera): the thorough reader then decides.
 */
export async function readJpegHead(
  head: Buffer,
  fileTime: Date,
  houseZone: string,
): Promise<(Metadata & { hasMakerNote: boolean }) | null> {
  const size = jpegSize(head);
  if (!size) return null;
  let tags: Record<string, unknown> | undefined;
  try {
    tags = (await exifr.parse(head, OPTIONS)) as Record<string, unknown> | undefined;
  } catch {
    return null;
  }
  if (!tags) return null;
  const date = (name: string, subSeconds: string, offset: string): CaptureFields['exifDates'] => {
    const text = cleanText(tags[name]);
    return text === null
      ? []
      : [{ text, subSeconds: cleanText(tags[subSeconds]) ?? undefined, offset: cleanText(tags[offset]) ?? undefined }];
  };
  const original = date('DateTimeOriginal', 'SubSecTimeOriginal', 'OffsetTimeOriginal');
  if (!original[0] || !parseWallClock(original[0].text)) return null;
  const make = cleanText(tags['Make']);
  const model = cleanText(tags['Model']);
  if (!make && !model) return null;
  return {
    captured: captureTime({ exifDates: original, fileTime }, houseZone),
    make,
    model,
    serial: cleanSerial(tags['BodySerialNumber'] ?? tags['SerialNumber']),
    ...size,
    durationMs: null,
    orientation: positiveInteger(tags['Orientation']),
    clip: null,
    embedded: await embeddedInHead(head, tags, make),
    remark: null,
    hasMakerNote: (tags['makerNote'] ?? tags['MakerNote']) !== undefined,
  };
}

/** Width and height from the frame header (ITU-T T.81, B.2.2). Null when the head holds none. */
export function jpegSize(head: Buffer): { width: number; height: number } | null {
  if (head.length < 4 || head.readUInt16BE(0) !== 0xffd8) return null;
  let at = 2;
  while (at + 9 < head.length) {
    if (head[at] !== 0xff) return null;
    const marker = head[at + 1]!;
    if (marker === 0xff) {
      at++;
      continue;
    }
    const isFrame = marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);
    if (isFrame) return { height: head.readUInt16BE(at + 5), width: head.readUInt16BE(at + 7) };
    if (marker === 0xd9 || marker === 0xda) return null;
    at += 2 + head.readUInt16BE(at + 2);
  }
  return null;
}
