/** A picture by its size, and when it was taken by its camera's clock; null where its file does not say. */
export interface Pictured {
  /** Pixels. */
  readonly width: number;
  readonly height: number;
  /** Wall-clock milliseconds; null: only the time of the file is known. */
  readonly takenMs: number | null;
}

/** Sides that are scaled are rounded: at a thumbnail of 100 pixels by one in a hundred. Common practice, no source. */
const RATIO_APART = 0.02;
/** So much smaller at least, else it was trimmed, not scaled. Common practice, no source. */
const SMALLER = 0.95;
/** Frames of one moment look alike, too: they are of other seconds, or of the same size. Common practice, no source. */
const SECONDS_APART_MS = 2_000;

/** Of two that look the same: is the first the other one in a smaller size, turned or not? */
export function isSmallerOf(small: Pictured, large: Pictured): boolean {
  const [a, b] = [sides(small), sides(large)];
  if (!(a.short > 0) || !(b.short > 0) || a.long > b.long * SMALLER) return false;
  if (Math.abs(a.long / a.short - b.long / b.short) > RATIO_APART * (b.long / b.short)) return false;
  return small.takenMs === null || large.takenMs === null || Math.abs(small.takenMs - large.takenMs) <= SECONDS_APART_MS;
}

const sides = ({ width, height }: Pictured) => ({ long: Math.max(width, height), short: Math.min(width, height) });
