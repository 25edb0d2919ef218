/**
 * Names that every system keeps as they are: Windows and SMB, exFAT, macOS, Linux.
 * Sources: Microsoft "Naming Files, Paths, and Namespaces" (reserved names and characters) and the exFAT file system
 * specification section 7.7.3 (invalid file name characters), both from memory; confirmed against file system code
 * in the project's tests of names. 255 UTF-8 bytes is the narrowest limit of all (ext4, SMB on Linux).
 */
export const NAME_BYTES_MAX = 255;

// eslint-disable-next-line no-control-regex -- control characters are what this is about
const CONTROLS = /[\u0000-\u001f\u007f-\u009f]/g;
/** Bidirectional controls and other invisible marks that make a name look like another one. */
const INVISIBLE = /[\u200b\u200e\u200f\u202a-\u202e\u2060-\u2069\ufeff]/g;
const ILLEGAL = /[<>:"/\\|?*]/g;
const RESERVED = /^(con|prn|aux|nul|clock\$|conin\$|conout\$|com[0-9\u00b9\u00b2\u00b3]|lpt[0-9\u00b9\u00b2\u00b3])\s*(\.|$)/i;

const encoder = new TextEncoder();
const ASCII = /^[\u0020-\u007e]*$/;
export const utf8Bytes = (text: string): number => (ASCII.test(text) ? text.length : encoder.encode(text).length);

/** Names as most rules make them: nothing in them needs a second look, except that they may be a device's. */
const PLAIN = /^[A-Za-z0-9_][A-Za-z0-9_. -]*[A-Za-z0-9_-]$/;

/** What keeps a name from being legal everywhere; empty when it is. */
export function nameFaults(name: string): string[] {
  const faults: string[] = [];
  if (name === '' || name === '.' || name === '..') faults.push('it is empty');
  if (name.search(CONTROLS) >= 0) faults.push('it holds a control character');
  if (name.search(INVISIBLE) >= 0) faults.push('it holds an invisible character');
  if (name.search(ILLEGAL) >= 0) faults.push('it holds one of < > : " / \\ | ? *');
  if (/[. ]$/.test(name)) faults.push('it ends with a dot or a space');
  if (/^[. ]/.test(name)) faults.push('it begins with a dot or a space');
  if (RESERVED.test(name)) faults.push('Windows keeps this name for a device');
  if (utf8Bytes(name) > NAME_BYTES_MAX) faults.push(`it is longer than ${NAME_BYTES_MAX} bytes`);
  if (name !== name.normalize('NFC')) faults.push('it is not in Unicode form NFC');
  return faults;
}

/**
 * Mends a name so that it is legal everywhere: NFC; controls and invisible marks go; illegal characters become `-`;
 * dots and spaces at the ends go; a device name gets `_` behind its stem; an empty result becomes `_`;
 * a name over 255 bytes is cut at a grapheme boundary, never in its extension.
 */
export function mendName(name: string, maxBytes = NAME_BYTES_MAX): string {
  if (name.length <= maxBytes && PLAIN.test(name) && !RESERVED.test(name)) return name;
  let mended = withoutIllegal(name);
  mended = mended.replace(/^[. ]+/, '').replace(/[. ]+$/, '');
  if (RESERVED.test(mended)) mended = mended.replace(/^[^.\s]+/, '$&_');
  if (mended === '') return '_';
  if (utf8Bytes(mended) <= maxBytes) return mended;
  const dot = mended.lastIndexOf('.');
  const ext = dot > 0 && mended.length - dot <= 12 ? mended.slice(dot) : '';
  const stem = ext ? mended.slice(0, dot) : mended;
  return cutToBytes(stem, maxBytes - utf8Bytes(ext)).replace(/[. ]+$/, '') + ext;
}

/** Values as most are: nothing in them is illegal, wherever in a name they stand. */
const PLAIN_VALUE = /^[A-Za-z0-9_-](?:[A-Za-z0-9_. -]*[A-Za-z0-9_-])?$/;

/**
 * Mends a value before it becomes part of a name, so that the name as a whole needs none: NFC; controls and invisible
 * marks go; illegal characters become `-`; dots and spaces at its ends go, and marks that would join what stands before.
 */
export function mendValue(value: string): string {
  if (value === '' || PLAIN_VALUE.test(value)) return value;
  return withoutIllegal(value)
    .replace(/^[.\s\p{M}]+/u, '')
    .replace(/[.\s]+$/, '');
}

/** NFC; controls and invisible marks go; illegal characters become `-`. Ends are left as they are. */
export const withoutIllegal = (text: string): string =>
  text.replace(CONTROLS, '').replace(INVISIBLE, '').replace(ILLEGAL, '-').normalize('NFC');

const graphemes = new Intl.Segmenter('en', { granularity: 'grapheme' });

/** The longest beginning of a text that fits into `maxBytes` of UTF-8 without breaking a grapheme. */
export function cutToBytes(text: string, maxBytes: number): string {
  let out = '';
  let bytes = 0;
  for (const { segment } of graphemes.segment(text)) {
    bytes += utf8Bytes(segment);
    if (bytes > maxBytes) break;
    out += segment;
  }
  return out;
}

/**
 * The form in which two names are the same to some system: NFC and letter case folded, so that `Case.JPG`, `case.jpg`
 * and a decomposed é meet. Upper case first, so that ß and SS meet too: rather one clash too many than one too few.
 */
export function foldName(name: string): string {
  if (ASCII.test(name)) return name.toLowerCase();
  return name.normalize('NFC').toUpperCase().toLowerCase().normalize('NFC');
}

/** A path whose parts can stand on every system: nothing is changed in what every system allows. */
export const mendPath = (path: string): string =>
  path
    .split('/')
    .map((part) => mendName(part))
    .join('/');
