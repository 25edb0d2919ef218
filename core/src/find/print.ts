import type { Piece, Question } from './question.js';
import { writtenSpan } from './spans.js';

/** A value behind a key: in quotation marks where it would not end by itself; a mark within is doubled. */
const value = (text: string) => (/^[^\s"]+$/u.test(text) ? text : `"${text.replaceAll('"', '""')}"`);

/** One piece as text; `readPiece` reads it back. */
export function printPiece(piece: Piece): string {
  return (piece.not ? '-' : '') + printed(piece);
}

function printed(piece: Piece): string {
  switch (piece.is) {
    // Said with its key, so that nothing else is ever understood by it.
    case 'word':
      return `word:${value(piece.text)}`;
    case 'exact':
      return `"${piece.text}"`;
    case 'taken':
    case 'filed':
      return `${piece.is}:${writtenSpan(piece)}`;
    case 'by':
      return `by:${value(piece.code)}`;
    case 'for':
      return `for:${value(piece.slug)}`;
    case 'kind':
      return `kind:${piece.kind}`;
    case 'state':
      return `is:${value(piece.state)}`;
    case 'camera':
    case 'at':
    case 'shows':
    case 'terms':
      return `${piece.is}:${value(piece.name)}`;
    case 'folder':
      return `in:${value(piece.path)}`;
    case 'intake':
      return `intake:${value(piece.number)}`;
    case 'bundle':
      return `bundle:${piece.id}`;
  }
}

/** A question as text that means the same wherever it is read: for links, and to be kept. */
export const printQuestion = (question: Question): string => question.map(printPiece).join(' ');
