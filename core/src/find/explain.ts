import type { Kind } from '../card/index.js';
import type { FoundState, Names, Piece, Question } from './question.js';
import { spanInWords } from './spans.js';

const KINDS_SAID: Readonly<Record<Kind, string>> = {
  ...{ photo: 'photos', raw: 'raw pictures', video: 'clips', sound: 'sounds', sidecar: 'sidecars', other: 'other files' },
};

const STATES_SAID: Readonly<Record<FoundState, readonly [is: string, isNot: string]>> = {
  select: ['chosen as select', 'not select'],
  reshoot: ['to be shot again', 'not to be shot again'],
  hold: ['on hold', 'not on hold'],
  described: ['described', 'not described'],
  'with sound': ['with sound', 'without sound'],
  'not proven twice': ['not proven twice', 'proven twice'],
  'without credit': ['without credit', 'with credit'],
  'without words': ['without words', 'with words'],
  'somebody in it': ['with somebody in it', 'with nobody in it'],
  'not to be shown': ['not to be shown', 'that may be shown'],
  'ask first': ['to be asked for first', 'that need not be asked for'],
  'filed late': ['filed late', 'filed in time'],
};

/** Names as people know them; what is no more is called as it was asked for. */
function said(piece: Piece, names: Names): string {
  switch (piece.is) {
    case 'word':
      return `“${piece.text}…”`;
    case 'exact':
      return `exactly “${piece.text}”`;
    case 'taken':
      return `from ${spanInWords(piece)}`;
    case 'filed':
      return `filed ${spanInWords(piece)}`;
    case 'by':
      return `by ${names.contributors.find(({ code }) => code === piece.code)?.name ?? piece.code}`;
    case 'for':
      return `for ${names.assignments.find(({ slug }) => slug === piece.slug)?.title ?? piece.slug}`;
    case 'kind':
      return KINDS_SAID[piece.kind];
    case 'state':
      return STATES_SAID[piece.state][piece.not ? 1 : 0];
    case 'camera':
      return `with ${piece.name}`;
    case 'folder':
      return `in ${piece.path}`;
    case 'at':
      return `at ${piece.name}`;
    case 'shows':
      return `showing ${piece.name}`;
    case 'terms':
      return `under “${piece.name}”`;
    case 'intake':
      return `of intake ${piece.number}`;
    case 'bundle':
      return `in bundle “${names.bundles.find(({ id }) => id === piece.id)?.name ?? piece.id}”`;
  }
}

/** One piece in words, as it stands in the sentence. */
export function pieceInWords(piece: Piece, names: Names): string {
  const words = said(piece, names);
  return piece.not && piece.is !== 'state' ? `not ${words}` : words;
}

/** A question in one plain sentence, without its end: *Everything by Priya Lind, “heron…”, from spring 2025*. */
export function explainQuestion(question: Question, names: Names): string {
  const kinds = question.filter((piece) => piece.is === 'kind' && !piece.not);
  const begin = kinds.length === 1 ? said(kinds[0]!, names) : 'everything';
  const rest = question.filter((piece) => kinds.length !== 1 || piece !== kinds[0]);
  const words = rest.map((piece) => pieceInWords(piece, names)).join(', ');
  return `${begin.charAt(0).toUpperCase()}${begin.slice(1)}${words ? ` ${words}` : ' that is filed'}`;
}
