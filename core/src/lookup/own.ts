/**
 * What a table says of a word that came from outside; undefined for a word that it does not have. `table[word]` would also
 * find what every object has by itself: a camera that calls itself `constructor` must not get a name from that.
 */
export function own<T>(table: Readonly<Record<string, T>>, word: string): T | undefined {
  return Object.hasOwn(table, word) ? table[word] : undefined;
}
