import { foldText } from '../words/index.js';
import { searchable } from './needle.js';

/** Typed arrays of one length that grow together, one for each property of what stands in a slot. */
type Maker = new (length: number) => Column;
export type Column = Int32Array | Uint32Array | Float64Array | Uint8Array | Int16Array;

const FIRST = 1024;

/** Grows a column to at least a length. */
export function grown<C extends Column>(column: C, length: number): C {
  if (column.length >= length) return column;
  const more = new (column.constructor as Maker)(Math.max(FIRST, length, Math.floor(column.length * 1.5))) as C;
  more.set(column);
  return more;
}

/** Gives texts numbers from 0 on; the same text the same number. */
export class Numbered {
  readonly texts: string[] = [];
  /** The same, as they are looked through. */
  readonly searchable: string[] = [];
  readonly folded: string[] = [];
  private readonly numbers = new Map<string, number>();

  numberOf(text: string): number {
    const known = this.numbers.get(text);
    if (known !== undefined) return known;
    this.texts.push(text);
    this.searchable.push(searchable(text));
    this.folded.push(foldText(text));
    this.numbers.set(text, this.texts.length - 1);
    return this.texts.length - 1;
  }
}

/** Gives sets of ids numbers; 0 is the empty one. Items share few different sets. */
export class NumberedSets {
  readonly sets: (readonly number[])[] = [[]];
  private readonly numbers = new Numbered();

  constructor() {
    this.numbers.numberOf('');
  }

  numberOf(ids: readonly number[]): number {
    if (!ids.length) return 0;
    const sorted = [...new Set(ids)].sort((a, b) => a - b);
    const number = this.numbers.numberOf(sorted.join());
    this.sets[number] ??= sorted;
    return number;
  }
}
