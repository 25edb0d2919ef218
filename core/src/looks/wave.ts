/** Bars of a drawn wave. */
export const WAVE_BARS = 120;

/**
 * The loudest moment in each of `bars` equal parts of a recording, on a scale where full level (32,768 of 16 bits) is 255.
 * @param levels absolute sample values or peaks, 0 to 32,768, in time order.
 */
export function peaksOf(levels: readonly number[], bars: number): Uint8Array {
  const peaks = new Uint8Array(bars);
  for (let bar = 0; bar < bars; bar++) {
    const from = Math.floor((bar * levels.length) / bars);
    const to = Math.max(from + 1, Math.floor(((bar + 1) * levels.length) / bars));
    let peak = 0;
    for (let at = from; at < Math.min(to, levels.length); at++) peak = Math.max(peak, levels[at]!);
    peaks[bar] = Math.min(255, Math.round((peak / 32_768) * 255));
  }
  return peaks;
}
