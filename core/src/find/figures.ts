import { KINDS } from '../card/index.js';
import type { Piece } from './question.js';
import { FLAG, type Shelf, VERDICTS } from './shelf.js';

export const FIGURES_BY = ['month', 'contributor', 'kind', 'camera', 'assignment', 'season'] as const;
export type FiguresBy = (typeof FIGURES_BY)[number];

/** One bar: what it stands for, and the piece of a question that asks for what is in it; null: nothing does. */
export interface Figure {
  readonly words: string;
  readonly piece: Piece | null;
  /** Intakes that brought something of it. */
  readonly intakes: number;
  readonly items: number;
  readonly bytes: number;
  readonly selects: number;
  /** Filed more than a week after they were taken. */
  readonly late: number;
}

interface Sum {
  intakes: Set<number>;
  items: number;
  bytes: number;
  selects: number;
  late: number;
}

const two = (n: number) => String(n).padStart(2, '0');
const four = (n: number) => String(n).padStart(4, '0');
const SELECT = VERDICTS.indexOf('select');

/** First and last day of so many months. @param month months since the year 0 */
function span(month: number, months: number): { from: string; to: string } {
  const last = month + months - 1;
  const end = new Date(Date.UTC(2000, 0, 1));
  end.setUTCFullYear(Math.floor(last / 12), (last % 12) + 1, 0);
  return {
    from: `${four(Math.floor(month / 12))}-${two((month % 12) + 1)}-01`,
    to: `${four(Math.floor(last / 12))}-${two((last % 12) + 1)}-${two(end.getUTCDate())}`,
  };
}

/**
 * An answer in figures: one for each month, contributor, … of it. Months and seasons come in their order, the rest the
 * largest first. @param seasonBegins month (1 to 12) with which the house's season begins
 */
export function figuresOf(shelf: Shelf, slots: Int32Array, by: FiguresBy, seasonBegins = 1): Figure[] {
  const { records } = shelf;
  const columns = { contributor: shelf.contributor, kind: shelf.kind, camera: shelf.camera, assignment: shelf.assignment };
  const column = by === 'month' || by === 'season' ? shelf.month.at : columns[by].at;
  // A season begins in a month; it is called after the year of that.
  const keyOf = (value: number) =>
    by === 'season' ? Math.floor((value - (seasonBegins - 1)) / 12) * 12 + seasonBegins - 1 : value;
  const sums = new Map<number, Sum>();
  for (const slot of slots) {
    const key = keyOf(column[slot]!);
    let sum = sums.get(key);
    if (!sum) sums.set(key, (sum = { intakes: new Set(), items: 0, bytes: 0, selects: 0, late: 0 }));
    sum.intakes.add(shelf.intake.at[slot]!);
    sum.items++;
    sum.bytes += shelf.bytes.at[slot]!;
    if (shelf.verdict.at[slot] === SELECT) sum.selects++;
    if (shelf.flags.at[slot]! & FLAG.late) sum.late++;
  }
  const named = (key: number): { words: string; piece: Piece | null } => {
    switch (by) {
      case 'month':
        return { words: span(key, 1).from.slice(0, 7), piece: { is: 'taken', ...span(key, 1) } };
      case 'season': {
        const { from, to } = span(key, 12);
        const [first, last] = [from.slice(0, 4), to.slice(0, 4)];
        return { words: first === last ? first : `${first}–${last}`, piece: { is: 'taken', from, to } };
      }
      case 'kind':
        return { words: KINDS[key]!, piece: { is: 'kind', kind: KINDS[key]! } };
      case 'camera': {
        const name = shelf.cameras.texts[key]!;
        return { words: name || 'no camera', piece: name ? { is: 'camera', name } : null };
      }
      case 'contributor': {
        const one = records.contributor.get(key);
        return { words: one?.name ?? 'nobody named', piece: one ? { is: 'by', code: one.code } : null };
      }
      case 'assignment': {
        const one = records.assignment.get(key);
        return { words: one?.title ?? 'no assignment', piece: one ? { is: 'for', slug: one.slug } : null };
      }
    }
  };
  const inOrder = by === 'month' || by === 'season';
  return [...sums]
    .sort(([a, m], [b, n]) => (inOrder ? a - b : n.items - m.items || a - b))
    .map(([key, { intakes, ...sum }]) => ({ ...named(key), intakes: intakes.size, ...sum }));
}
