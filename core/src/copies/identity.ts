/** Bytes at each end of a file that make its fast identity. */
export const END_BYTES = 65_536;

/**
 * The parts of a file whose XXH128, one after the other, is its fast identity: the first 64 KiB, and the last 64 KiB
 * behind them. It means something together with the size only; a file of up to 64 KiB is hashed whole.
 * @returns offsets `[from, to)` in bytes.
 */
export function fastIdentityParts(bytes: number): readonly (readonly [from: number, to: number])[] {
  const first = [0, Math.min(END_BYTES, bytes)] as const;
  return bytes > END_BYTES ? [first, [Math.max(END_BYTES, bytes - END_BYTES), bytes]] : [first];
}
