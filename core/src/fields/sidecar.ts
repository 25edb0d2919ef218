import { FIELDS, NOTHING, type Properties } from './properties.js';
import { settleAgain, type Settled, type Standing } from './settle.js';
import { readLines, readProperties } from './xmp-read.js';
import { readPacket } from './xmp-text.js';
import { wrapped, writeProperties } from './xmp-write.js';

/**
 * Name of the sidecar of a file: the whole name of the file with `.xmp` behind it, so that a raw picture and the JPEG of
 * the same exposure have one each. (Sidecars that a camera wrote are items like any other, with names of their own.)
 */
export const sidecarOf = (name: string): string => `${name}.xmp`;

export interface SidecarWritten extends Settled {
  readonly bytes: Uint8Array;
  /** What is to be remembered as said by us. */
  readonly base: Properties;
}

/**
 * What a sidecar is to hold. @param before what stands there; null: nothing. @param base what we said in it.
 * @returns words for why it stays as it is.
 */
export function intoSidecar(
  before: Uint8Array | null,
  base: Properties | null,
  ours: Properties,
  standing: Standing,
): SidecarWritten | string {
  if (before === null) {
    const settled = { properties: ours, written: FIELDS, questions: [], base: ours };
    return { ...settled, bytes: wrapped(writeProperties(null, ours, FIELDS), 0) };
  }
  if (base === null) return 'a sidecar that somebody made stands there';
  const packet = readPacket(before);
  if (typeof packet === 'string') return packet;
  const settled = settleAgain(readProperties(packet), base, ours, standing);
  return { ...settled, bytes: wrapped(writeProperties(packet, settled.properties, settled.written), 0) };
}

/** What a sidecar says; words for why it cannot be read. */
export function propertiesInSidecar(bytes: Uint8Array): Properties | string {
  const packet = readPacket(bytes);
  if (typeof packet === 'string') return packet;
  const said = readProperties(packet);
  return { ...NOTHING, ...said, locationShown: said.locationShown ?? readLines(packet) };
}
