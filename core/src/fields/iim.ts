import { joined } from './jpeg.js';
import { type Field, LINES_OF_LOCATION, NOTHING, type Properties, STANDARDS } from './properties.js';

/** One data set of IIM 4.2: record, number, content. */
export interface DataSet {
  readonly record: number;
  readonly dataset: number;
  readonly data: Uint8Array;
}

const MARK = 0x1c;
/** `ESC % G`: what follows is UTF-8 (ISO 2022, as 1:90 has it). */
const UTF8 = Uint8Array.of(0x1b, 0x25, 0x47);
const VERSION = Uint8Array.of(0, 4);

/** Takes IIM apart (IIM 4.2, chapter 1). @returns null when it is none. */
export function readIim(bytes: Uint8Array): readonly DataSet[] | null {
  const sets: DataSet[] = [];
  for (let at = 0; at < bytes.length;) {
    // Some writers fill up with zeros.
    if (bytes[at] === 0 && bytes.subarray(at).every((byte) => byte === 0)) return sets;
    if (bytes[at] !== MARK || at + 5 > bytes.length) return null;
    const [record, dataset] = [bytes[at + 1]!, bytes[at + 2]!];
    const length = (bytes[at + 3]! << 8) | bytes[at + 4]!;
    // An extended data set says how long its length is; no text of a desk needs one.
    if (length > 0x7fff || at + 5 + length > bytes.length) return null;
    sets.push({ record, dataset, data: bytes.subarray(at + 5, at + 5 + length) });
    at += 5 + length;
  }
  return sets;
}

export function writeIim(sets: readonly DataSet[]): Uint8Array {
  return joined(
    sets.map(({ record, dataset, data }) =>
      joined([Uint8Array.of(MARK, record, dataset, data.length >> 8, data.length & 0xff), data]),
    ),
  );
}

const textSets = STANDARDS.flatMap(({ iim }) => iim ?? []).map(({ dataset }) => dataset);
const ours = new Set<number>([...textSets, ...LINES_OF_LOCATION.map(({ iim }) => iim.dataset)]);

/** How the texts of data sets are written: by 1:90, else UTF-8 where that is valid, else Latin-1 (common practice, no source). */
function charsetOf(sets: readonly DataSet[]): 'utf-8' | 'latin1' | null {
  const said = sets.find(({ record, dataset }) => record === 1 && dataset === 90);
  if (said) return said.data.length === 3 && UTF8.every((byte, i) => said.data[i] === byte) ? 'utf-8' : null;
  const isValid = sets.every(({ record, data }) => record !== 2 || utf8(data) !== null);
  return isValid ? 'utf-8' : 'latin1';
}

function utf8(data: Uint8Array): string | null {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(data);
  } catch {
    return null;
  }
}

const isAscii = (data: Uint8Array) => data.every((byte) => byte < 0x80);

/** What IIM says in the standard's fields; null when its letters are written in a way we do not know. */
export function propertiesOfIim(sets: readonly DataSet[]): Properties | null {
  const charset = charsetOf(sets);
  if (charset === null) return null;
  const decoder = new TextDecoder(charset);
  const texts = (number: number) =>
    sets
      .filter(({ record, dataset }) => record === 2 && dataset === number)
      .map(({ data }) => decoder.decode(data).replaceAll('\0', '').normalize('NFC').trim())
      .filter(Boolean);
  const found: Record<string, unknown> = { ...NOTHING };
  for (const { field, iim, xmp } of STANDARDS) {
    if (!iim || field === 'dateCreated') continue;
    const values = texts(iim[0]!.dataset);
    found[field] = xmp.form === 'seq' || xmp.form === 'bag' ? [...new Set(values)] : (values[0] ?? '');
  }
  const lines = Object.fromEntries(LINES_OF_LOCATION.map(({ part, iim }) => [part, texts(iim.dataset)[0] ?? '']));
  if (Object.values(lines).some(Boolean)) found['locationShown'] = { ...{ name: '', lat: null, lon: null }, ...lines };
  found['dateCreated'] = dateOf(texts(55)[0] ?? '', texts(60)[0] ?? '');
  return found as unknown as Properties;
}

/** `20260418` and `094107+0100` as one. */
function dateOf(day: string, time: string): string {
  const date = /^(\d{4})(\d\d)(\d\d)$/.exec(day);
  if (!date) return '';
  const clock = /^(\d\d)(\d\d)(\d\d)(?:([+-]\d\d)(\d\d))?$/.exec(time);
  const [, hours, minutes, seconds, zone, rest] = clock ?? [];
  const offset = zone === undefined ? '' : `${zone}:${rest}`;
  return `${date[1]}-${date[2]}-${date[3]}${clock ? `T${hours}:${minutes}:${seconds}${offset}` : ''}`;
}

/** Bytes of a text, cut between two letters to what a data set holds. */
function cutTo(text: string, most: number): Uint8Array {
  const encoder = new TextEncoder();
  const bytes = encoder.encode(text);
  if (bytes.length <= most) return bytes;
  let end = most;
  while (end > 0 && (bytes[end]! & 0xc0) === 0x80) end--;
  return bytes.subarray(0, end);
}

/** Properties as far as IIM can hold them. */
export function cutLikeIim(properties: Properties): Properties {
  const cut = (text: string, most: number) => new TextDecoder().decode(cutTo(text, most)).trim();
  const found: Record<string, unknown> = { ...properties };
  for (const { field, iim } of STANDARDS) {
    const value = properties[field];
    const most = iim?.[0]!.most;
    if (most === undefined || field === 'dateCreated') continue;
    found[field] = Array.isArray(value)
      ? (value as readonly string[]).map((text) => cut(text, most))
      : cut(value as string, most);
  }
  return found as unknown as Properties;
}

/** How many bytes a data set of ours holds. */
const holds = new Map<number, number>(
  [...STANDARDS.flatMap(({ iim }) => iim ?? []), ...LINES_OF_LOCATION.map(({ iim }) => iim)].map(({ dataset, most }) => [
    dataset,
    most,
  ]),
);

/** Data sets that say a field. */
const datasetsOf = (field: Field): number[] =>
  field === 'locationShown'
    ? LINES_OF_LOCATION.map(({ iim }) => iim.dataset)
    : (STANDARDS.find((one) => one.field === field)?.iim ?? []).map(({ dataset }) => dataset);

/** A text of a file's own, in UTF-8. @param most what its data set holds. @returns null where it would not fit any more. */
function inUtf8(one: DataSet, charset: 'utf-8' | 'latin1', most: number): DataSet | null {
  if (charset === 'utf-8' || isAscii(one.data)) return one;
  const data = new TextEncoder().encode(new TextDecoder('latin1').decode(one.data));
  return data.length > most ? null : { ...one, data };
}

/**
 * Writes properties among the data sets that a file had. What is not written stays as it is; letters are UTF-8.
 * @param countryCode three letters of ISO 3166-1. @param written the fields that are written.
 * @returns words for why it cannot be.
 */
export function mergedIim(
  before: readonly DataSet[],
  properties: Properties,
  countryCode: string,
  written: readonly Field[],
): readonly DataSet[] | string {
  const charset = charsetOf(before);
  const own = before.filter(({ record, dataset }) => record === 2 && ours.has(dataset));
  if (charset === null && own.length) return 'its IIM is written in letters that we do not know';
  const replaced = new Set(written.flatMap(datasetsOf));
  const kept = own
    .filter(({ dataset }) => !replaced.has(dataset))
    .map((one) => inUtf8(one, charset ?? 'utf-8', holds.get(one.dataset)!));
  if (kept.includes(null)) return 'its IIM has texts that would not fit in UTF-8';
  const foreign = before.filter(({ record, dataset }) => (record === 1 ? dataset !== 90 : record !== 2 || !ours.has(dataset)));
  const others = foreign.filter(({ record, dataset }) => record !== 1 && !(record === 2 && dataset === 0));
  if (charset !== 'utf-8' && !others.every(({ data }) => isAscii(data)))
    return 'its IIM is written in letters that UTF-8 would change';
  const set = (dataset: number, text: string, most: number): DataSet[] =>
    text === '' ? [] : [{ record: 2, dataset, data: cutTo(text, most) }];
  const sets = STANDARDS.flatMap(({ field, iim }): DataSet[] => {
    if (!iim || field === 'dateCreated' || !written.includes(field)) return [];
    const value = properties[field] as string | readonly string[];
    return [value].flat().flatMap((text) => set(iim[0]!.dataset, text, iim[0]!.most));
  });
  const locationShown = written.includes('locationShown') ? properties.locationShown : null;
  for (const { part, iim } of locationShown ? LINES_OF_LOCATION : [])
    sets.push(...set(iim.dataset, part === 'countryCode' ? countryCode : locationShown![part], iim.most));
  const created = written.includes('dateCreated') ? properties.dateCreated : '';
  const date = /^(\d{4})-(\d\d)-(\d\d)(?:T(\d\d):(\d\d):(\d\d)(?:\.\d+)?(?:([+-]\d\d):(\d\d)|Z)?)?/.exec(created);
  if (date) {
    const [, year, month, day, hours, minutes, seconds, zone, rest] = date;
    sets.push(...set(55, `${year}${month}${day}`, 8));
    const offset = zone === undefined ? (created.endsWith('Z') ? '+0000' : '') : `${zone}${rest}`;
    if (hours !== undefined) sets.push(...set(60, `${hours}${minutes}${seconds}${offset}`, 11));
  }
  const record = (number: number) => foreign.filter((one) => one.record === number);
  const hasVersion = foreign.some(({ record: of, dataset }) => of === 2 && dataset === 0);
  return [
    ...record(1),
    { record: 1, dataset: 90, data: UTF8 },
    ...(hasVersion ? [] : [{ record: 2, dataset: 0, data: VERSION }]),
    ...[...record(2), ...kept.flatMap((one) => one ?? []), ...sets].sort((a, b) => a.dataset - b.dataset),
    ...foreign.filter(({ record: of }) => of > 2),
  ];
}
