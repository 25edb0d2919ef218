import { type Position, positionInWords } from '../location/index.js';

/** What comes with a file: description, words, creator, rights and location in its own metadata. */
export interface Embedded {
  readonly description: string | null;
  readonly headline: string | null;
  readonly words: readonly string[];
  readonly creator: string | null;
  readonly creditLine: string | null;
  readonly copyrightNotice: string | null;
  readonly usageTerms: string | null;
  /** Location as text: name, part, town, region, country. */
  readonly location: string | null;
  readonly position: Position | null;
}

export const NOTHING_EMBEDDED: Embedded = {
  ...{ description: null, headline: null, words: [], creator: null, creditLine: null, copyrightNotice: null },
  ...{ usageTerms: null, location: null, position: null },
};

/**
 * Is it the camera's own name, which many write where a description belongs? In capitals only. Common practice, no source.
 */
export const isOfCamera = (text: string, make: string | null): boolean =>
  text === text.toUpperCase() && (text.includes('CAMERA') || (make !== null && text.includes(make.toUpperCase().split(' ')[0]!)));

export const isEmpty = (embedded: Embedded): boolean =>
  Object.values(embedded).every((value) => value === null || (Array.isArray(value) && value.length === 0));

/** As rows for whoever looks closer. */
export function embeddedInWords(embedded: Embedded): { name: string; value: string }[] {
  const { position } = embedded;
  const rows = [
    ['Described in the file', embedded.description],
    ['Headline in the file', embedded.headline],
    ['Words in the file', embedded.words.join(', ')],
    ['Creator in the file', embedded.creator],
    ['Credit in the file', embedded.creditLine],
    ['Copyright in the file', embedded.copyrightNotice],
    ['Terms in the file', embedded.usageTerms],
    ['Location in the file', embedded.location],
    ['Position', position && positionInWords(position)],
  ] as const;
  return rows.flatMap(([name, value]) => (value ? [{ name, value }] : []));
}
