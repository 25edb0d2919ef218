import type { Kind } from '../card/index.js';
import type { CopyState } from '../copies/index.js';

/** An item as far as a receipt speaks of it. */
export interface ReceiptItem {
  readonly id: number;
  readonly path: string;
  readonly kind: Kind;
  readonly bytes: number;
  /** Capture time as local text; null where none is known. */
  readonly captured: string | null;
  /** Where it stands on the drive; null when it was left. */
  readonly filedAs: string | null;
  /** Why it was left; null when it was filed. */
  readonly left: string | null;
  /** What may be done with it, in words. */
  readonly terms: string;
  /** Is somebody in it who must not be shown? */
  readonly unshown: boolean;
  readonly copies: readonly {
    readonly place: string;
    readonly state: CopyState;
    readonly proof: string | null;
    readonly problem: string | null;
  }[];
}

export interface ReceiptPlace {
  readonly id: string;
  readonly name: string;
  readonly kind: string;
  readonly device: string | null;
}

/** What a receipt says of the items and their copies. */
export interface ReceiptFacts {
  readonly filed: { readonly items: number; readonly bytes: number };
  readonly kinds: readonly { readonly kind: Kind; readonly items: number; readonly bytes: number }[];
  readonly first: ReceiptItem | null;
  readonly last: ReceiptItem | null;
  readonly folders: readonly { readonly path: string; readonly items: number }[];
  readonly places: readonly {
    readonly name: string;
    readonly kind: string;
    readonly device: string | null;
    readonly tallied: number;
    readonly waiting: number;
    readonly trouble: number;
    /** How its copies were proven; more than one where that differed. */
    readonly proofs: readonly string[];
  }[];
  /** What may be done with what was filed, that of the most first. */
  readonly terms: readonly { readonly words: string; readonly items: number }[];
  /** Filed items that show somebody who must not be shown. */
  readonly unshown: number;
  readonly left: readonly { readonly reason: string; readonly items: number; readonly examples: readonly string[] }[];
  readonly problems: readonly { readonly path: string; readonly words: string }[];
}

const EXAMPLES = 2;

export function receiptFacts(items: readonly ReceiptItem[], places: readonly ReceiptPlace[]): ReceiptFacts {
  const promised = items.filter(({ filedAs }) => filedAs !== null);
  // A name that was promised is no file: filed is what stands somewhere, whole.
  const filed = promised.filter(({ copies }) => copies.some(({ state }) => state === 'tallied'));
  const inTime = [...filed]
    .filter(({ kind }) => kind !== 'sidecar' && kind !== 'other')
    .sort((a, b) => compare(a.captured ?? '', b.captured ?? '') || compare(a.path, b.path));
  const kinds = new Map<Kind, { items: number; bytes: number }>();
  const folders = new Map<string, number>();
  for (const item of filed) {
    const sum = kinds.get(item.kind) ?? { items: 0, bytes: 0 };
    kinds.set(item.kind, { items: sum.items + 1, bytes: sum.bytes + item.bytes });
    const folder = item.filedAs!.slice(0, Math.max(0, item.filedAs!.lastIndexOf('/')));
    folders.set(folder, (folders.get(folder) ?? 0) + 1);
  }
  const terms = new Map<string, number>();
  for (const item of filed) terms.set(item.terms, (terms.get(item.terms) ?? 0) + 1);
  const reasons = new Map<string, string[]>();
  for (const { left, path } of items) if (left !== null) reasons.set(left, [...(reasons.get(left) ?? []), path]);
  const problems = items.flatMap(({ path, copies }) =>
    copies.flatMap(({ state, problem }) => (state !== 'tallied' && problem !== null ? [{ path, words: problem }] : [])),
  );
  return {
    filed: { items: filed.length, bytes: filed.reduce((sum, { bytes }) => sum + bytes, 0) },
    kinds: [...kinds].map(([kind, sum]) => ({ kind, ...sum })),
    ...{ first: inTime[0] ?? null, last: inTime.at(-1) ?? null },
    folders: [...folders].map(([path, count]) => ({ path, items: count })),
    places: places.map((place) => atPlace(place, promised)),
    terms: [...terms].map(([words, count]) => ({ words, items: count })).sort((a, b) => b.items - a.items),
    unshown: filed.filter(({ unshown }) => unshown).length,
    left: [...reasons].map(([reason, paths]) => ({ reason, items: paths.length, examples: paths.slice(0, EXAMPLES) })),
    problems: [...new Map(problems.map((problem) => [`${problem.path} ${problem.words}`, problem])).values()],
  };
}

function atPlace({ id, name, kind, device }: ReceiptPlace, filed: readonly ReceiptItem[]): ReceiptFacts['places'][number] {
  const copies = filed.flatMap((item) => item.copies.filter(({ place }) => place === id));
  const tallied = copies.filter(({ state }) => state === 'tallied');
  const waiting = copies.filter(({ state }) => state === 'waiting' || state === 'copying').length;
  return {
    ...{ name, kind, device, tallied: tallied.length, waiting, trouble: copies.length - tallied.length - waiting },
    proofs: [...new Set(tallied.flatMap(({ proof }) => proof ?? []))],
  };
}

/** Some of many, the first and the last among them, evenly spread. */
export function spread<T>(all: readonly T[], most: number): T[] {
  if (all.length <= most) return [...all];
  return Array.from({ length: most }, (_, index) => all[Math.round((index * (all.length - 1)) / Math.max(1, most - 1))]!);
}

const compare = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);
