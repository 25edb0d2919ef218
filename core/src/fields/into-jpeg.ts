import { threeLetters } from '../country/index.js';
import { isOfCamera } from '../credit/index.js';
import { applyTo, type Edit, growth, type Piece, reach, undoOf } from './edit.js';
import { exifChange, readExifLines } from './exif-lines.js';
import { cutLikeIim, mergedIim, propertiesOfIim, readIim, writeIim } from './iim.js';
import { contentOf, isSigned, joined, type Segment, segment, segmentsOf, type Sign, SIGNS } from './jpeg.js';
import { NOTHING, type Field, type Properties, says, sayTheSame, STANDARDS } from './properties.js';
import { IIM_RESOURCE, readResources, withIim, writeResources } from './resources.js';
import { agrees, type CameWith, settle, type Settled, type Standing } from './settle.js';
import { readLines, readProperties } from './xmp-read.js';
import { type Packet, readPacket } from './xmp-text.js';
import { MOST_IN_PACKET, wrapped, writeProperties } from './xmp-write.js';

/** A JPEG grows by a multiple of this, so that what follows can be written past the page cache as before. In bytes. */
export const BLOCK_BYTES = 4096;
/** Room for later changes by other programs. In bytes. */
const LEAST_PADDING = 512;

export interface Insertion extends Settled {
  /** Puts it into the file as it came. */
  readonly edit: Edit;
  /** Takes it out again: the file is what it was, to the byte. */
  readonly undo: Edit;
}

/** MD5 of bytes, for the digest by which readers see whether IIM was changed. */
export type Md5 = (bytes: Uint8Array) => Uint8Array;

/** What a JPEG has of metadata where we put ours. */
interface Blocks {
  readonly segments: readonly Segment[];
  readonly exif: Segment | null;
  readonly xmp: Segment | null;
  readonly resources: Segment | null;
  readonly packet: Packet | null;
}

/**
 * Plans how a JPEG comes to say these properties: one run of bytes behind the Exif segment (behind JFIF where there is
 * none) holds the end of the Exif block, XMP, and IIM; the Exif block is told where its directory stands now; XMP and IIM
 * that were there are taken out and kept in `undo`.
 * @param head the file from its start, at least up to its first scan.
 * @returns words for why nothing should be put into this file.
 */
export function intoJpeg(
  head: Uint8Array,
  ours: Properties,
  standing: Standing,
  corrected: boolean,
  md5: Md5,
): Insertion | string {
  const blocks = blocksOf(head);
  if (typeof blocks === 'string') return blocks;
  const settled = settle(cameWith(head, blocks), ours, standing, corrected);
  const { segments, exif, xmp, resources, packet } = blocks;
  const at = (exif ?? segments.find((one) => isSigned(head, one, 'jfif')))?.to ?? 2;
  if (segments.some((one) => one.from < at && isSigned(head, one, 'parts')))
    return 'its list of further pictures stands before its Exif';

  const exifPieces = exif ? exifPart(head, exif, settled) : null;
  const iim = iimPart(head, resources, settled, md5);
  // What its list of further pictures leads to (CIPA DC-007) stands where it stood, seen from there.
  const list = segments.find((one) => isSigned(head, one, 'parts'));
  if (list && [xmp, iim ? resources : null].some((old) => old && old.from > list.from))
    return 'its list of further pictures stands before its XMP or its IIM';
  const xml = writeProperties(packet, settled.properties, settled.written);
  const pieces = (padding: number): Edit => {
    const added = [exifPieces?.added ?? new Uint8Array(), segment('xmp', wrapped(xml, padding)), iim ?? new Uint8Array()];
    const all: Piece[] = [...(exifPieces?.pieces ?? []), { at, cut: 0, put: joined(added) }];
    for (const old of [xmp, iim ? resources : null])
      if (old) all.push({ at: old.from, cut: old.to - old.from, put: new Uint8Array() });
    return all.sort((a, b) => a.at - b.at || a.cut - b.cut);
  };
  if (wrapped(xml, LEAST_PADDING).length > MOST_IN_PACKET - BLOCK_BYTES) return 'its XMP would not fit into one segment';
  const short = growth(pieces(LEAST_PADDING));
  const edit = pieces(LEAST_PADDING + ((BLOCK_BYTES - (short % BLOCK_BYTES)) % BLOCK_BYTES));
  const undo = undoOf(head, edit);
  return { ...settled, edit, undo };
}

/** Is the file that comes out of an insertion the one that it was put into? Compared byte by byte, as far as it reaches. */
export function comesOutAgain(head: Uint8Array, { edit, undo }: Pick<Insertion, 'edit' | 'undo'>): boolean {
  const before = head.subarray(0, Math.min(head.length, reach(edit) + 1));
  const back = applyTo(applyTo(before, edit), undo);
  return back.length === before.length && back.every((byte, i) => byte === before[i]);
}

function blocksOf(head: Uint8Array): Blocks | string {
  const segments = segmentsOf(head);
  if (typeof segments === 'string') return segments;
  const signed = (sign: Sign) => segments.filter((one) => isSigned(head, one, sign));
  const [xmps, all] = [signed('xmp'), signed('resources')];
  if (xmps.length > 1) return 'it holds two XMP packets';
  const xmp = xmps[0] ?? null;
  const packet = xmp && readPacket(contentOf(head, xmp).subarray(SIGNS.xmp.length));
  if (typeof packet === 'string') return packet;
  const extended = signed('extended').map((one) => new TextDecoder('latin1').decode(contentOf(head, one)));
  if (extended.some((text) => STANDARDS.some(({ xmp: { prefix, name } }) => text.includes(`${prefix}:${name}`))))
    return 'its extended XMP speaks of credit';
  // Several segments of image resources hang together: they stay as they are, and so does their IIM.
  return { segments, exif: signed('exif')[0] ?? null, xmp, resources: all.length === 1 ? all[0]! : null, packet };
}

/** What a JPEG says in the standard's fields, of whichever block; null when it is none. @param head up to its first scan. */
export function propertiesInJpeg(head: Uint8Array): Properties | null {
  const blocks = blocksOf(head);
  return typeof blocks === 'string' ? null : cameWith(head, blocks).properties;
}

/** The same for each block, where it says anything: `XMP`, `IIM`, `Exif`. */
export function blocksInJpeg(head: Uint8Array): readonly (readonly [block: string, Properties])[] | string {
  const blocks = blocksOf(head);
  if (typeof blocks === 'string') return blocks;
  return spoken(head, blocks).map(({ name, properties }) => [name, properties]);
}

interface Spoken {
  readonly name: 'XMP' | 'IIM' | 'Exif';
  readonly properties: Properties;
  readonly same: CameWith['same'];
}

function spoken(head: Uint8Array, { exif, packet, resources }: Blocks): Spoken[] {
  const found: Spoken[] = [];
  if (packet) {
    const said = readProperties(packet);
    const properties = { ...said, locationShown: said.locationShown ?? readLines(packet) };
    found.push({ name: 'XMP', properties, same: sameIn(properties, (ours) => ours) });
  }
  const iim = resources && iimOf(head, resources);
  const properties = iim && propertiesOfIim(iim);
  if (properties) found.push({ name: 'IIM', properties, same: sameIn(properties, cutLikeIim) });
  const lines = exif && exifLines(head, exif);
  if (lines) found.push({ name: 'Exif', properties: lines, same: sameIn(lines, (ours) => ours) });
  return found;
}

const sameIn =
  (theirs: Properties, as: (ours: Properties) => Properties): CameWith['same'] =>
  (ours, field) => {
    if (field === 'locationShown') return agrees(ours.locationShown, theirs.locationShown!);
    return sayTheSame(as(ours), theirs, field);
  };

function cameWith(head: Uint8Array, blocks: Blocks): CameWith {
  const said = spoken(head, blocks);
  const properties: Record<string, unknown> = { ...NOTHING };
  for (const { field } of STANDARDS) {
    const first = said.find((one) => says(one.properties, field));
    if (first) properties[field] = first.properties[field];
  }
  return {
    properties: properties as unknown as Properties,
    same: (ours, field) => said.every((one) => !says(one.properties, field) || one.same(ours, field)),
  };
}

const TIFF_AT = SIGNS.exif.length;
/** Who made the camera. */
const MAKE = 0x010f;
const EXIF_FIELDS = STANDARDS.flatMap(({ field, exif }) => (exif === undefined ? [] : [{ field, tag: exif }]));

function exifLines(head: Uint8Array, exif: Segment): Properties | null {
  const tags = [...EXIF_FIELDS.map(({ tag }) => tag), MAKE];
  const lines = readExifLines(contentOf(head, exif).subarray(TIFF_AT), tags);
  if (!lines.size) return null;
  const found: Record<string, unknown> = { ...NOTHING };
  const make = lines.get(MAKE) ?? null;
  for (const { field, tag } of EXIF_FIELDS) {
    const line = lines.get(tag) ?? '';
    if (field === 'creator') found[field] = line.split(/;\s*/).filter(Boolean);
    else if (field !== 'description' || !isOfCamera(line, make)) found[field] = line;
  }
  return found as unknown as Properties;
}

/** How the Exif segment changes; null where it stays as it is. */
function exifPart(
  head: Uint8Array,
  exif: Segment,
  { properties, written }: Settled,
): { pieces: Piece[]; added: Uint8Array } | null {
  const lines = new Map<number, string>();
  for (const { field, tag } of EXIF_FIELDS) {
    const text = [properties[field] as string | readonly string[]].flat().join('; ');
    if (written.includes(field) && text) lines.set(tag, text);
  }
  const tiff = contentOf(head, exif).subarray(TIFF_AT);
  const change = exifChange(tiff, lines);
  const length = exif.to - exif.from - 2 + (change?.added.length ?? 0);
  if (!change || length > 0xffff) return null;
  return {
    added: change.added,
    pieces: [
      { at: exif.from + 2, cut: 2, put: Uint8Array.of(length >> 8, length & 0xff) },
      { at: exif.from + 4 + TIFF_AT + 4, cut: 4, put: change.offset },
    ],
  };
}

function iimOf(head: Uint8Array, resources: Segment) {
  const all = readResources(contentOf(head, resources).subarray(SIGNS.resources.length));
  const block = all?.find(({ id }) => id === IIM_RESOURCE);
  return block ? readIim(block.data) : null;
}

/** The segment of image resources with our IIM in it; null where it stays as it is, or none is made. */
function iimPart(head: Uint8Array, old: Segment | null, { properties, written }: Settled, md5: Md5): Uint8Array | null {
  const before = old ? readResources(contentOf(head, old).subarray(SIGNS.resources.length)) : [];
  const block = before?.find(({ id }) => id === IIM_RESOURCE);
  const sets = block ? readIim(block.data) : [];
  if (!before || !sets) return null;
  const iimFields = STANDARDS.filter(({ iim, field }) => iim !== undefined || field === 'locationShown').map(
    ({ field }) => field,
  );
  if (!iimFields.some((field: Field) => written.includes(field))) return null;
  const iim = mergedIim(sets, properties, threeLetters(properties.locationShown?.countryCode ?? ''), written);
  if (typeof iim === 'string') return null;
  const bytes = writeIim(iim);
  const content = writeResources(withIim(before, bytes, md5(bytes)));
  return SIGNS.resources.length + content.length + 2 > 0xffff ? null : segment('resources', content);
}
