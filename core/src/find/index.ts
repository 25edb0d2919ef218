/*
 * find: what does a person's question mean, and what answers it?
 * In: what somebody types, the names of the house, everything that is filed with the records it speaks of.
 * Out: questions as pieces, sentences and links; what answers them, counted, in figures, and what looks like it.
 * Standards: ISO 8601 dates; word order and accents as Unicode's canonical decomposition has them; seasons as the WMO counts.
 */
export { alikeTo, type Alike, looksTheSame } from './beside.js';
export { Alikes } from './alike.js';
export {
  bytesOf,
  type FiledMoment,
  filedMonths,
  madeOf,
  type MadeOf,
  type MonthOf,
  monthsOf,
  newerThan,
  newestFiled,
  type Share,
} from './counting.js';
export { explainQuestion, pieceInWords } from './explain.js';
export { type Figure, FIGURES_BY, type FiguresBy, figuresOf } from './figures.js';
export { inOrder, LIST_ORDERS, type ListOrder, pageOf } from './listing.js';
export { answering } from './matching.js';
export { withInner } from './nested.js';
export { printPiece, printQuestion } from './print.js';
export {
  type FoundState,
  LONGEST_QUESTION,
  MOST_PIECES,
  type Names,
  NO_NAMES,
  type Piece,
  type Question,
  type Span,
  STATES,
} from './question.js';
export { faultOfQuestion, readQuestion } from './read.js';
export type { RecordKind, ShelfItem, ShelfRecords } from './records.js';
export { Shelf } from './shelf.js';
export { spanInWords, writtenSpan } from './spans.js';
