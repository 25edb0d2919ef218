import { grown } from './columns.js';

const BANDS = 4;
const VALUES = 1 << 16;

/** In how many bits two 32-bit numbers differ (the population count of Hacker's Delight, 2nd edition, section 5-1). */
function differing(a: number, b: number): number {
  let bits = a ^ b;
  bits -= (bits >>> 1) & 0x55555555;
  bits = (bits & 0x33333333) + ((bits >>> 2) & 0x33333333);
  bits = (bits + (bits >>> 4)) & 0x0f0f0f0f;
  return Math.imul(bits, 0x01010101) >>> 24;
}

/** Every 16-bit number that differs from 0 in at most so many bits. */
function within(bits: number): number[] {
  let found = new Set([0]);
  for (let step = 0; step < bits; step++)
    found = new Set([...found, ...[...found].flatMap((one) => Array.from({ length: 16 }, (_, bit) => one ^ (1 << bit)))]);
  return [...found];
}

/**
 * Difference hashes, found again by how little they differ. A hash is cut into four bands of 16 bits; two that differ in at
 * most d bits differ in at most ⌊d / 4⌋ bits of at least one band, so only hashes that stand under such a value of a band are
 * compared. The method is known as multi-index hashing: M. Norouzi, A. Punjani, D. J. Fleet, "Fast Search in Hamming Space
 * with Multi-Index Hashing", CVPR 2012.
 */
export class Alikes {
  private readonly first = Array.from({ length: BANDS }, () => new Int32Array(VALUES).fill(-1));
  private next = Array.from({ length: BANDS }, () => new Int32Array(0));
  private high = new Uint32Array(0);
  private low = new Uint32Array(0);
  private seen = new Int32Array(0);
  private round = 0;

  /** A slot is added once. @param look 16 hexadecimal digits */
  add(slot: number, look: string): void {
    this.high = grown(this.high, slot + 1);
    this.low = grown(this.low, slot + 1);
    this.seen = grown(this.seen, slot + 1);
    this.next = this.next.map((list) => grown(list, slot + 1));
    this.high[slot] = parseInt(look.slice(0, 8), 16);
    this.low[slot] = parseInt(look.slice(8), 16);
    for (const [band, value] of this.bandsOf(this.high[slot], this.low[slot]).entries()) {
      this.next[band]![slot] = this.first[band]![value]!;
      this.first[band]![value] = slot;
    }
  }

  /** Slots whose hash differs in at most so many bits, with in how many; in no order. @param most 0 to 15 */
  like(look: string, most: number): { slot: number; bits: number }[] {
    const [high, low] = [parseInt(look.slice(0, 8), 16), parseInt(look.slice(8), 16)];
    const found: { slot: number; bits: number }[] = [];
    const near = within(Math.floor(most / BANDS));
    this.round++;
    for (const [band, value] of this.bandsOf(high, low).entries()) {
      const [first, next] = [this.first[band]!, this.next[band]!];
      for (const change of near) {
        for (let slot = first[value ^ change]!; slot !== -1; slot = next[slot]!) {
          if (this.seen[slot] === this.round) continue;
          this.seen[slot] = this.round;
          const bits = differing(this.high[slot]!, high) + differing(this.low[slot]!, low);
          if (bits <= most) found.push({ slot, bits });
        }
      }
    }
    return found;
  }

  private bandsOf(high: number, low: number): number[] {
    return [high >>> 16, high & 0xffff, low >>> 16, low & 0xffff];
  }
}
