import { join } from 'node:path';
import { MOVED_FILE, recordNumber, SECOND_FOLDER } from '@tally/core/drive';
import {
  type Checksum,
  CHECKSUM_FILE,
  HASH_LIST_FOLDER,
  type HashList,
  readChecksums,
  writeChecksums,
} from '@tally/core/manifest';
import { makeFolder, stands } from '../drive/final-name.js';
import { extendHistory } from '../drive/hash-lists.js';
import { removeOwn } from '../drive/move-file.js';
import { readOwn, writeOwn } from '../drive/own-file.js';
import { isMovedText, isRecordText } from '../drive/records-beside.js';
import { hashOf } from '../drive/sidecar-file.js';
import type { BesideWritten } from './store/beside-written.js';
import type { TalliedFile } from './store.js';

interface Where {
  readonly root: string;
  readonly folder: string;
  /** Can the file system make hard links? */
  readonly links: boolean;
}

/**
 * Writes what explains the files of one folder at a place, and keeps in mind what it wrote. What stands under one of those
 * names and is not ours stays. Whoever calls holds the place.
 */
export class Explaining {
  /** What was left alone because it is not ours, by its path. */
  readonly strangers: string[] = [];
  readonly written: BesideWritten[] = [];
  /** What stands no more. */
  readonly gone: string[] = [];
  private readonly path: string;

  /** @param known what was written there before */
  constructor(
    private readonly where: Where,
    private readonly known: readonly BesideWritten[],
  ) {
    this.path = join(where.root, where.folder);
  }

  /**
   * The record of an intake, twice: it alone knows without the logbook how the credit comes out of a file.
   * @param text null: the intake has nothing there any more
   */
  async record(number: string, text: string | null): Promise<void> {
    const name = `intake-${number}.json`;
    if (text === null) {
      for (const one of [name, `${SECOND_FOLDER}/${name}`]) await this.removeWritten(one);
      return;
    }
    await this.write(name, text, (there) => isRecordText(there, number));
    await makeFolder(this.path, SECOND_FOLDER);
    // Nobody else writes in that folder.
    await this.write(`${SECOND_FOLDER}/${name}`, text, () => true);
  }

  /** Takes away what we wrote, as we wrote it: a record of that number may be another house's. */
  private async removeWritten(name: string): Promise<void> {
    const there = await readOwn(this.path, name);
    const known = this.known.find((one) => one.name === name);
    if (there !== null && known && (await hashOf(Buffer.from(there))).equals(known.hash))
      await removeOwn(this.where.root, join(this.where.folder, name));
    this.gone.push(name);
  }

  /** @param text null: nothing that stood there is known to stand elsewhere */
  async movedAway(text: string | null): Promise<void> {
    if (text !== null) await this.write(MOVED_FILE, text, isMovedText);
    else {
      if (isMovedText((await readOwn(this.path, MOVED_FILE)) ?? ''))
        await removeOwn(this.where.root, join(this.where.folder, MOVED_FILE));
      this.gone.push(MOVED_FILE);
    }
  }

  /** The list of all that tallies, and of the records: that of this intake, and those that others have in the folder. */
  async checksums(files: readonly TalliedFile[]): Promise<void> {
    const own = this.written.filter(({ name }) => recordNumber(name) !== null);
    const isOther = ({ name }: BesideWritten) =>
      recordNumber(name) !== null && !this.gone.includes(name) && !own.some((one) => one.name === name);
    const records = [...own, ...this.known.filter(isOther)];
    const known: Checksum[] = [
      ...files.map(({ name, hash }) => ({ name, hash })),
      ...records.map(({ name, hash }) => ({ name, hash: hash.toString('hex') })),
    ];
    const names = new Set(known.map(({ name }) => name));
    // What an earlier logbook wrote down stays, as long as the file is there.
    for (const entry of readChecksums((await readOwn(this.path, CHECKSUM_FILE)) ?? '') ?? [])
      if (!names.has(entry.name) && (await stands(join(this.path, entry.name)))) known.push(entry);
    await this.write(CHECKSUM_FILE, writeChecksums(known), (text) => readChecksums(text) !== null);
  }

  async history(made: Pick<HashList, 'createdAt' | 'hostname' | 'tool'>, files: readonly TalliedFile[]): Promise<void> {
    const extended = await extendHistory(this.path, made, files.map(hashedFile), this.where.links);
    if (extended.problems) {
      for (const problem of extended.problems) this.strangers.push(`${this.where.folder || 'the root'}: ${problem}`);
      return;
    }
    const names = new Set<string>();
    for (const { name, text } of extended.stands) {
      const path = `${HASH_LIST_FOLDER}/${name}`;
      names.add(path);
      await this.keep(path, text);
    }
    const before = this.known.filter(({ name }) => name.startsWith(`${HASH_LIST_FOLDER}/`));
    this.gone.push(...before.flatMap(({ name }) => (names.has(name) ? [] : [name])));
  }

  private async write(name: string, content: string, isOurs: (text: string) => boolean): Promise<void> {
    const there = await readOwn(this.path, name);
    if (there !== content) {
      const mayWrite = there === null || isOurs(there);
      const [folder, own] = split(name);
      if (!mayWrite || !(await writeOwn(join(this.path, folder), own, content, there !== null, this.where.links))) {
        const isKnown = this.known.some((one) => one.name === name);
        const why = isKnown ? 'is not as we wrote it: check this place, and have it written anew' : 'is not ours';
        this.strangers.push(`${join(this.where.folder, name)} ${why}`);
        return;
      }
    }
    await this.keep(name, content);
  }

  private async keep(name: string, content: string): Promise<void> {
    const bytes = Buffer.from(content);
    this.written.push({ name, bytes: bytes.length, hash: await hashOf(bytes) });
  }
}

const split = (name: string): [folder: string, own: string] => {
  const at = name.lastIndexOf('/') + 1;
  return [name.slice(0, at), name.slice(at)];
};

const hashedFile = ({ name, hash, bytes, modifiedAt, talliedAt }: TalliedFile): HashList['files'][number] => ({
  ...{ path: name, bytes, modifiedAt: modifiedAt.toISOString(), hashedAt: talliedAt.toISOString(), hashes: { xxh128: hash } },
});
