/* eslint-disable @typescript-eslint/prefer-for-of -- going through half a million by an iterator takes three times as long */
import { KINDS } from '../card/index.js';
import type { Piece } from './question.js';
import { type Shelf, VERDICTS } from './shelf.js';

/** One line of what an answer is made of: the piece that would ask for it alone. */
export interface Share {
  readonly words: string;
  readonly piece: Piece;
  readonly items: number;
}

export interface MadeOf {
  readonly contributors: readonly Share[];
  readonly assignments: readonly Share[];
  readonly years: readonly Share[];
  readonly kinds: readonly Share[];
  readonly cameras: readonly Share[];
  readonly terms: readonly Share[];
  readonly verdicts: readonly Share[];
}

const MOST_SHARES = 40;

/** How many slots have each value of a column. */
function tally(slots: Int32Array, column: Int32Array | Uint8Array): Map<number, number> {
  let top = 0;
  for (let at = 0; at < slots.length; at++) if (column[slots[at]!]! > top) top = column[slots[at]!]!;
  const counts = new Float64Array(top + 1);
  for (let at = 0; at < slots.length; at++) counts[column[slots[at]!]!]!++;
  const found = new Map<number, number>();
  for (const [value, count] of counts.entries()) if (count) found.set(value, count);
  return found;
}

/** The largest first; what nothing can be said of is left out. */
function shares(counts: ReadonlyMap<number, number>, of: (value: number) => Omit<Share, 'items'> | null): Share[] {
  return [...counts]
    .sort(([a, m], [b, n]) => n - m || a - b)
    .flatMap(([value, items]) => {
      const one = of(value);
      return one ? [{ ...one, items }] : [];
    })
    .slice(0, MOST_SHARES);
}

/** What an answer is made of. */
export function madeOf(shelf: Shelf, slots: Int32Array): MadeOf {
  const { records } = shelf;
  const years = new Map<number, number>();
  for (const [month, items] of tally(slots, shelf.month.at)) {
    const year = Math.floor(month / 12);
    years.set(year, (years.get(year) ?? 0) + items);
  }
  return {
    contributors: shares(tally(slots, shelf.contributor.at), (id) => {
      const one = records.contributor.get(id);
      return one ? { words: one.name, piece: { is: 'by', code: one.code } } : null;
    }),
    assignments: shares(tally(slots, shelf.assignment.at), (id) => {
      const one = records.assignment.get(id);
      return one ? { words: one.title, piece: { is: 'for', slug: one.slug } } : null;
    }),
    years: shares(years, (year) => {
      const four = String(year).padStart(4, '0');
      return { words: four, piece: { is: 'taken', from: `${four}-01-01`, to: `${four}-12-31` } };
    }).sort((a, b) => (a.words < b.words ? 1 : -1)),
    kinds: shares(tally(slots, shelf.kind.at), (kind) => ({ words: KINDS[kind]!, piece: { is: 'kind', kind: KINDS[kind]! } })),
    cameras: shares(tally(slots, shelf.camera.at), (camera) => {
      const name = shelf.cameras.texts[camera]!;
      return name ? { words: name, piece: { is: 'camera', name } } : null;
    }),
    terms: shares(tally(slots, shelf.terms.at), (id) => {
      const one = records.terms.get(id);
      return one ? { words: one.name, piece: { is: 'terms', name: one.name } } : null;
    }),
    verdicts: shares(tally(slots, shelf.verdict.at), (verdict) => {
      const state = VERDICTS[verdict];
      return state ? { words: state, piece: { is: 'state', state } } : null;
    }),
  };
}

/** A month of an answer: how many items, and the place of the first of them among all, from 0. */
export interface MonthOf {
  /** `yyyy-MM` */
  readonly month: string;
  readonly items: number;
  readonly at: number;
}

/** The months of an answer in its order. @param slots newest first */
export function monthsOf(shelf: Shelf, slots: Int32Array): MonthOf[] {
  const months: { month: string; items: number; at: number }[] = [];
  let last = -1;
  for (let at = 0; at < slots.length; at++) {
    const month = shelf.month.at[slots[at]!]!;
    if (month !== last) {
      const name = `${String(Math.floor(month / 12)).padStart(4, '0')}-${String((month % 12) + 1).padStart(2, '0')}`;
      months.push({ month: name, items: 0, at });
      last = month;
    }
    months.at(-1)!.items++;
  }
  return months;
}

/** What was filed in each month, the newest last, of everything on the shelf. */
export function filedMonths(shelf: Shelf, slots: Int32Array): { month: string; items: number; bytes: number }[] {
  const sums = new Map<string, { items: number; bytes: number }>();
  const monthOf = new Map<number, string>();
  for (const slot of slots) {
    const day = shelf.filedDay.at[slot]!;
    const month = monthOf.get(day) ?? new Date(day * 86_400_000).toISOString().slice(0, 7);
    monthOf.set(day, month);
    const sum = sums.get(month) ?? { items: 0, bytes: 0 };
    sum.items++;
    sum.bytes += shelf.bytes.at[slot]!;
    sums.set(month, sum);
  }
  return [...sums].map(([month, sum]) => ({ month, ...sum })).sort((a, b) => (a.month < b.month ? -1 : 1));
}

/** When something was filed; what is filed at the same moment is in the order of its ids. */
export interface FiledMoment {
  readonly atMs: number;
  readonly id: number;
}

/** How many of an answer have been filed after a moment. */
export function newerThan(shelf: Shelf, slots: Int32Array, { atMs, id }: FiledMoment): number {
  const [filed, ids] = [shelf.filedAtMs.at, shelf.filedId.at];
  let count = 0;
  for (let at = 0; at < slots.length; at++) {
    const slot = slots[at]!;
    if (filed[slot]! > atMs || (filed[slot] === atMs && ids[slot]! > id)) count++;
  }
  return count;
}

/** When the newest of everything was filed. */
export function newestFiled(shelf: Shelf): FiledMoment {
  const [slots, filed, ids] = [shelf.ordered(), shelf.filedAtMs.at, shelf.filedId.at];
  let newest: FiledMoment = { atMs: 0, id: 0 };
  for (let at = 0; at < slots.length; at++) {
    const [atMs, id] = [filed[slots[at]!]!, ids[slots[at]!]!];
    if (atMs > newest.atMs || (atMs === newest.atMs && id > newest.id)) newest = { atMs, id };
  }
  return newest;
}

/** Bytes of an answer. */
export function bytesOf(shelf: Shelf, slots: Int32Array): number {
  let bytes = 0;
  const column = shelf.bytes.at;
  for (let at = 0; at < slots.length; at++) bytes += column[slots[at]!]!;
  return bytes;
}
