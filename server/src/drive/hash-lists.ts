import { createHash } from 'node:crypto';
import { readdir } from 'node:fs/promises';
import { basename, join } from 'node:path';
import {
  c4Of,
  CHAIN_FILE,
  generationName,
  generationNumber,
  HASH_LIST_FOLDER,
  readChain,
  readHashList,
  writeChain,
  writeHashList,
  type Generation,
  type HashList,
} from '@tally/core/manifest';
import { makeFolder } from './final-name.js';
import { codeOf } from './list-card.js';
import { readOwn, writeOwn } from './own-file.js';

/** The hash lists of a folder as they stand. */
export interface HashHistory {
  readonly chain: readonly Generation[];
  readonly lists: readonly { readonly number: number; readonly name: string; readonly text: string; readonly list: HashList }[];
  /** The chain as it stands; null: there is none. */
  readonly chainText: string | null;
  /** What is wrong with it, in words; nothing is added to a history that is not whole. */
  readonly problems: readonly string[];
}

/** What our lists say they were made with. */
export const TOOL_NAME = 'Tally Stick';

const c4OfText = (text: string): string => c4Of(createHash('sha512').update(text).digest());

/** Reads chain and generations of a folder and compares each generation with the identity the chain has for it. */
export async function readHistory(folder: string): Promise<HashHistory> {
  const beside = join(folder, HASH_LIST_FOLDER);
  const names = await readdir(beside).catch((error: unknown) => {
    if (codeOf(error) === 'ENOENT') return [];
    throw error;
  });
  const problems: string[] = [];
  const chainText = await readOwn(beside, CHAIN_FILE).catch(() => null);
  const chain = chainText === null ? [] : readChain(chainText);
  if (chain === null) problems.push(`${HASH_LIST_FOLDER}/${CHAIN_FILE} is no chain of hash lists`);
  const lists: HashHistory['lists'][number][] = [];
  for (const name of names.sort()) {
    const number = generationNumber(name);
    if (number === null) continue;
    const text = (await readOwn(beside, name)) ?? '';
    const list = readHashList(text);
    if (list) lists.push({ number, name, text, list });
    else problems.push(`${HASH_LIST_FOLDER}/${name} is no hash list`);
  }
  for (const generation of chain ?? []) {
    const found = lists.find(({ name }) => name === generation.path);
    if (!found) problems.push(`${HASH_LIST_FOLDER}/${generation.path} is missing`);
    else if (c4OfText(found.text) !== generation.c4)
      problems.push(`${HASH_LIST_FOLDER}/${generation.path} is not what the chain says`);
  }
  return { chain: chain ?? [], chainText, lists, problems };
}

/** Did we write all of a folder's history, so that it may go with the last file it is about? */
export async function isOwnHistory(folder: string): Promise<boolean> {
  const { lists, problems } = await readHistory(folder);
  const names = await readdir(join(folder, HASH_LIST_FOLDER));
  const known = new Set([CHAIN_FILE, ...lists.map(({ name }) => name)]);
  return !problems.length && names.every((name) => known.has(name)) && lists.every(({ list }) => list.tool.name === TOOL_NAME);
}

/** What became of a history: what is wrong with it, or what of it is ours and stands now. */
export type Extended =
  | { readonly problems: readonly string[] }
  | { readonly problems: null; readonly stands: readonly { readonly name: string; readonly text: string }[] };

/**
 * Adds a generation with the files that no generation has yet, or not as they are now, then names it in the chain. A generation that a killed
 * run wrote but did not name is named now.
 * Nothing is written where something is wrong with the history that stands there.
 */
export async function extendHistory(
  folder: string,
  made: Pick<HashList, 'createdAt' | 'hostname' | 'tool'>,
  files: HashList['files'],
  links: boolean,
): Promise<Extended> {
  const { chain, chainText, lists, problems } = await readHistory(folder);
  if (problems.length) return { problems };
  const ours = lists.filter(({ list }) => list.tool.name === TOOL_NAME).map(({ name, text }) => ({ name, text }));
  const known = new Map(lists.flatMap(({ list }) => list.files.map(({ path, hashes }) => [path, hashes.xxh128])));
  const added = files.filter(({ path, hashes }) => known.get(path) !== hashes.xxh128);
  const unnamed = lists.filter(({ name }) => !chain.some(({ path }) => path === name));
  if (!added.length && !unnamed.length)
    return { problems: null, stands: chainText === null ? ours : [...ours, { name: CHAIN_FILE, text: chainText }] };
  const beside = join(folder, HASH_LIST_FOLDER);
  const next = [...chain, ...unnamed.map(({ number, name, text }) => ({ number, path: name, c4: c4OfText(text) }))];
  if (added.length) {
    await makeFolder(folder, HASH_LIST_FOLDER);
    const number = Math.max(0, ...next.map((generation) => generation.number)) + 1;
    const name = generationName(number, basename(folder), made.createdAt);
    const text = writeHashList({ ...made, files: added });
    if (!(await writeOwn(beside, name, text, false, links)))
      return { problems: [`${HASH_LIST_FOLDER}/${name} was written by somebody else`] };
    ours.push({ name, text });
    next.push({ number, path: name, c4: c4OfText(text) });
  }
  const text = writeChain(next);
  if (!(await writeOwn(beside, CHAIN_FILE, text, chainText !== null, links)))
    return { problems: [`${HASH_LIST_FOLDER}/${CHAIN_FILE} was written by somebody else`] };
  return { problems: null, stands: [...ours, { name: CHAIN_FILE, text }] };
}
