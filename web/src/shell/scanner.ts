/** Between two characters of a hand scanner lie a few milliseconds; a person's fingers are slower (common practice, no source). */
const MOST_BETWEEN_MS = 40;
const FEWEST_CHARACTERS = 3;

/**
 * Tells a hand scanner, which types like a keyboard and ends with Enter, from a person. Feed it every key; it answers
 * with what was scanned when a scan ends.
 */
export class ScanListener {
  private typed = '';
  private last = -Infinity;

  /** @param at time of the key in milliseconds. @returns what was scanned, or null. */
  key(key: string, at: number): string | null {
    const isQuick = at - this.last <= MOST_BETWEEN_MS;
    this.last = at;
    if (key === 'Enter') {
      const scanned = isQuick && this.typed.length >= FEWEST_CHARACTERS ? this.typed : null;
      this.typed = '';
      return scanned;
    }
    // Shift and the like come between the characters.
    if (key.length !== 1) return null;
    this.typed = isQuick ? this.typed + key : key;
    return null;
  }
}
