import type { NotchShape } from '@tally/core/copies';
import type { CanvasElement } from 'pdfmake/interfaces.js';

export interface StickRun {
  readonly count: number;
  readonly card: NotchShape;
  readonly copies: readonly NotchShape[];
}

const ROW = 11;

/**
 * The stick as lines and areas for black-and-white paper: a row for the card, one for each place. What tallies is black,
 * what waits is white, what was left is grey, trouble is crossed.
 * @param width in points.
 */
export function stickOnPaper(runs: readonly StickRun[], width: number): CanvasElement[] {
  const total = runs.reduce((sum, { count }) => sum + count, 0) || 1;
  const rows = 1 + (runs[0]?.copies.length ?? 0);
  const drawn: CanvasElement[] = [];
  let at = 0;
  for (const run of runs) {
    const x = (at / total) * width;
    const w = (run.count / total) * width;
    at += run.count;
    [run.card, ...run.copies].forEach((shape, row) => {
      const y = row * ROW;
      const fill = FILL[shape];
      if (fill !== null) for (const notch of notches(x, w, run.count)) drawn.push(wedge(notch, y, row === 0, fill));
      if (shape === 'crossed') {
        const end = Math.max(2, w);
        for (const [y1, y2] of [[y + 2, y + ROW - 2] as const, [y + ROW - 2, y + 2] as const])
          drawn.push({ type: 'line', x1: x, y1, x2: x + end, y2, lineWidth: 0.8, lineColor: '#000' });
      }
    });
  }
  for (let row = 0; row <= rows; row++)
    drawn.push({ type: 'line', x1: 0, y1: row * ROW, x2: width, y2: row * ROW, lineWidth: 0.5, lineColor: '#000' });
  for (const x of [0, width])
    drawn.push({ type: 'line', x1: x, y1: 0, x2: x, y2: rows * ROW, lineWidth: 0.5, lineColor: '#000' });
  return drawn;
}

/** Seen apart, notches are drawn one by one; where they are too many, as one area. */
function notches(x: number, w: number, count: number): { x: number; w: number }[] {
  const each = w / count;
  if (each < 2) return [{ x, w }];
  return Array.from({ length: count }, (_, index) => ({ x: x + index * each, w: each }));
}

/** A notch, wide at the edge it is cut from: the card's from above, a place's from below. */
function wedge({ x, w }: { x: number; w: number }, top: number, fromAbove: boolean, color: string): CanvasElement {
  const gap = Math.min(0.8, w * 0.15);
  const narrow = Math.min(w * 0.2, 3);
  const [edge, deep] = fromAbove ? [top + 1, top + ROW - 1.5] : [top + ROW - 1, top + 1.5];
  const points = [
    { x: x + gap, y: edge },
    { x: x + w - gap, y: edge },
    { x: x + w - gap - narrow, y: deep },
    { x: x + gap + narrow, y: deep },
  ];
  return { type: 'polyline', closePath: true, points, color, lineWidth: 0 };
}

const FILL: Readonly<Record<NotchShape, string | null>> = {
  ...{ cut: '#222', half: '#888', double: '#666', ring: '#ccc' },
  ...{ open: null, crossed: null, none: null },
};

export const STICK_ROW_POINTS = ROW;
