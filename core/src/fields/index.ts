/*
 * fields: how do the standard fields say whose a file is, and how does a JPEG carry them so that they come out again?
 * In: what the house knows of an item; the beginning of a JPEG, or a sidecar, as it stands.
 * Out: properties; an insertion with the edit that takes it out; a sidecar; what somebody must be asked.
 * Standards: IPTC Photo Metadata 2023.1, XMP (ISO 16684-1), IIM 4.2, Exif 2.32, Metadata Working Group 2.0 (from memory).
 */
export { applyTo, growth, oneAfterAnother, reach, undoOf, type Edit, type Piece } from './edit.js';
export { BLOCK_BYTES, blocksInJpeg, comesOutAgain, intoJpeg, propertiesInJpeg, type Insertion, type Md5 } from './into-jpeg.js';
export { propertiesOf, type ItemKnown } from './of-record.js';
export {
  FIELDS,
  inWords,
  LINES_OF_LOCATION,
  NAMESPACES,
  NOTHING,
  says,
  sayTheSame,
  standardOf,
  STANDARDS,
  type ContactSaid,
  type Field,
  type LocationSaid,
  type Properties,
  type Standard,
} from './properties.js';
export { intoSidecar, propertiesInSidecar, sidecarOf, type SidecarWritten } from './sidecar.js';
export { type Question, type Settled, type Standing } from './settle.js';
export {
  CREDITED_KINDS,
  WRITING_BY_ITSELF,
  writingOf,
  WRITINGS,
  type CreditedKind,
  type Writable,
  type Writing,
  type WritingOf,
} from './writing.js';
