import { staysBelow } from '../rule/index.js';

/** One file of a folder, or below it. */
export interface Checksum {
  /** Path from the folder: its name; `/` between folders where it lies below. */
  readonly name: string;
  /** XXH128 as 32 lower-case hexadecimal digits. */
  readonly hash: string;
}

/** The name of the list in every folder that something was filed into. */
export const CHECKSUM_FILE = 'checksums.xxh128';

/**
 * Writes a list that `xxhsum -c` checks: sorted by name, so that two lists of the same files are the same bytes.
 * Names come from `core/rule` and hold no line break and no backslash, which that format would have to escape.
 * @throws RangeError for a name or hash that does not fit on a line.
 */
export function writeChecksums(entries: readonly Checksum[]): string {
  for (const { name, hash } of entries) {
    if (!LINE.test(`${hash}  ${name}`) || !staysBelow(name))
      throw new RangeError(`${JSON.stringify(name)} cannot stand in a checksum list`);
  }
  const sorted = [...entries].sort((a, b) => (a.name < b.name ? -1 : a.name > b.name ? 1 : 0));
  return sorted.map(({ name, hash }) => `${hash}  ${name}\n`).join('');
}

// eslint-disable-next-line no-control-regex -- control characters are what must not be there
const LINE = /^([0-9a-f]{32}) [ *]([^\\\u0000-\u001f]+)$/;

/** Reads a list back; null when any line is something else: then it is not one of ours. */
export function readChecksums(text: string): Checksum[] | null {
  const entries: Checksum[] = [];
  for (const line of text.split(/\r?\n/)) {
    if (line === '') continue;
    const match = LINE.exec(line);
    if (!match || !staysBelow(match[2]!)) return null;
    entries.push({ hash: match[1]!, name: match[2]! });
  }
  return entries;
}
