import { distance } from 'fastest-levenshtein';
import { FIELDS, fieldNamed, type FieldName } from './fields.js';
import { checkFormat } from './formats.js';

/** A span of the source text: 0-based, in UTF-16 units, end exclusive. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

export type Piece =
  | { readonly type: 'text'; readonly text: string; readonly span: Span }
  | { readonly type: 'field'; readonly name: FieldName; readonly format: string | null; readonly span: Span }
  | { readonly type: 'optional'; readonly pieces: readonly Piece[]; readonly span: Span };

export interface RuleError {
  readonly message: string;
  readonly span: Span;
  /** What was probably meant. */
  readonly meant?: string;
}

export type ParsedLine =
  { readonly ok: true; readonly pieces: readonly Piece[] } | { readonly ok: false; readonly error: RuleError };

/**
 * Parses a line of a house rule: text and fields in braces, `{name}` or `{name:format}`; square brackets hold an
 * optional part that vanishes when a field in it is empty; a doubled brace or bracket stands for itself. (A literal
 * bracket right outside an optional part cannot be written: it would belong to the part.)
 */
export function parseLine(source: string): ParsedLine {
  const cursor = { at: 0 };
  try {
    return { ok: true, pieces: parsePieces(source, cursor, null) };
  } catch (error) {
    if (error instanceof LineError) return { ok: false, error: error.detail };
    throw error;
  }
}

/** Of an odd number of opening brackets the first one opens: `[[[{card.label}]]]` is an optional `[C-014]`. */
function opensOptional(source: string, at: number, openBracket: number | null): boolean {
  if (source[at] !== '[' || openBracket !== null) return false;
  return (/^\[+/.exec(source.slice(at))?.[0].length ?? 0) % 2 === 1;
}

class LineError extends Error {
  constructor(readonly detail: RuleError) {
    super(detail.message);
  }
}

function fail(message: string, from: number, to: number, meant?: string): never {
  throw new LineError({ message, span: { from, to }, ...(meant ? { meant } : {}) });
}

function parsePieces(source: string, cursor: { at: number }, openBracket: number | null): Piece[] {
  const pieces: Piece[] = [];
  let text = '';
  let textFrom = cursor.at;
  const endText = () => {
    if (text) pieces.push({ type: 'text', text, span: { from: textFrom, to: cursor.at } });
    text = '';
  };
  while (cursor.at < source.length) {
    const char = source[cursor.at]!;
    if ('{}[]'.includes(char) && source[cursor.at + 1] === char && !opensOptional(source, cursor.at, openBracket)) {
      if (!text) textFrom = cursor.at;
      text += char;
      cursor.at += 2;
    } else if (char === '{') {
      endText();
      pieces.push(parseField(source, cursor));
    } else if (char === '[') {
      endText();
      const from = cursor.at++;
      if (openBracket !== null) fail('An optional part cannot stand inside another one.', from, from + 1);
      const inner = parsePieces(source, cursor, from);
      pieces.push({ type: 'optional', pieces: inner, span: { from, to: cursor.at } });
    } else if (char === ']') {
      if (openBracket === null)
        fail('This bracket closes nothing. Double it (]]) to mean the bracket itself.', cursor.at, cursor.at + 1);
      endText();
      cursor.at++;
      return pieces;
    } else if (char === '}') {
      fail('This brace closes nothing. Double it (}}) to mean the brace itself.', cursor.at, cursor.at + 1);
    } else {
      if (!text) textFrom = cursor.at;
      text += char;
      cursor.at++;
    }
  }
  if (openBracket !== null) fail('This optional part is never closed: a ] is missing.', openBracket, source.length);
  endText();
  return pieces;
}

function parseField(source: string, cursor: { at: number }): Piece {
  const from = cursor.at;
  const close = source.indexOf('}', from);
  if (close < 0) fail('This field is never closed: a } is missing.', from, source.length);
  const inside = source.slice(from + 1, close);
  const colon = inside.indexOf(':');
  const name = (colon < 0 ? inside : inside.slice(0, colon)).trim();
  const format = colon < 0 ? null : inside.slice(colon + 1).trim();
  cursor.at = close + 1;
  const span = { from, to: cursor.at };
  const field = fieldNamed(name);
  if (!field) {
    const meant = nearestField(name);
    fail(`There is no field called "${name}".${meant ? ` Was "${meant}" meant?` : ''}`, from + 1, from + 1 + name.length, meant);
  }
  const wrong = format === null ? null : checkFormat(field.type, format);
  if (wrong) fail(wrong, from + 1 + colon + 1, close);
  return { type: 'field', name: field.name, format, span };
}

function nearestField(name: string): string | undefined {
  const ranked = FIELDS.map((field) => ({ name: field.name, far: distance(field.name, name.toLowerCase()) }));
  const best = ranked.sort((a, b) => a.far - b.far)[0];
  return best && best.far <= Math.max(2, name.length / 2) ? best.name : undefined;
}

/** The source text of pieces: `parseLine(writeLine(pieces))` gives the same pieces again. */
export function writeLine(pieces: readonly Piece[]): string {
  return pieces
    .map((piece) => {
      if (piece.type === 'text') return piece.text.replace(/[{}[\]]/g, '$&$&');
      if (piece.type === 'optional') return `[${writeLine(piece.pieces)}]`;
      return `{${piece.name}${piece.format === null ? '' : `:${piece.format}`}}`;
    })
    .join('');
}

/** Every field of a line, those in optional parts too. */
export function fieldsOf(pieces: readonly Piece[]): { name: FieldName; optional: boolean }[] {
  return pieces.flatMap((piece): { name: FieldName; optional: boolean }[] => {
    if (piece.type === 'field') return [{ name: piece.name, optional: false }];
    if (piece.type === 'optional') return fieldsOf(piece.pieces).map((field) => ({ ...field, optional: true }));
    return [];
  });
}
