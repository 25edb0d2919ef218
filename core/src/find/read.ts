import { KINDS, type Kind } from '../card/index.js';
import { foldText } from '../words/index.js';
import { LONGEST_QUESTION, MOST_PIECES, type Names, NO_NAMES, type Piece, type Question, STATES } from './question.js';
import { spanTyped, spanWritten } from './spans.js';

/** What is typed between spaces: a word, or what stands in quotation marks, perhaps behind a key and a minus. */
interface Token {
  readonly not: boolean;
  readonly key: string | null;
  readonly text: string;
  readonly quoted: boolean;
}

const KEY = /^([a-z]+):(?=\S)/;

/** Quotation marks that word processors and phones put in are ordinary ones; control characters part words. */
const plain = (typed: string) => typed.replace(/[“”„«»]/g, '"').replace(/[\p{Cc}\p{Zs}\p{Zl}\p{Zp}]+/gu, ' ');

/** Parts a typed text. A quotation that nobody closed goes to the end. */
function tokensOf(typed: string): Token[] {
  const tokens: Token[] = [];
  let rest = plain(typed).trimStart();
  while (rest) {
    const not = rest.length > 1 && rest.startsWith('-') && rest[1] !== ' ';
    if (not) rest = rest.slice(1);
    const key = KEY.exec(rest)?.[1] ?? null;
    if (key !== null) rest = rest.slice(key.length + 1);
    const quoted = rest.startsWith('"');
    let text: string;
    if (quoted) {
      const end = closingMark(rest);
      text = rest.slice(1, end).replaceAll('""', '"');
      rest = rest.slice(end + 1);
    } else {
      const end = /[ "]/.exec(rest)?.index ?? rest.length;
      text = rest.slice(0, end);
      rest = rest.slice(end);
    }
    rest = rest.trimStart();
    if (text.trim() || key !== null) tokens.push({ not, key, text, quoted });
  }
  return tokens;
}

/** Where a quotation ends: at a mark that is not doubled. */
function closingMark(text: string): number {
  for (let at = 1; at < text.length; at++) {
    if (text[at] !== '"') continue;
    if (text[at + 1] !== '"') return at;
    at++;
  }
  return text.length;
}

const isOneOf = <T extends string>(list: readonly T[], text: string): text is T => (list as readonly string[]).includes(text);

/** A piece that is said with its key; null when there is no such key, or it cannot be that. */
function keyed(key: string, text: string): Piece | null {
  switch (key) {
    case 'word': {
      const word = text.replace(/["\s]+/g, '');
      return word ? { is: 'word', text: word } : null;
    }
    case 'taken':
    case 'filed': {
      const span = spanWritten(text);
      return span && { is: key, ...span };
    }
    case 'by':
      return text ? { is: 'by', code: text } : null;
    case 'for':
      return text ? { is: 'for', slug: text } : null;
    case 'kind':
      return isOneOf(KINDS, text) ? { is: 'kind', kind: text } : null;
    case 'is':
      return isOneOf(STATES, text) ? { is: 'state', state: text } : null;
    case 'camera':
    case 'at':
    case 'shows':
    case 'terms':
      return text ? { is: key, name: text } : null;
    case 'in':
      return text.replace(/^\/+|\/+$/g, '') ? { is: 'folder', path: text.replace(/^\/+|\/+$/g, '') } : null;
    case 'intake':
      return text ? { is: 'intake', number: text } : null;
    case 'bundle':
      return /^[1-9]\d{0,8}$/.test(text) ? { is: 'bundle', id: Number(text) } : null;
    default:
      return null;
  }
}

/** Words that mean a kind of file. */
const KIND_WORDS: Readonly<Record<string, Kind>> = {
  ...{ raw: 'raw', raws: 'raw', photo: 'photo', photos: 'photo', picture: 'photo', pictures: 'photo', jpeg: 'photo' },
  ...{ video: 'video', videos: 'video', clip: 'video', clips: 'video', footage: 'video' },
  ...{ sound: 'sound', sounds: 'sound', recording: 'sound', recordings: 'sound' },
};

/** Other ways to say what is asked for. */
const STATE_WORDS: Readonly<Record<string, (typeof STATES)[number]>> = {
  ...{
    selects: 'select',
    selected: 'select',
    reshoots: 'reshoot',
    'not credited': 'without credit',
    'no credit': 'without credit',
  },
  ...{ 'no words': 'without words', late: 'filed late', 'with people': 'somebody in it' },
};

/** How many words beside each other are looked at together. */
const LONGEST_PHRASE = 6;

/** Finds what words that stand together mean, besides themselves. */
class Meanings {
  private readonly contributors = new Map<string, string>();
  private readonly assignments = new Map<string, string>();
  private readonly bundles = new Map<string, number>();

  constructor(
    names: Names,
    readonly today: string,
  ) {
    // The first of two that are called the same is meant; both are found by their words.
    for (const { code, name } of names.contributors.toReversed())
      for (const said of [name, code]) this.contributors.set(foldText(said), code);
    for (const { slug, title } of names.assignments.toReversed())
      for (const said of [title, slug]) this.assignments.set(foldText(said), slug);
    for (const { id, name } of names.bundles.toReversed()) this.bundles.set(foldText(name), id);
  }

  /** @param phrase words as typed, parted by single spaces. */
  of(phrase: string): Piece | null {
    const said = foldText(phrase);
    const lead = /^(taken by|shot by|by|taken for|shot for|for|in bundle|bundle) (.+)$/.exec(said);
    if (lead) return this.named(lead[1]!, lead[2]!);
    if (/^\d{4}-\d{4,}$/.test(said)) return { is: 'intake', number: said };
    const span = spanTyped(said.replaceAll(',', ''), this.today);
    if (span) return { is: 'taken', ...span };
    if (said === 'not described') return { is: 'state', state: 'described', not: true };
    if (isOneOf(STATES, said)) return { is: 'state', state: said };
    if (Object.hasOwn(STATE_WORDS, said)) return { is: 'state', state: STATE_WORDS[said]! };
    if (Object.hasOwn(KIND_WORDS, said)) return { is: 'kind', kind: KIND_WORDS[said]! };
    // A full name means the person; one word of it may mean anything.
    const code = said.includes(' ') || /^\p{Lu}{2,4}$/u.test(phrase) ? this.contributors.get(said) : undefined;
    return code === undefined ? null : { is: 'by', code };
  }

  private named(lead: string, name: string): Piece | null {
    if (lead.endsWith('bundle')) {
      const id = this.bundles.get(name);
      return id === undefined ? null : { is: 'bundle', id };
    }
    if (lead.endsWith('by')) {
      const code = this.contributors.get(name);
      return code === undefined ? null : { is: 'by', code };
    }
    const slug = this.assignments.get(name);
    return slug === undefined ? null : { is: 'for', slug };
  }
}

/** What names mean is worked out once for the same names and day: thousands of them are folded. */
const known = new WeakMap<Names, Meanings>();

function meaningsOf(names: Names, today: string): Meanings {
  const before = known.get(names);
  if (before?.today === today) return before;
  const meanings = new Meanings(names, today);
  known.set(names, meanings);
  return meanings;
}

/** Why a text is no question, in words; null when it is one. */
export function faultOfQuestion(typed: string): string | null {
  if (typed.length > LONGEST_QUESTION) return `A question of more than ${LONGEST_QUESTION} characters is too long.`;
  return tokensOf(typed).length > MOST_PIECES ? `A question of more than ${MOST_PIECES} words is too long.` : null;
}

/**
 * Reads what somebody typed, or what `printQuestion` printed. Nothing that is typed is wrong: what means nothing else is a
 * word to be looked for. @param today `yyyy-MM-dd`, for *last week*.
 */
export function readQuestion(typed: string, names: Names = NO_NAMES, today = '2000-01-01'): Question {
  const tokens = tokensOf(typed.slice(0, LONGEST_QUESTION)).slice(0, MOST_PIECES);
  const meanings = meaningsOf(names, today);
  const pieces: Piece[] = [];
  for (let at = 0; at < tokens.length; at++) {
    const { piece, used } = pieceAt(tokens, at, meanings);
    at += used - 1;
    if (piece && !pieces.some((other) => JSON.stringify(other) === JSON.stringify(piece))) pieces.push(piece);
  }
  return pieces;
}

function pieceAt(tokens: readonly Token[], at: number, meanings: Meanings): { piece: Piece | null; used: number } {
  const token = tokens[at]!;
  const turn = (piece: Piece | null, used = 1) => ({ piece: piece && turned(piece, token.not), used });
  if (token.key !== null) {
    const piece = keyed(token.key, token.text);
    if (piece) return turn(piece);
    // No key of ours: the word is looked for as it stands.
    return turn(wordOf(token.quoted ? token.text : `${token.key}:${token.text}`, token.quoted));
  }
  if (token.quoted) return turn(wordOf(token.text, true));
  const free = tokens.slice(at, at + LONGEST_PHRASE);
  const plainWords = free.findIndex((one, index) => one.key !== null || one.quoted || (index > 0 && one.not));
  const words = (plainWords === -1 ? free : free.slice(0, plainWords)).map(({ text }) => text);
  for (let length = words.length; length > 0; length--) {
    const piece = meanings.of(words.slice(0, length).join(' '));
    if (piece) return turn(piece, length);
  }
  return turn(wordOf(token.text, false));
}

/** A piece that leaves out what it asked for; asked for twice with *not* it is what it was. */
function turned(piece: Piece, not: boolean): Piece {
  if (!not) return piece;
  const { not: was, ...rest } = piece;
  return was ? rest : { ...rest, not: true };
}

function wordOf(text: string, exact: boolean): Piece | null {
  const said = text.replaceAll('"', ' ').trim();
  if (!said) return null;
  return exact ? { is: 'exact', text: said } : { is: 'word', text: said.replace(/\s+/g, '') };
}
