import { foldText, startsOf } from './fold.js';

/** A name of a word in one language ('' where nobody said which, else BCP 47). */
export interface WordLabel {
  readonly language: string;
  readonly text: string;
  /** The name it goes by in that language; the others are synonyms. */
  readonly preferred: boolean;
}

/** A word of the house: what it is called, and which words mean more than it. */
export interface Word {
  readonly id: number;
  readonly labels: readonly WordLabel[];
  readonly broader: readonly number[];
  /** In the house's list; else a free word that somebody typed. */
  readonly listed: boolean;
  /** When it was used last, ISO 8601; null: never. */
  readonly usedAt: string | null;
  readonly note: string;
}

/** What a word is called in a language: by its preferred name there, else in the language nobody named, else in any. */
export function wordText(word: Pick<Word, 'labels'>, language = ''): string {
  const preferred = word.labels.filter((label) => label.preferred);
  const found = preferred.find((label) => label.language === language) ?? preferred.find((label) => label.language === '');
  return (found ?? preferred[0] ?? word.labels[0])?.text ?? '';
}

export interface Completion {
  readonly id: number;
  /** What the word is called. */
  readonly text: string;
  /** The name that fits what was typed, where that is another one. */
  readonly by: string | null;
}

/**
 * Words any of whose names, in any language, has a word that begins with what was typed: those used lately first, then
 * the list before free words, then by name. A plain scan: what an index answers must be the same.
 */
export function completionsOf(words: readonly Word[], typed: string, limit: number): Completion[] {
  const begins = foldText(typed);
  const found: (Completion & { word: Word })[] = [];
  for (const word of words) {
    const fitting = word.labels.filter(({ text }) => startsOf(text).some((start) => start.startsWith(begins)));
    if (begins !== '' && fitting.length === 0) continue;
    const text = wordText(word);
    const best = fitting.some((label) => label.text === text)
      ? text
      : [...fitting].sort((a, b) => order(foldText(a.text), foldText(b.text)))[0]?.text;
    found.push({ id: word.id, text, by: best === undefined || best === text ? null : best, word });
  }
  found.sort(
    (a, b) =>
      order(b.word.usedAt ?? '', a.word.usedAt ?? '') ||
      Number(b.word.listed) - Number(a.word.listed) ||
      order(foldText(a.text), foldText(b.text)) ||
      a.id - b.id,
  );
  return found.slice(0, limit).map(({ word: _word, ...one }) => one);
}

const order = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

/** What is wrong with a word that is to stand under others; null: nothing. @param broaderOf what every other word stands under. */
export function faultOfBroader(
  id: number,
  broader: readonly number[],
  broaderOf: (id: number) => readonly number[],
): 'broader than itself' | null {
  const seen = new Set<number>();
  const open = [...broader];
  while (open.length) {
    const next = open.pop()!;
    if (next === id) return 'broader than itself';
    if (seen.has(next)) continue;
    seen.add(next);
    open.push(...broaderOf(next));
  }
  return null;
}

/** A word and every word that means less than it. */
export function withNarrower(words: readonly Pick<Word, 'id' | 'broader'>[], id: number): Set<number> {
  const under = new Map<number, number[]>();
  for (const word of words) for (const above of word.broader) under.set(above, [...(under.get(above) ?? []), word.id]);
  const all = new Set<number>();
  const open = [id];
  while (open.length) {
    const next = open.pop()!;
    if (all.has(next)) continue;
    all.add(next);
    open.push(...(under.get(next) ?? []));
  }
  return all;
}
