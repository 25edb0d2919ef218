import type { NotchShape } from '@tally/core/copies';

/** One notch: its width share, and its shape on the card's half and at each place. */
export interface Notch {
  /** Share of the stick's length; shares need not add up to one. */
  readonly weight: number;
  readonly card: NotchShape;
  readonly copies: readonly NotchShape[];
}

interface Wood {
  readonly light: string;
  readonly mid: string;
  readonly deep: string;
  readonly bare: string;
  readonly cut: string;
  readonly grain: string;
}

const WOOD: Wood = {
  light: '#d59a4c',
  mid: '#b8772b',
  deep: '#8f5818',
  bare: '#e3c394',
  cut: '#3f2508',
  grain: 'rgba(80, 44, 8, .22)',
};
const WOOD_DARK: Wood = {
  light: '#d9a25a',
  mid: '#b67a33',
  deep: '#855320',
  bare: '#5a4222',
  cut: '#1d1004',
  grain: 'rgba(20, 10, 0, .3)',
};

/**
 * Draws a stick of hazel: the card's half above, the places below, a notch for each item. A row of copies that do not
 * tally yet is pale, peeled wood; it darkens to bark where notches are cut, so that *not yet* reads from afar. A place that
 * lags behind in what its files say has a dashed score along its row.
 * @param behind rows of places that do, from 0.
 */
export function drawStick(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  all: readonly Notch[],
  dark: boolean,
  behind: readonly number[] = [],
): void {
  const notches = gathered(all, Math.max(1, Math.floor(width)));
  const wood = dark ? WOOD_DARK : WOOD;
  const places = notches[0]?.copies.length ?? 2;
  const rows = 1 + places;
  const radius = Math.min(height / 2.4, 16);
  context.clearRect(0, 0, width, height);
  context.save();
  context.beginPath();
  context.roundRect(0, 0, width, height, [3, radius, radius, 3]);
  context.clip();
  const bark = context.createLinearGradient(0, 0, 0, height);
  bark.addColorStop(0, wood.light);
  bark.addColorStop(0.35, wood.mid);
  bark.addColorStop(1, wood.deep);
  context.fillStyle = bark;
  context.fillRect(0, 0, width, height);

  const rowHeight = height / rows;
  const inset = Math.min(8, width * 0.02);
  const total = notches.reduce((sum, notch) => sum + notch.weight, 0) || 1;
  const length = width - inset - radius * 0.7;
  const place = (from: number, to: number) => ({ x: inset + (from / total) * length, w: ((to - from) / total) * length });

  let at = 0;
  for (const notch of notches) {
    const { x, w } = place(at, at + notch.weight);
    at += notch.weight;
    notch.copies.forEach((shape, index) => {
      if (shape === 'cut' || shape === 'double') return;
      context.fillStyle = wood.bare;
      context.fillRect(x, (index + 1) * rowHeight, w + 0.6, rowHeight);
    });
  }
  drawGrain(context, width, height, wood);
  context.strokeStyle = wood.grain;
  context.lineWidth = 1;
  for (let row = 1; row < rows; row++) {
    context.beginPath();
    context.moveTo(0, Math.round(row * rowHeight) + 0.5);
    context.lineTo(width, Math.round(row * rowHeight) + 0.5);
    context.stroke();
  }
  at = 0;
  for (const notch of notches) {
    const { x, w } = place(at, at + notch.weight);
    at += notch.weight;
    [notch.card, ...notch.copies].forEach((shape, row) => drawNotch(context, shape, x, w, row, rowHeight, rows, wood));
  }
  for (const place of behind) drawScore(context, (place + 1) * rowHeight + rowHeight * 0.18, width, wood);
  context.restore();
}

function drawScore(context: CanvasRenderingContext2D, y: number, width: number, wood: Wood): void {
  context.save();
  context.strokeStyle = wood.cut;
  context.lineWidth = 1.5;
  context.setLineDash([6, 5]);
  context.beginPath();
  context.moveTo(4, y);
  context.lineTo(width - 4, y);
  context.stroke();
  context.restore();
}

/** What a notch that stands for many shows: the worst of them. */
const WORST: readonly NotchShape[] = ['crossed', 'open', 'half', 'ring', 'double', 'cut', 'none'];
const worse = (a: NotchShape, b: NotchShape) => (WORST.indexOf(a) <= WORST.indexOf(b) ? a : b);

/**
 * At most `most` notches: neighbours become one where there are more than can be seen apart. A gap among thousands that
 * tally stays a gap.
 */
export function gathered(notches: readonly Notch[], most: number): readonly Notch[] {
  if (notches.length <= most) return notches;
  const out: Notch[] = [];
  for (let index = 0; index < most; index++) {
    const from = Math.floor((index * notches.length) / most);
    const to = Math.floor(((index + 1) * notches.length) / most);
    let { weight, card, copies } = notches[from]!;
    for (let at = from + 1; at < to; at++) {
      const next = notches[at]!;
      weight += next.weight;
      card = worse(card, next.card);
      copies = copies.map((shape, row) => worse(shape, next.copies[row] ?? 'open'));
    }
    out.push({ weight, card, copies });
  }
  return out;
}

function drawGrain(context: CanvasRenderingContext2D, width: number, height: number, wood: Wood): void {
  context.strokeStyle = wood.grain;
  context.lineWidth = 0.7;
  for (let line = 0; line < height / 5; line++) {
    const y = 2 + line * 5 + ((line * 37) % 3);
    context.beginPath();
    context.moveTo(0, y);
    for (let x = 0; x <= width; x += 60) context.lineTo(x, y + Math.sin(x / 90 + line * 1.7) * 1.1);
    context.stroke();
  }
}

/** A notch is cut from the stick's edge on the outer rows, and from the row's own line within. */
function drawNotch(
  c: CanvasRenderingContext2D,
  shape: NotchShape,
  x: number,
  w: number,
  row: number,
  rowHeight: number,
  rows: number,
  wood: Wood,
): void {
  const top = row * rowHeight;
  const isCard = row === 0;
  const depth = rowHeight * 0.62;
  const from = isCard ? 0 : top + rowHeight * (row === rows - 1 ? 1 : 0.86);
  const to = isCard ? depth : from - depth;
  const gap = Math.min(1.5, w * 0.22);
  const mid = x + w / 2;
  const half = Math.max(0.45, Math.min(w / 2 - gap / 2, 9));
  const wedge = (size: number) => {
    c.beginPath();
    c.moveTo(mid - half, from);
    c.lineTo(mid + half, from);
    c.lineTo(mid + half * 0.45, from + (to - from) * size);
    c.lineTo(mid - half * 0.45, from + (to - from) * size);
    c.closePath();
  };
  c.fillStyle = wood.cut;
  c.strokeStyle = wood.cut;
  c.lineWidth = 1;
  if (shape === 'cut') {
    wedge(1);
    c.fill();
  } else if (shape === 'half') {
    wedge(0.5);
    c.fill();
  } else if (shape === 'crossed') {
    c.lineWidth = 1.6;
    c.strokeStyle = '#8e1f0d';
    c.beginPath();
    c.moveTo(mid - half, from);
    c.lineTo(mid + half, to);
    c.moveTo(mid + half, from);
    c.lineTo(mid - half, to);
    c.stroke();
  } else if (shape === 'ring' && isCard) {
    c.beginPath();
    c.arc(mid, (from + to) / 2, Math.min(half, depth / 2.6), 0, Math.PI * 2);
    c.stroke();
  } else if (shape === 'double') {
    c.beginPath();
    for (const dx of [-0.4, 0.4]) {
      c.moveTo(mid + half * dx, from);
      c.lineTo(mid + half * dx, to);
    }
    c.stroke();
  } else if (shape === 'open' && w > 3) {
    c.globalAlpha = 0.35;
    wedge(1);
    c.stroke();
    c.globalAlpha = 1;
  }
}

/** What the stick shows, in words. */
export function sayStick(notches: readonly Notch[], counts?: readonly number[], behind: readonly string[] = []): string {
  const said = new Map<string, number>();
  notches.forEach((notch, index) => {
    const words = wordsOf(notch);
    said.set(words, (said.get(words) ?? 0) + (counts?.[index] ?? 1));
  });
  if (!said.size) return 'A stick without notches: no items yet.';
  const lags = behind.length ? ` ${behind.join(' and ')} ${behind.length === 1 ? 'lags' : 'lag'} behind in credit.` : '';
  return `Stick: ${[...said].map(([words, n]) => `${n} ${words}`).join(', ')}.${lags}`;
}

function wordsOf(notch: Notch): string {
  if (notch.card === 'ring') return 'left on the card';
  if (notch.card === 'double') return 'already filed';
  if (notch.card === 'crossed' || notch.copies.includes('crossed')) return 'with trouble';
  const held = notch.copies.filter((shape) => shape !== 'none');
  const cut = held.filter((shape) => shape === 'cut').length;
  if (cut === held.length) return 'tallied in every place';
  return cut ? `tallied in ${cut} of ${held.length} places` : 'not filed yet';
}

const SHAPE_WORDS: Readonly<Record<NotchShape, string>> = {
  cut: 'tally',
  half: 'being copied',
  open: 'not yet',
  crossed: 'with trouble',
  ring: 'left on the card',
  double: 'already filed',
  none: 'not held there',
};

/** The stick in numbers, row by row: the card, then every place. `43 tally, 1 not yet`. */
export function stickFigures(notches: readonly Notch[], places: readonly string[]): readonly { name: string; says: string }[] {
  const row = (name: string, shapeOf: (notch: Notch) => NotchShape | undefined, words: Readonly<Record<NotchShape, string>>) => {
    const counts = new Map<NotchShape, number>();
    for (const notch of notches) {
      const shape = shapeOf(notch);
      if (shape) counts.set(shape, (counts.get(shape) ?? 0) + 1);
    }
    const says = [...counts].map(([shape, n]) => `${n.toLocaleString()} ${words[shape]}`).join(', ');
    return { name, says: says || 'nothing' };
  };
  return [
    row('Card', (notch) => notch.card, { ...SHAPE_WORDS, cut: 'taken', open: 'taken' }),
    // Left on the card or already filed: no place waits for it.
    ...places.map((name, index) =>
      row(name, ({ card, copies }) => (card === 'ring' || card === 'double' ? undefined : copies[index]), SHAPE_WORDS),
    ),
  ];
}
