import { describe, expect, it } from '@jest/globals';
import { drawStick, gathered, sayStick, stickFigures, type Notch } from './draw';

const cut: Notch = { weight: 1, card: 'cut', copies: ['cut', 'cut'] };
const waiting: Notch = { weight: 1, card: 'cut', copies: ['open', 'open'] };
const half: Notch = { weight: 1, card: 'cut', copies: ['cut', 'open'] };
const left: Notch = { weight: 1, card: 'ring', copies: ['ring', 'ring'] };
const already: Notch = { weight: 1, card: 'double', copies: ['double', 'double'] };
const bad: Notch = { weight: 1, card: 'cut', copies: ['cut', 'crossed'] };

/** A context that writes down what it was told. */
function recorder(): { context: CanvasRenderingContext2D; calls: string[] } {
  const calls: string[] = [];
  const set: Record<string, unknown> = {};
  const told =
    (name: string) =>
    (...parameters: unknown[]) => {
      calls.push(`${name} ${parameters.join(' ')}`);
      return { addColorStop: () => undefined };
    };
  const context = new Proxy(set, { get: (target, name: string) => target[name] ?? told(name) });
  return { context: context as unknown as CanvasRenderingContext2D, calls };
}

describe('the stick in words', () => {
  it('says what each notch says', () => {
    expect(sayStick([cut, cut, waiting, half, left, already, bad])).toBe(
      'Stick: 2 tallied in every place, 1 not filed yet, 1 tallied in 1 of 2 places, 1 left on the card, 1 already filed, 1 with trouble.',
    );
    expect(sayStick([])).toBe('A stick without notches: no items yet.');
  });

  it('a place that need not hold an item does not count', () =>
    expect(sayStick([{ weight: 1, card: 'cut', copies: ['cut', 'none'] }])).toContain('1 tallied in every place'));

  it('never calls something tallied that is not', () => {
    for (const notch of [waiting, half, bad, left]) expect(sayStick([notch])).not.toContain('in every place');
  });
});

describe('the stick in numbers', () => {
  it('counts each row by itself; what was left or filed before is no business of a place', () => {
    expect(stickFigures([cut, cut, half, waiting, left, already, bad], ['Shared drive', 'Second copy'])).toEqual([
      { name: 'Card', says: '5 taken, 1 left on the card, 1 already filed' },
      { name: 'Shared drive', says: '4 tally, 1 not yet' },
      { name: 'Second copy', says: '2 tally, 2 not yet, 1 with trouble' },
    ]);
  });
  it('of no items there is nothing', () =>
    expect(stickFigures([], ['A'])).toEqual([
      { name: 'Card', says: 'nothing' },
      { name: 'A', says: 'nothing' },
    ]));
});

describe('the stick drawn', () => {
  const fills = (notches: readonly Notch[]) => {
    const { context, calls } = recorder();
    drawStick(context, 400, 72, notches, false);
    return calls;
  };

  it('a copy that does not tally leaves its stretch pale; one that does, none', () => {
    const pale = (notches: readonly Notch[]) => fills(notches).filter((call) => call.startsWith('fillRect')).length - 1;
    expect(pale([cut, cut])).toBe(0);
    expect(pale([cut, waiting])).toBe(2);
    expect(pale([cut, half])).toBe(1);
    expect(pale([already])).toBe(0);
  });

  it('each state has a shape of its own', () => {
    const shapes = [cut, waiting, half, left, already, bad].map((notch) => fills([notch]).join('\n'));
    expect(new Set(shapes).size).toBe(shapes.length);
  });

  it('among 100,000 notches one gap and one trouble still show', () => {
    const many = Array.from({ length: 100_000 }, (_, i) => (i === 40_000 ? half : i === 70_000 ? bad : cut));
    const seen = gathered(many, 900);
    expect(seen).toHaveLength(900);
    expect(seen.filter((notch) => notch.copies.includes('open'))).toHaveLength(1);
    expect(seen.filter((notch) => notch.copies.includes('crossed'))).toHaveLength(1);
    expect(seen.reduce((sum, { weight }) => sum + weight, 0)).toBe(100_000);
  });

  it('stays within its length with 100,000 notches', () => {
    const calls = fills(Array.from({ length: 100_000 }, () => cut));
    const numbers = calls.filter((call) => call.startsWith('lineTo')).map((call) => call.split(' ').map(Number));
    expect(numbers.every(([, x]) => x! >= -1 && x! <= 401)).toBe(true);
  });
});
