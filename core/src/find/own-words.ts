import type { Needle } from './needle.js';

/** Numbers that only grow in number, ascending. */
class Ascending {
  private list = new Int32Array(4);
  length = 0;

  push(value: number): void {
    if (this.length > 0 && this.list[this.length - 1] === value) return;
    if (this.length === this.list.length) {
      const more = new Int32Array(this.length * 2);
      more.set(this.list);
      this.list = more;
    }
    this.list[this.length++] = value;
  }

  get values(): Int32Array {
    return this.list.subarray(0, this.length);
  }
}

/**
 * Which slots have which word of their own (names, descriptions): for each word the slots that have it. What changes gets a
 * new slot, so nothing is ever taken out.
 */
export class OwnWords {
  private readonly slotsOf = new Map<string, Ascending>();
  /** The words in order, for their beginnings; null since a new one came. */
  private sorted: string[] | null = [];

  /** @param text searchable */
  add(slot: number, text: string): void {
    for (const word of text.split(/[ \n]+/)) {
      if (!word) continue;
      const known = this.slotsOf.get(word);
      if (known) known.push(slot);
      else {
        const list = new Ascending();
        list.push(slot);
        this.slotsOf.set(word, list);
        this.sorted = null;
      }
    }
  }

  /** Marks the slots that have what is looked for. @param textOf a slot's own searchable text */
  mark(needle: Needle, marks: Uint8Array, textOf: (slot: number) => string): void {
    if (needle.words.length === 1) {
      for (const list of needle.whole ? [this.slotsOf.get(needle.words[0]!)] : this.begunBy(needle.words[0]!))
        for (const slot of list?.values ?? []) marks[slot] = 1;
      return;
    }
    // Several in a row: of those that have the rarest of them, those whose text has them all.
    const whole = needle.whole ? needle.words : needle.words.slice(0, -1);
    const each = whole.map((word) => [this.slotsOf.get(word)].filter((list) => list !== undefined));
    if (!needle.whole) each.push(this.begunBy(needle.words.at(-1)!));
    const sizeOf = (lists: readonly Ascending[]) => lists.reduce((sum, { length }) => sum + length, 0);
    const rarest = each.reduce((least, lists) => (sizeOf(lists) < sizeOf(least) ? lists : least));
    for (const list of rarest) for (const slot of list.values) if (textOf(slot).includes(needle.text)) marks[slot] = 1;
  }

  private begunBy(start: string): Ascending[] {
    this.sorted ??= [...this.slotsOf.keys()].sort();
    let [low, high] = [0, this.sorted.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.sorted[middle]! < start) low = middle + 1;
      else high = middle;
    }
    const lists: Ascending[] = [];
    for (let at = low; at < this.sorted.length && this.sorted[at]!.startsWith(start); at++)
      lists.push(this.slotsOf.get(this.sorted[at]!)!);
    return lists;
  }
}
