import type { FiguresAnswer, FigureView } from '@tally/contract';
import { formatBytes } from '@tally/core/logbook';

export const MEASURES = [
  { measure: 'items', words: 'items' },
  { measure: 'bytes', words: 'size' },
  { measure: 'intakes', words: 'intakes' },
  { measure: 'selects', words: 'selects' },
  { measure: 'late', words: 'filed late' },
] as const;
export type Measure = (typeof MEASURES)[number]['measure'];

export const valueOf = (figure: FigureView, what: Measure): number => figure[what];

const said = (value: number, what: Measure): string => {
  if (what === 'bytes') return formatBytes(value);
  const words = { items: 'items', intakes: 'intakes', selects: 'selects', late: 'items filed late' }[what];
  return `${value.toLocaleString('en-GB')} ${value === 1 ? words.replace(/s\b/, '') : words}`;
};

const MONTH = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', month: 'long', year: 'numeric' });

/** What the figures say, in one sentence: it is the title of their chart. */
export function answerOf({ figures, by }: Pick<FiguresAnswer, 'figures' | 'by'>, what: Measure): string {
  const most = figures.reduce<FigureView | null>(
    (best, one) => (!best || valueOf(one, what) > valueOf(best, what) ? one : best),
    null,
  );
  if (!most || valueOf(most, what) === 0) return what === 'late' ? 'Nothing was filed late.' : `There are no ${what} here.`;
  const value = said(valueOf(most, what), what);
  switch (by) {
    case 'month':
      return `${MONTH.format(Date.parse(`${most.words}-01T00:00:00Z`))} brought most: ${value}.`;
    case 'season': {
      const [now, before] = [figures.at(-1)!, figures.at(-2)];
      if (!before) return `${now.words}: ${said(valueOf(now, what), what)}.`;
      const [a, b] = [valueOf(now, what), valueOf(before, what)];
      const change = a === b ? 'as many as' : a > b ? 'more than' : 'fewer than';
      return `${now.words} has ${said(a, what)} so far, ${change} ${before.words} (${said(b, what)}).`;
    }
    case 'contributor':
      return `${most.words} handed in most: ${value}.`;
    case 'kind':
      return `Most are of the kind ${most.words}: ${value}.`;
    case 'camera':
      return `${most.words} took most: ${value}.`;
    case 'assignment':
      return `${most.words} brought most: ${value}.`;
  }
}
