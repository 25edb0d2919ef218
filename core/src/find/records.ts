import type { Kind } from '../card/index.js';
import type { Pictured, TermsGiven } from '../credit/index.js';

/** One filed item, as the shelf needs it. Ids are those of the house's records; null: nothing is said. */
export interface ShelfItem {
  readonly id: number;
  readonly intake: number;
  /** Id of the item that leads its object: companions stand beside it. */
  readonly object: number;
  /** Capture time of what leads its object, milliseconds of its wall clock. */
  readonly takenMs: number;
  readonly kind: Kind;
  /** Whose it is and what it was shot for, where it says so itself. */
  readonly contributor: number | null;
  readonly assignment: number | null;
  readonly camera: string;
  readonly folder: string;
  readonly name: string;
  /** Path it had on its card, and those that it had on the drive once: it is found by them. */
  readonly onCard: string;
  readonly description: string;
  /** Words it has, and has not although its slip or its assignment says them. */
  readonly words: readonly number[];
  readonly notWords: readonly number[];
  readonly pictured: readonly number[];
  readonly location: number | null;
  readonly terms: number | null;
  readonly creditLine: string | null;
  readonly verdict: 'select' | 'reshoot' | 'hold' | null;
  readonly sound: boolean;
  /** Copies that tally. */
  readonly copies: number;
  readonly bytes: number;
  /** Day on which it was filed, `yyyy-MM-dd`, in the house's zone, and that moment. */
  readonly filedOn: string;
  readonly filedAtMs: number;
  readonly filedId: number;
  /** Difference hash, 16 hexadecimal digits. */
  readonly look: string | null;
}

/** The records that items speak of. Each is put anew when anything of it changes. */
export interface ShelfRecords {
  intake: {
    readonly id: number;
    readonly number: string;
    readonly label: string;
    readonly contributor: number | null;
    readonly assignment: number | null;
    readonly location: number | null;
    readonly terms: number | null;
    readonly creditLine: string | null;
    readonly words: readonly number[];
  };
  /** `codes`: the one it has, and those that mean it since records were merged. */
  contributor: { readonly id: number; readonly code: string; readonly codes: readonly string[]; readonly name: string } & {
    readonly terms: number | null;
    /** Of whom lookers see the code only. */
    readonly minor: boolean;
  };
  assignment: {
    readonly id: number;
    readonly slug: string;
    readonly title: string;
    readonly code: string;
    readonly where: string;
    readonly words: readonly number[];
    readonly location: number | null;
    readonly terms: number | null;
    readonly embargoUntil: string | null;
  };
  /** `names`: in every language, with synonyms; `broader`: the words that mean more. */
  word: { readonly id: number; readonly names: readonly string[]; readonly broader: readonly number[] };
  location: { readonly id: number; readonly name: string; readonly where: string };
  pictured: Pictured;
  terms: { readonly id: number } & TermsGiven;
  /** `items` in their order. */
  bundle: { readonly id: number; readonly name: string; readonly parent: number | null; readonly items: readonly number[] };
}
export type RecordKind = keyof ShelfRecords;
