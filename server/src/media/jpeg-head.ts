import { captureTime, parseWallClock, type CaptureFields } from '@tally/core/capture';
import exifr from 'exifr';
import { embeddedInHead } from './embedded.js';
import { cleanSerial, cleanText, NOTHING_READ, positiveInteger, type Metadata } from './metadata.js';

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
 * Reads a JPEG's metadata from its first bytes, in this process: fast, for what is plain, and for what says nothing at all,
 * as scans and pictures out of messages do.
 * @returns null when it is neither (no JPEG, no date, no camera): the thorough reader then decides.
 */
export async function readJpegHead(
  head: Buffer,
  fileTime: Date,
  houseZone: string,
): Promise<(Metadata & { hasMakerNote: boolean }) | null> {
  const size = jpegSize(head);
  if (!size) return null;
  if (isBare(head)) {
    const captured = captureTime({ exifDates: [], fileTime }, houseZone);
    return { ...NOTHING_READ, captured, ...size, remark: null, hasMakerNote: false };
  }
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

/** Segments that say nothing of when, where and by whom: their markers, and how the data of those begins that tell themselves. */
const SILENT: ReadonlyMap<number, string> = new Map([
  [0xe0, 'JF'], // JFIF and its extension (ITU-T T.871, 10.1)
  [0xe2, 'ICC_PROFILE'], // ICC.1:2022, B.4
  [0xee, 'Adobe'], // ITU-T T.872, 6.5.3
]);

/** Frame headers, and markers of tables and comments (ITU-T T.81, table B.1). */
const isOfPicture = (marker: number) =>
  (marker >= 0xc0 && marker <= 0xcf) || marker === 0xdb || marker === 0xdd || marker === 0xfe;

/** Does nothing stand before the picture but what is needed to draw it? */
function isBare(head: Buffer): boolean {
  for (const { marker, at } of segments(head)) {
    if (marker === 0xda) return true;
    const says = SILENT.get(marker);
    if (!isOfPicture(marker) && (says === undefined || head.toString('latin1', at, at + says.length) !== says)) return false;
  }
  return false;
}

/** Width and height from the frame header (ITU-T T.81, B.2.2). Null when the head holds none. */
export function jpegSize(head: Buffer): { width: number; height: number } | null {
  for (const { marker, at } of segments(head)) {
    const isFrame = marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);
    if (isFrame) return { height: head.readUInt16BE(at + 1), width: head.readUInt16BE(at + 3) };
  }
  return null;
}

/** The segments of a head up to the picture, with where their data begin (ITU-T T.81, B.1.1.4). */
function* segments(head: Buffer): Generator<{ marker: number; at: number }> {
  if (head.length < 4 || head.readUInt16BE(0) !== 0xffd8) return;
  for (let at = 2; at + 9 < head.length;) {
    if (head[at] !== 0xff) return;
    const marker = head[at + 1]!;
    if (marker === 0xff) {
      at++;
      continue;
    }
    yield { marker, at: at + 4 };
    if (marker === 0xd9 || marker === 0xda) return;
    at += 2 + head.readUInt16BE(at + 2);
  }
}
