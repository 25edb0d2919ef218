/** Somebody whose name is not for everybody, and the code that stands for it. */
export interface Withheld {
  readonly code: string;
  readonly name: string;
  readonly given: string;
  readonly family: string;
}

const WORD = /[\p{L}\p{M}\p{N}]+/gu;
/** Between the words of one name: `Ines Barrow`, `Barrow, Ines`, `ines-barrow`; not the end of a sentence's line. */
const JOINT = /^[\s,._·-]{1,3}$/u;

interface Sought {
  readonly words: readonly string[];
  readonly code: string;
}

/** A name of one word may be a word of the language, too: there only the very same letters are meant. */
const folded = (words: readonly string[]) => (words.length > 1 ? words.map((word) => word.toLowerCase()) : words);
const wordsOf = (text: string) => folded(text.normalize('NFC').match(WORD) ?? []);

/**
 * Writes codes where names of these people stand: in sentences, credit lines, names of files and folders. Words are
 * compared as a whole and however they are cased. Each text is gone through once, however many people there are.
 */
export function withholding(people: readonly Withheld[]): (text: string) => string {
  const byFirst = new Map<string, Sought[]>();
  for (const { code, name, given, family } of people) {
    const ways = [name, ...(given && family ? [`${given} ${family}`, `${family} ${given}`] : [])];
    for (const words of ways.map(wordsOf)) {
      const first = words[0];
      if (first !== undefined) byFirst.set(first, [...(byFirst.get(first) ?? []), { words, code }]);
    }
  }
  // The longest first: of two people one of whose names begins like the other's.
  for (const sought of byFirst.values()) sought.sort((a, b) => b.words.length - a.words.length);
  if (!byFirst.size) return (text) => text;
  return (text) => {
    const plain = text.normalize('NFC');
    const words = [...plain.matchAll(WORD)];
    let [out, from] = ['', 0];
    for (let at = 0; at < words.length; at++) {
      const found = soughtAt(byFirst, plain, words, at);
      if (!found) continue;
      const last = words[at + found.words.length - 1]!;
      out += plain.slice(from, words[at]!.index) + found.code;
      from = last.index + last[0].length;
      at += found.words.length - 1;
    }
    return from === 0 ? text : out + plain.slice(from);
  };
}

function soughtAt(
  byFirst: ReadonlyMap<string, readonly Sought[]>,
  text: string,
  found: readonly RegExpExecArray[],
  at: number,
): Sought | undefined {
  const word = found[at]![0];
  const sought = [...(byFirst.get(word.toLowerCase()) ?? []), ...(byFirst.get(word) ?? [])];
  return sought.find(({ words }) =>
    words.every((one, n) => {
      const there = found[at + n];
      if (!there || (words.length > 1 ? there[0].toLowerCase() : there[0]) !== one) return false;
      const before = n ? found[at + n - 1]! : null;
      return !before || JOINT.test(text.slice(before.index + before[0].length, there.index));
    }),
  );
}
