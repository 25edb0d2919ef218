import type { FiguresAnswer, FiguresQuery } from '@tally/contract';
import { figuresOf, filedMonths, printPiece } from '@tally/core/find';
import type { House } from '../house/index.js';
import { answered, understood } from './asking.js';

/** An answer in figures; each bar with the question that asks for what is in it. Seasons begin with the year. */
export async function figuresFor(
  house: Pick<House, 'db' | 'settings' | 'clock'>,
  { question: typed, by }: FiguresQuery,
  blind = false,
): Promise<FiguresAnswer> {
  const { question, view } = await understood(house, typed, blind);
  const { shelf, slots } = await answered(house, question, blind);
  const figures = figuresOf(shelf, slots, by).map(({ piece, ...figure }) => ({
    ...figure,
    question: piece ? `${view.text} ${printPiece(piece)}`.trim() : null,
  }));
  return { question: view, by, figures };
}

/** What was filed by month. */
export async function filedByMonth(
  house: Pick<House, 'db' | 'settings' | 'clock'>,
): Promise<{ month: string; items: number; bytes: number }[]> {
  const { shelf, slots } = await answered(house, []);
  return filedMonths(shelf, slots);
}
