import { XMLBuilder, XMLParser, XMLValidator } from 'fast-xml-parser';

/**
 * ASC MHL, the cinematographers' hash list, version 2.0 (American Society of Cinematographers; from memory: no copy of
 * the specification and no schema was to be had). In a folder `ascmhl` beside the files stand the generations, one list
 * each time files were added, and the chain, which names each generation with its C4 identity.
 *
 *     writeHashList(list) -> text      readHashList(text) -> list, null when it is something else
 *     writeChain(chain)   -> text      readChain(text)    -> chain, null
 *
 * Our generations say which files came in; directory hashes and the root hash, which the specification allows a list
 * of single files to leave out, are not written.
 */
export interface HashList {
  /** When the list was made. ISO 8601 in UTC. */
  readonly createdAt: string;
  readonly hostname: string;
  readonly tool: { readonly name: string; readonly version: string };
  readonly files: readonly HashedFile[];
}

export interface HashedFile {
  /** From the folder that holds `ascmhl`, with `/`. */
  readonly path: string;
  readonly bytes: number;
  readonly modifiedAt: string;
  readonly hashedAt: string;
  /** Name of the algorithm as the list has it, and the digest in its usual letters. */
  readonly hashes: Readonly<Partial<Record<HashFormat, string>>>;
}

export type HashFormat = 'md5' | 'sha1' | 'c4' | 'xxh64' | 'xxh3' | 'xxh128';
const FORMATS: readonly HashFormat[] = ['md5', 'sha1', 'c4', 'xxh64', 'xxh3', 'xxh128'];

export interface Generation {
  /** Counts from 1. */
  readonly number: number;
  readonly path: string;
  readonly c4: string;
}

/** The folder beside the files that holds generations and chain. */
export const HASH_LIST_FOLDER = 'ascmhl';
export const CHAIN_FILE = 'ascmhl_chain.xml';

/** What a list of ours leaves out, because it is not part of what came in. */
const IGNORED = ['.DS_Store', HASH_LIST_FOLDER, `${HASH_LIST_FOLDER}/`];

/** `0001_2026-04-18_reed-planting_2026-04-21_164200Z.mhl`: number, folder, when. */
export function generationName(number: number, folder: string, createdAt: string): string {
  const at = `${createdAt.slice(0, 10)}_${createdAt.slice(11, 19).replaceAll(':', '')}Z`;
  return `${String(number).padStart(4, '0')}_${folder}_${at}.mhl`;
}

/** The number of a generation by its file name; null when it is no generation. */
export function generationNumber(name: string): number | null {
  const match = /^(\d{4,})_.*\.mhl$/.exec(name);
  return match ? Number(match[1]) : null;
}

const builder = new XMLBuilder({ ignoreAttributes: false, format: true, suppressBooleanAttributes: false });
const parser = new XMLParser({
  ...{ ignoreAttributes: false, parseTagValue: false, parseAttributeValue: false },
  isArray: (name) => name === 'hash' || name === 'hashlist' || name === 'directoryhash',
});
const XML = { '@_version': '1.0', '@_encoding': 'UTF-8' };

export function writeHashList(list: HashList): string {
  return builder.build({
    '?xml': XML,
    hashlist: {
      '@_version': '2.0',
      '@_xmlns': 'urn:ASC:MHL:v2.0',
      creatorinfo: {
        creationdate: offsetTime(list.createdAt),
        hostname: list.hostname,
        tool: { '@_version': list.tool.version, '#text': list.tool.name },
      },
      processinfo: { process: 'transfer', ignore: { pattern: IGNORED } },
      hashes: { hash: list.files.map(hashElement) },
    },
  });
}

function hashElement(file: HashedFile): Record<string, unknown> {
  const digests = FORMATS.flatMap((format) => {
    const digest = file.hashes[format];
    return digest === undefined
      ? []
      : [[format, { '@_action': 'original', '@_hashdate': offsetTime(file.hashedAt), '#text': digest }] as const];
  });
  return {
    path: { '@_size': String(file.bytes), '@_lastmodificationdate': offsetTime(file.modifiedAt), '#text': file.path },
    ...Object.fromEntries(digests),
  };
}

/** XML Schema's dateTime with an offset, whole seconds, as the lists have it. */
const offsetTime = (instant: string) => `${new Date(instant).toISOString().slice(0, 19)}+00:00`;

/** Reads a list, ours or another tool's; null when the text is no hash list of version 2. */
export function readHashList(text: string): HashList | null {
  const root = element(parse(text), 'hashlist');
  // `hashlist` is read as a list because the chain has several.
  const list = Array.isArray(root) ? object(root[0]) : null;
  if (list?.['@_xmlns'] !== 'urn:ASC:MHL:v2.0') return null;
  const creator = object(list['creatorinfo']);
  const tool = creator?.['tool'];
  const hashes = object(list['hashes'])?.['hash'];
  const files = (Array.isArray(hashes) ? hashes : []).map(readFile);
  if (files.includes(null)) return null;
  return {
    createdAt: utc(content(creator?.['creationdate'])),
    hostname: content(creator?.['hostname']),
    tool: { name: content(tool), version: attribute(tool, 'version') },
    files: files.filter((file) => file !== null),
  };
}

function readFile(value: unknown): HashedFile | null {
  const hash = object(value);
  const path = content(hash?.['path']);
  if (!hash || !path) return null;
  const found = FORMATS.filter((format) => hash[format] !== undefined);
  return {
    path,
    bytes: Number(attribute(hash['path'], 'size')),
    modifiedAt: utc(attribute(hash['path'], 'lastmodificationdate')),
    hashedAt: utc(attribute(found[0] ? hash[found[0]] : undefined, 'hashdate')),
    hashes: Object.fromEntries(found.map((format) => [format, content(hash[format])])),
  };
}

export function writeChain(chain: readonly Generation[]): string {
  const hashlist = chain.map(({ number, path, c4 }) => ({ '@_sequencenr': String(number), path, c4 }));
  return builder.build({ '?xml': XML, ascmhldirectory: { '@_xmlns': 'urn:ASC:MHL:DIRECTORY:v2.0', hashlist } });
}

export function readChain(text: string): Generation[] | null {
  const root = object(element(parse(text), 'ascmhldirectory'));
  if (root?.['@_xmlns'] !== 'urn:ASC:MHL:DIRECTORY:v2.0') return null;
  const lists = root['hashlist'];
  return (Array.isArray(lists) ? lists : []).map((value) => {
    const list = object(value);
    return { number: Number(attribute(value, 'sequencenr')), path: content(list?.['path']), c4: content(list?.['c4']) };
  });
}

function parse(text: string): unknown {
  return XMLValidator.validate(text) === true ? parser.parse(text) : null;
}

const object = (value: unknown) =>
  typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Record<string, unknown>) : null;
const element = (value: unknown, name: string) => object(value)?.[name];
const attribute = (value: unknown, name: string) => {
  const found = object(value)?.[`@_${name}`];
  return typeof found === 'string' ? found : '';
};
/** Text of an element, with or without attributes. */
function content(value: unknown): string {
  const text = object(value)?.['#text'] ?? value;
  return typeof text === 'string' ? text : '';
}

function utc(text: string): string {
  const at = new Date(text);
  return Number.isNaN(at.getTime()) ? '' : at.toISOString();
}
