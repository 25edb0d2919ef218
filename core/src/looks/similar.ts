import { hashDistance } from './difference-hash.js';

export interface Frame {
  readonly id: number;
  /** Wall-clock milliseconds. */
  readonly atMs: number;
  /** Difference hash; null when there is no picture yet. */
  readonly look: string | null;
  readonly sharpness: number | null;
}

export interface SimilarGroup {
  readonly ids: readonly number[];
  /** The frame with the highest focus measure. */
  readonly sharpest: number;
}

/** Ten bits of 64 is the distance up to which the method's author calls two pictures likely variations of each other. */
const MOST_DIFFERENT_BITS = 10;
/** Frames of one moment follow each other closely. Common practice, no source. */
const LONGEST_PAUSE_MS = 60_000;

/** Groups of two or more frames in a row that look alike. @param frames in time order. */
export function similarGroups(frames: readonly Frame[]): SimilarGroup[] {
  const groups: Frame[][] = [];
  let before: Frame | undefined;
  for (const frame of frames) {
    if (frame.look === null) continue;
    const alike =
      before !== undefined &&
      before.look !== null &&
      frame.atMs - before.atMs <= LONGEST_PAUSE_MS &&
      hashDistance(frame.look, before.look) <= MOST_DIFFERENT_BITS;
    if (alike) groups.at(-1)!.push(frame);
    else groups.push([frame]);
    before = frame;
  }
  return groups
    .filter((group) => group.length > 1)
    .map((group) => ({
      ids: group.map((frame) => frame.id),
      sharpest: group.reduce((best, frame) => ((frame.sharpness ?? -1) > (best.sharpness ?? -1) ? frame : best)).id,
    }));
}
