import { type ImportAnswer, WordSaid, type WordView } from '@tally/contract';
import { foldText, type SkosWord, triplesToWords, type Triple, wordsToTriples, wordText } from '@tally/core/words';
import { DataFactory, Parser, Writer, type Quad_Object } from 'n3';
import { type Db, inTransaction } from '../../db/database.js';
import { type House, record, tell } from '../../house/index.js';
import { everyWord, insertWords, updateWord, wordById, wordsByIri, wordsNamed, writeBroader } from '../store/words.js';
import type { Known } from '../store/sheets.js';

/** A line of a sheet of words. */
export interface WordLine {
  readonly labels: WordSaid['labels'];
  /** Names of words that mean more; null: the sheet does not say. */
  readonly broader: readonly string[] | null;
  readonly note: string | null;
}

const COLUMNS = ['word', 'broader', 'synonyms', 'languages', 'note'] as const;
/** What stands in a cell between bars. */
export const parts = (cell: string): string[] =>
  cell
    .split('|')
    .map((part) => part.trim())
    .filter(Boolean);

/** Words as a sheet: synonyms and broader words parted by |, names in other languages as `pt: caniço | fr: roseau`. */
export async function wordSheet({ db }: Pick<House, 'db'>) {
  const known: Known[] = [];
  for await (const word of everyWord(db)) {
    const text = wordText(word);
    // Names in a language, the one it goes by too where that has one.
    const synonyms = word.labels.filter(({ preferred, language }) => !preferred && language === '');
    const others = word.labels.filter(({ language }) => language !== '');
    known.push({
      id: word.id,
      cells: {
        word: text,
        broader: word.broader.map((one) => one.text).join(' | '),
        synonyms: synonyms.map((label) => label.text).join(' | '),
        languages: others.map((label) => `${label.language}: ${label.text}`).join(' | '),
        note: word.note,
      },
    });
  }
  return {
    key: 'word',
    columns: COLUMNS as readonly string[],
    fold: foldText,
    known,
    read: (cells: Readonly<Record<string, string>>): WordLine | string[] => {
      const others = inLanguages(cells['languages'] ?? '');
      const isAmongThem = others.some(({ text, preferred }) => preferred && text === cells['word']);
      const labels = [
        ...(isAmongThem ? [] : [{ language: '', text: cells['word']!, preferred: true }]),
        ...parts(cells['synonyms'] ?? '').map((text) => ({ language: '', text, preferred: false })),
        ...others,
      ];
      const parsed = WordSaid.safeParse({ labels, note: cells['note'] ?? '' });
      if (!parsed.success) return parsed.error.issues.map(({ path, message }) => `${path.join(' ')} ${message}`);
      return {
        labels: parsed.data.labels,
        broader: 'broader' in cells ? parts(cells['broader']) : null,
        note: cells['note'] ?? null,
      };
    },
  };
}

/** `pt: caniço | pt: junco`: the first in a language is the name it goes by there. */
function inLanguages(cell: string): WordSaid['labels'] {
  const seen = new Set<string>();
  return parts(cell).map((part) => {
    const [, language, text] = /^([a-z-]{2,12})\s*:\s*(.+)$/i.exec(part) ?? [null, 'xx-', part];
    const preferred = !seen.has(language);
    seen.add(language);
    return { language: language, text: text, preferred };
  });
}

const iriOf = (word: { id: number; iri: string | null }) => word.iri ?? `urn:x-tally-stick:word:${word.id}`;

/** The word list as Turtle (W3C, RDF 1.1 Turtle), in SKOS. */
export async function exportSkos(house: House): Promise<string> {
  const words = [];
  for await (const word of everyWord(house.db)) words.push(word);
  const iris = new Map(words.map((word) => [word.id, iriOf(word)]));
  const skos = words.map((word): SkosWord => ({
    iri: iriOf(word),
    labels: word.labels,
    broader: word.broader.flatMap(({ id }) => iris.get(id) ?? []),
    note: word.note,
  }));
  const writer = new Writer({ prefixes: { skos: 'http://www.w3.org/2004/02/skos/core#' } });
  const { namedNode, literal, quad } = DataFactory;
  for (const { subject, predicate, object } of wordsToTriples(skos, {
    iri: 'urn:x-tally-stick:words',
    title: house.settings.house,
  })) {
    const value =
      'iri' in object ? namedNode(object.iri) : object.language ? literal(object.text, object.language) : literal(object.text);
    writer.addQuad(quad(namedNode(subject), namedNode(predicate), value));
  }
  return new Promise((resolve, reject) => {
    writer.end((error: Error | null, text: string) => {
      if (error) reject(error);
      else resolve(text);
    });
  });
}

/** Reads Turtle. @returns words for what is wrong with it instead. */
export function readTurtle(text: string): Triple[] | { line: number; what: string } {
  try {
    return new Parser({ format: 'text/turtle' }).parse(text).map(({ subject, predicate, object }) => ({
      ...{ subject: subject.value, predicate: predicate.value },
      object: termOf(object),
    }));
  } catch (error) {
    const { message, context } = error as Error & { context?: { line?: number } };
    return { line: context?.line ?? 1, what: message.slice(0, 300) };
  }
}

const termOf = (object: Quad_Object): Triple['object'] =>
  object.termType === 'Literal' ? { text: object.value, language: object.language } : { iri: object.value };

/** Takes a word list in, whole or not at all; words that are known by their address or their name are corrected. */
export async function importSkos(house: House, text: string, apply: boolean, who: string): Promise<ImportAnswer> {
  const triples = readTurtle(text);
  const nothing = { read: 'Turtle, SKOS', added: 0, changed: 0, same: 0, lines: [], applied: false };
  if (!Array.isArray(triples)) return { ...nothing, faults: [triples] };
  const { words, faults } = triplesToWords(triples);
  const wrong = faults.map(({ where, what }) => ({ line: 0, what: `${where} ${what}` }));
  if (!words.length) wrong.push({ line: 0, what: 'There is no word (skos:Concept) in it.' });
  const said = words.map((word) => ({
    word,
    parsed: WordSaid.safeParse({ labels: word.labels, note: word.note.slice(0, 500) }),
  }));
  for (const { word, parsed } of said)
    if (!parsed.success)
      wrong.push(
        ...parsed.error.issues.map(({ path, message }) => ({ line: 0, what: `${word.iri} ${path.join(' ')} ${message}` })),
      );
  return inTransaction(house.db, async (tx) => {
    const known = await knownWords(tx, words);
    const lines: ImportAnswer['lines'] = [];
    const same = new Set<string>();
    for (const { word, parsed } of said) {
      const id = known.get(word.iri);
      const before = id === undefined ? null : await wordById(tx, id);
      const broader = word.broader.map((iri) => known.get(iri));
      const isSame = before !== null && parsed.success && isAsSaid(before, { ...parsed.data, broader });
      if (isSame) same.add(word.iri);
      const does = before ? (isSame ? ('nothing' as const) : ('change' as const)) : ('add' as const);
      lines.push({ line: 0, key: wordText(word) || word.iri, does, words: word.iri });
    }
    const applied = apply && wrong.length === 0;
    if (applied) await takeIn(tx, words, known, same);
    const count = (what: string) => lines.filter(({ does }) => does === what).length;
    if (applied) {
      const summary = `Word list taken in: ${count('add')} new, ${count('change')} corrected.`;
      await record(tx, { at: house.clock(), kind: 'words', intakeId: null, who, text: summary });
      await tell(tx, { type: 'people' });
    }
    return {
      ...{ read: 'Turtle, SKOS', added: count('add'), changed: count('change'), same: count('nothing'), applied },
      lines: lines.filter(({ does }) => does !== 'nothing').slice(0, 500),
      faults: wrong.slice(0, 200),
    };
  });
}

/** @param said under which words it stands; undefined: one that is new. */
const isAsSaid = (
  before: WordView,
  said: Pick<WordSaid, 'labels' | 'note'> & { readonly broader: readonly (number | undefined)[] },
): boolean => {
  const keys = (labels: WordSaid['labels']) =>
    labels
      .map(({ text, language, preferred }) => `${language} ${text} ${preferred}`)
      .sort()
      .join('\n');
  const above = new Set(before.broader.map(({ id }) => id));
  const stands = new Set(said.broader);
  const isAbove = above.size === stands.size && said.broader.every((id) => id !== undefined && above.has(id));
  return before.listed && isAbove && before.note === said.note && keys(before.labels) === keys(said.labels);
};

async function knownWords(tx: Db, words: readonly SkosWord[]): Promise<Map<string, number>> {
  const own = new Map(
    words.flatMap(({ iri }) => {
      const id = /^urn:x-tally-stick:word:(\d{1,9})$/.exec(iri)?.[1];
      return id ? [[iri, Number(id)] as const] : [];
    }),
  );
  const known = await wordsByIri(
    tx,
    words.map(({ iri }) => iri),
  );
  for (const [iri, id] of own) if (await wordById(tx, id)) known.set(iri, id);
  const names = await wordsNamed(
    tx,
    words.map((word) => wordText(word)),
  );
  const used = new Set(known.values());
  for (const word of words) {
    const id = names.get(foldText(wordText(word)));
    if (!known.has(word.iri) && id !== undefined && !used.has(id)) known.set(word.iri, id);
  }
  return known;
}

/** First every word, then what stands under what. @param same those that are as they are said already. */
async function takeIn(tx: Db, words: readonly SkosWord[], known: Map<string, number>, same: ReadonlySet<string>): Promise<void> {
  const said = (word: SkosWord) => ({ labels: [...word.labels], listed: true, note: word.note.slice(0, 500) });
  const fresh = words.filter(({ iri }) => !known.has(iri));
  const isFresh = new Set(fresh.map(({ iri }) => iri));
  const ids = await insertWords(
    tx,
    fresh.map((word) => ({ ...said(word), broader: [], iri: word.iri.startsWith('urn:x-tally-stick:') ? null : word.iri })),
  );
  fresh.forEach(({ iri }, at) => known.set(iri, ids[at]!));
  const above = (word: SkosWord) => word.broader.map((iri) => known.get(iri)!);
  await writeBroader(
    tx,
    fresh.flatMap((word) => above(word).map((broaderId) => ({ wordId: known.get(word.iri)!, broaderId }))),
  );
  for (const word of words.filter(({ iri }) => !same.has(iri) && !isFresh.has(iri)))
    await updateWord(tx, known.get(word.iri)!, { ...said(word), broader: above(word) });
}
