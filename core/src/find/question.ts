import type { Kind } from '../card/index.js';

/** What a word of the house's vocabulary says of items, as one asks for it. Order: as people are shown them. */
export const STATES = [
  'select',
  'reshoot',
  'hold',
  'described',
  'with sound',
  'not proven twice',
  'without credit',
  'without words',
  'somebody in it',
  'not to be shown',
  'ask first',
  'filed late',
] as const;
export type FoundState = (typeof STATES)[number];

/** Days, both within, `yyyy-MM-dd`. */
export interface Span {
  readonly from: string;
  readonly to: string;
}

interface Turned {
  /** What answers it is left out. */
  readonly not?: true;
}

/**
 * One piece of a question: an item must answer every piece. Codes, slugs, names and ids are what the house calls its records
 * by, so that a question is a text that can be kept and sent.
 */
export type Piece = Turned &
  (
    | { readonly is: 'word'; readonly text: string }
    | { readonly is: 'exact'; readonly text: string }
    | ({ readonly is: 'taken' } & Span)
    | ({ readonly is: 'filed' } & Span)
    | { readonly is: 'by'; readonly code: string }
    | { readonly is: 'for'; readonly slug: string }
    | { readonly is: 'kind'; readonly kind: Kind }
    | { readonly is: 'state'; readonly state: FoundState }
    | { readonly is: 'camera'; readonly name: string }
    | { readonly is: 'folder'; readonly path: string }
    | { readonly is: 'at'; readonly name: string }
    | { readonly is: 'shows'; readonly name: string }
    | { readonly is: 'terms'; readonly name: string }
    | { readonly is: 'intake'; readonly number: string }
    | { readonly is: 'bundle'; readonly id: number }
  );

/** What somebody asks the shelf. No piece: everything. */
export type Question = readonly Piece[];

/** A question of more than this is not meant seriously. */
export const MOST_PIECES = 40;
export const LONGEST_QUESTION = 2_000;

/** Names of the house by which typed words are understood. */
export interface Names {
  readonly contributors: readonly { readonly code: string; readonly name: string }[];
  readonly assignments: readonly { readonly slug: string; readonly title: string }[];
  readonly bundles: readonly { readonly id: number; readonly name: string }[];
}

export const NO_NAMES: Names = { contributors: [], assignments: [], bundles: [] };
