import { isEmpty, isOfCamera, type Embedded } from '@tally/core/credit';
import { isPosition } from '@tally/core/location';
import exifr from 'exifr';
import { cleanText } from './metadata.js';

const MOST_WORDS = 200;

/** Tags of a file by name: of each property the newest standard first (XMP, then IIM, then Exif). */
export type TagOf = (name: string) => unknown;

/**
 * What comes with a file, from its tags. Properties by the IPTC Photo Metadata Standard 2023.1 (from memory): XMP names
 * as exiftool and exifr print them, then IIM (2:120, 2:25, 2:80 …), then Exif.
 */
export function embeddedOf(xmp: TagOf, iim: TagOf, exif: TagOf, make: string | null): Embedded | null {
  const text = (most: number, ...values: unknown[]): string | null => {
    for (const value of values) {
      const found = cleanText(plainValue(value));
      if (found !== null) return found.normalize('NFC').slice(0, most);
    }
    return null;
  };
  const described = text(2000, xmp('Description'), iim('Caption'), exif('ImageDescription'));
  const lines = ['Location', 'City', 'State', 'Country'].map((name) => text(120, xmp(name)) ?? text(120, iim(name)));
  const where = lines.filter((line) => line !== null).join(', ');
  const subjects = listOf(xmp('Subject'));
  const words = (subjects.length ? subjects : listOf(iim('Keywords')))
    .flatMap((word) => text(120, word) ?? [])
    .slice(0, MOST_WORDS);
  const [lat, lon] = [degrees(exif('latitude')), degrees(exif('longitude'))];
  const embedded: Embedded = {
    description: described !== null && isOfCamera(described, make) ? null : described,
    headline: text(300, xmp('Headline'), iim('Headline')),
    words: [...new Set(words)],
    creator: text(200, xmp('Creator'), iim('Byline'), exif('Artist')),
    creditLine: text(300, xmp('Credit'), iim('Credit')),
    copyrightNotice: text(300, xmp('Rights'), iim('CopyrightNotice'), exif('Copyright')),
    usageTerms: text(500, xmp('UsageTerms')),
    location: where === '' ? null : where,
    position: lat !== null && lon !== null && isPosition({ lat, lon }) ? { lat, lon } : null,
  };
  return isEmpty(embedded) ? null : embedded;
}

/** What a reader makes of a language alternative or of a list with one entry. */
function plainValue(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(plainValue).filter(Boolean).join(', ');
  if (typeof value === 'object' && value !== null) {
    const { value: inner } = value as { value?: unknown };
    return inner ?? Object.values(value)[0];
  }
  return value;
}

const listOf = (value: unknown): unknown[] =>
  value === undefined || value === null ? [] : Array.isArray(value) ? value : [value];
const degrees = (value: unknown): number | null => {
  const number = typeof value === 'number' ? value : Number.NaN;
  return Number.isFinite(number) ? number : null;
};

const MARKS = [Buffer.from('http://ns.adobe.com/xap/1.0/'), Buffer.from('Photoshop 3.0')];

/** What comes with a JPEG, from its head. Only when there is anything are XMP and IIM taken apart. */
export async function embeddedInHead(
  head: Buffer,
  exif: Readonly<Record<string, unknown>>,
  make: string | null,
): Promise<Embedded | null> {
  let groups: Record<string, Record<string, unknown> | undefined> = {};
  if (MARKS.some((mark) => head.includes(mark)))
    try {
      const options = { tiff: false, jfif: false, icc: false, xmp: true, iptc: true, mergeOutput: false, sanitize: true };
      groups = ((await exifr.parse(head, options)) as typeof groups | undefined) ?? {};
    } catch {
      // What cannot be understood says nothing; the file is filed all the same, byte for byte.
    }
  const { iptc = {}, ...spaces } = groups;
  const xmp = (name: string): unknown => {
    for (const space of ['dc', 'photoshop', 'xmpRights', 'Iptc4xmpCore', 'xmp']) {
      const found = spaces[space]?.[name.toLowerCase()] ?? spaces[space]?.[name];
      if (found !== undefined) return found;
    }
    return undefined;
  };
  const iim = (name: string) => (name === 'Location' ? (iptc['Sublocation'] ?? iptc['SubLocation']) : iptc[name]);
  return embeddedOf(xmp, iim, (name) => exif[name], make);
}
