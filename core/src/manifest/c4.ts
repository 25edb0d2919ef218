const ALPHABET = '123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz';

/**
 * The C4 identity of bytes (SMPTE ST 2114, from memory): their SHA-512 read as one big-endian number, in base 58,
 * padded on the left with "1" to 88 characters, with "c4" in front.
 * @param sha512 64 bytes. @throws RangeError for another length.
 */
export function c4Of(sha512: Uint8Array): string {
  if (sha512.length !== 64) throw new RangeError(`a SHA-512 has 64 bytes, not ${sha512.length}`);
  let number = 0n;
  for (const byte of sha512) number = (number << 8n) | BigInt(byte);
  let text = '';
  for (; number > 0n; number /= 58n) text = ALPHABET[Number(number % 58n)]! + text;
  return `c4${text.padStart(88, '1')}`;
}
