/** Brightness of a picture, one byte a pixel, row by row. */
export interface GreyPicture {
  readonly width: number;
  readonly height: number;
  readonly pixels: Uint8Array;
}

const BLOCKS_ACROSS = 8;
const BLOCKS_DOWN = 6;
/** The sharpest tenth of a picture counts: a sharp bird before a soft sky is a sharp picture. */
const BEST_SHARE = 0.1;

/**
 * Focus measure: the variance of the Laplacian (kernel 0 1 0 / 1 -4 1 / 0 1 0), after J. L. Pech-Pacheco et al.,
 * "Diatom autofocusing in brightfield microscopy: a comparative study", ICPR 2000, taken in 8 × 6 blocks of the
 * picture; the result is the mean of the best tenth of the blocks. Only comparable between pictures of one size.
 * @returns 0 for a picture without any detail, some thousands for a crisp one.
 */
export function sharpness({ width, height, pixels }: GreyPicture): number {
  const variances: number[] = [];
  for (let down = 0; down < BLOCKS_DOWN; down++) {
    for (let across = 0; across < BLOCKS_ACROSS; across++) {
      const left = Math.max(1, Math.floor((across * width) / BLOCKS_ACROSS));
      const right = Math.min(width - 1, Math.floor(((across + 1) * width) / BLOCKS_ACROSS));
      const top = Math.max(1, Math.floor((down * height) / BLOCKS_DOWN));
      const bottom = Math.min(height - 1, Math.floor(((down + 1) * height) / BLOCKS_DOWN));
      let count = 0;
      let sum = 0;
      let squares = 0;
      for (let y = top; y < bottom; y++) {
        for (let x = left, at = y * width + left; x < right; x++, at++) {
          const value = pixels[at - width]! + pixels[at + width]! + pixels[at - 1]! + pixels[at + 1]! - 4 * pixels[at]!;
          count++;
          sum += value;
          squares += value * value;
        }
      }
      if (count > 0) variances.push(squares / count - (sum / count) ** 2);
    }
  }
  if (!variances.length) return 0;
  variances.sort((a, b) => b - a);
  const best = variances.slice(0, Math.max(1, Math.round(variances.length * BEST_SHARE)));
  return best.reduce((total, variance) => total + variance, 0) / best.length;
}

/** The measure on a bar from 0 to 1: each doubling is one step, from 8 (nothing to be seen) to 4096 (crisp). */
export function sharpnessBar(measure: number): number {
  return Math.min(1, Math.max(0, (Math.log2(measure + 1) - 3) / 9));
}

/** Below this a picture is likely out of focus or shaken. Chosen by looking at blurred and crisp pictures; no source. */
const BLURRED_BELOW = 64;
export const looksBlurred = (measure: number): boolean => measure < BLURRED_BELOW;
