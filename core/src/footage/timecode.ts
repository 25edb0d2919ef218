/**
 * The timecode of a frame, counted from midnight (SMPTE ST 12-1, from memory; drop-frame worked example: the frame after
 * 00:00:59;29 at 29.97 is 00:01:00;02).
 * @param frame whole frames since midnight.
 * @param rate nominal frames a second, a whole number: 24, 25, 30, 60.
 * @param drop are frame numbers left out so that the count keeps up with the clock? Only at 30 and 60.
 */
export function timecodeAt(frame: number, rate: number, drop = false): string {
  let n = frame;
  if (drop) {
    const dropped = rate / 15;
    const tenMinutes = rate * 600 - dropped * 9;
    const tens = Math.floor(n / tenMinutes);
    const rest = n % tenMinutes;
    const minutes = rest < rate * 60 ? 0 : 1 + Math.floor((rest - rate * 60) / (rate * 60 - dropped));
    n += dropped * (9 * tens + minutes);
  }
  const two = (value: number) => String(value).padStart(2, '0');
  const seconds = Math.floor(n / rate);
  const clock = `${two(Math.floor(seconds / 3600) % 24)}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}`;
  return `${clock}${drop ? ';' : ':'}${two(n % rate)}`;
}
