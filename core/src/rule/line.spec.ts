import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { FIELDS, fieldsOf, parseLine, writeLine, type Piece } from './index.js';

const errorOf = (source: string) => {
  const parsed = parseLine(source);
  if (parsed.ok) throw new Error(`${source} was understood`);
  return parsed.error;
};
const piecesOf = (source: string) => {
  const parsed = parseLine(source);
  if (!parsed.ok) throw new Error(parsed.error.message);
  return parsed.pieces;
};

describe('a line of the house rule', () => {
  it('is text and fields, each with where it stands', () => {
    expect(piecesOf('a_{captured:yyyy}{n}')).toEqual([
      { type: 'text', text: 'a_', span: { from: 0, to: 2 } },
      { type: 'field', name: 'captured', format: 'yyyy', span: { from: 2, to: 17 } },
      { type: 'field', name: 'n', format: null, span: { from: 17, to: 20 } },
    ]);
  });

  it('doubled braces and brackets stand for themselves', () => {
    expect(piecesOf('{{x}} [[y]]')).toEqual([{ type: 'text', text: '{x} [y]', span: { from: 0, to: 11 } }]);
  });

  it('an optional part holds pieces of its own', () => {
    const [part] = piecesOf('[_{card.label}]');
    expect(part).toMatchObject({ type: 'optional', pieces: [{ text: '_' }, { name: 'card.label' }] });
    expect(fieldsOf([part!])).toEqual([{ name: 'card.label', optional: true }]);
  });
});

describe('errors say what, where, and what was meant', () => {
  it('a field that does not exist', () => {
    expect(errorOf('x_{capturd:yyyy}')).toEqual({
      message: 'There is no field called "capturd". Was "captured" meant?',
      span: { from: 3, to: 10 },
      meant: 'captured',
    });
    expect(errorOf('{qqqqqqqq}').meant).toBeUndefined();
  });

  it.each([
    ['{n', 'never closed', 0, 2],
    ['a}', 'closes nothing', 1, 2],
    ['a]', 'closes nothing', 1, 2],
    ['x[ab', 'never closed', 1, 4],
    ['[a[b]]', 'inside another', 2, 3],
    ['{n:12}', 'zeros', 3, 5],
    ['{n:}', 'missing', 3, 3],
    ['{contributor.code:loud}', 'not as "loud"', 18, 22],
    ["{captured:'}", 'never closed', 10, 11],
    ['{captured:nn}', 'not part of a date pattern', 10, 12],
  ])('%s', (source, words, from, to) => {
    const error = errorOf(source);
    expect(error.message).toContain(words);
    expect(error.span).toEqual({ from, to });
  });
});

describe('lines and pieces are pairs', () => {
  const text = fc
    .string({ unit: fc.constantFrom('a', 'Z', '-', '_', '{', '}', '[', ']', 'é', ' '), minLength: 1, maxLength: 6 })
    .map((value): Piece => ({ type: 'text', text: value, span: { from: 0, to: 0 } }));
  const field = fc.constantFrom(...FIELDS).chain((entry) => {
    const formats = {
      date: [null, 'yyyy', 'yyyyMMdd', 'HH-mm'],
      number: [null, '0', '0000'],
      text: [null, 'lower', 'upper,slug'],
    }[entry.type];
    return fc
      .constantFrom(...formats)
      .map((format): Piece => ({ type: 'field', name: entry.name, format, span: { from: 0, to: 0 } }));
  });
  const flat = fc.array(fc.oneof(text, field), { minLength: 1, maxLength: 5 });
  const line = fc.array(
    fc.oneof(
      text,
      field,
      flat.map((pieces): Piece => ({ type: 'optional', pieces, span: { from: 0, to: 0 } })),
    ),
    { maxLength: 6 },
  );
  const bare = (pieces: readonly Piece[]): unknown[] => {
    const out: unknown[] = [];
    for (const { span: _span, ...piece } of pieces) {
      const last = out.at(-1) as { type?: string; text?: string } | undefined;
      if (piece.type === 'text' && last?.type === 'text') last.text! += piece.text;
      else out.push(piece.type === 'optional' ? { ...piece, pieces: bare(piece.pieces) } : { ...piece });
    }
    return out;
  };

  // The one thing that cannot be written: see parseLine.
  const writable = line.filter(
    (pieces) =>
      !pieces.some((piece, i) => {
        const [before, after] = [pieces[i - 1], pieces[i + 1]];
        return (
          piece.type === 'text' &&
          ((piece.text.endsWith('[') && after?.type === 'optional') ||
            (piece.text.startsWith(']') && before?.type === 'optional'))
        );
      }),
  );

  it('three brackets open an optional part that begins with one', () => {
    expect(piecesOf('[[[{card.label}]]]')).toMatchObject([
      { type: 'optional', pieces: [{ text: '[' }, { name: 'card.label' }, { text: ']' }] },
    ]);
  });

  it('what is written is read back', () => {
    fc.assert(fc.property(writable, (pieces) => expect(bare(piecesOf(writeLine(pieces)))).toEqual(bare(pieces))));
  });

  it('any text is either understood or answered with a span inside it', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom('{', '}', '[', ']', ':', 'n', 'a', '0'), maxLength: 12 }), (source) => {
        const parsed = parseLine(source);
        if (parsed.ok) return;
        expect(parsed.error.span.from).toBeGreaterThanOrEqual(0);
        expect(parsed.error.span.to).toBeLessThanOrEqual(source.length);
      }),
    );
  });
});
