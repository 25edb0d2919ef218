/** What a difference hash is made from: 9 × 8 pixels. */
export const HASH_WIDTH = 9;
export const HASH_HEIGHT = 8;

/**
 * Difference hash: each of 64 bits says whether a pixel is brighter than its right neighbour, row by row, in a picture
 * shrunk to 9 × 8 grey pixels. Published by N. Krawetz, "Kind of Like That", The Hacker Factor Blog, January 2013.
 * @param pixels 72 bytes of brightness. @throws RangeError for any other number. @returns 16 hexadecimal digits.
 */
export function differenceHash(pixels: Uint8Array): string {
  if (pixels.length !== HASH_WIDTH * HASH_HEIGHT)
    throw new RangeError(`A difference hash needs ${HASH_WIDTH * HASH_HEIGHT} pixels`);
  let hex = '';
  for (let row = 0; row < HASH_HEIGHT; row++) {
    let bits = 0;
    for (let column = 0; column < HASH_WIDTH - 1; column++) {
      const at = row * HASH_WIDTH + column;
      bits = (bits << 1) | (pixels[at]! > pixels[at + 1]! ? 1 : 0);
    }
    hex += bits.toString(16).padStart(2, '0');
  }
  return hex;
}

/** In how many of 64 bits two hashes differ. */
export function hashDistance(a: string, b: string): number {
  let distance = 0;
  for (let at = 0; at < a.length; at += 4) {
    let bits = parseInt(a.slice(at, at + 4), 16) ^ parseInt(b.slice(at, at + 4), 16);
    for (; bits; bits &= bits - 1) distance++;
  }
  return distance;
}
