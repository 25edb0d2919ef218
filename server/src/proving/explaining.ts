import { join } from 'node:path';
import { type IntakeRecord, MovedRecord } from '@tally/contract';
import { MOVED_FILE, recordName, recordNumber, SECOND_FOLDER } from '@tally/core/drive';
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
import { isRecordOf, movedText, recordNamesIn, type RecordOf, recordText } from '../drive/records-beside.js';
import { hashOf } from '../drive/sidecar-file.js';
import type { BesideWritten } from './store/beside-written.js';
import type { TalliedFile } from './store/recorded.js';

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
  /** What is so and no fault, for the log. */
  readonly notes: string[] = [];
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
   * The record of an intake, twice: it alone knows without the logbook how the credit comes out of a file. That of another
   * intake is never replaced, whatever number it bears: then this one has a name of its own.
   * @param says null: the intake has nothing there any more
   * @param now when it is written, if it says something else than the one that stands there
   */
  async record(of: RecordOf, says: IntakeRecord | null, now: Date): Promise<void> {
    const ours: string[] = [];
    const others: string[] = [];
    for (const name of await this.recordNames(of.number)) {
      const whose = await this.whose(name, of);
      if (whose === 'ours') ours.push(name);
      else if (whose === 'others') others.push(name);
    }
    let nth = 1;
    while (others.includes(recordName(of.number, nth))) nth++;
    const name = ours[0] ?? recordName(of.number, nth);
    for (const one of says === null ? ours : ours.slice(1)) await this.removeRecord(one, of);
    if (says === null) return;
    const text = await this.dated(name, says, now);
    if (others.length && !this.known.some((one) => one.name === name))
      this.notes.push(
        `${join(this.where.folder, others[0]!)} is of another house, or of an earlier life of this one: it stays, and ours is ${name}`,
      );
    await this.write(name, text, (there) => this.isOf(there, of));
    await makeFolder(this.path, SECOND_FOLDER);
    await this.write(`${SECOND_FOLDER}/${name}`, text, (there) => this.isOf(there, of) || recordText(there) === null);
  }

  /** A record as text: with the moment of the one that stands there when that says the same. */
  private async dated(name: string, says: IntakeRecord, now: Date): Promise<string> {
    const there = await readOwn(this.path, name);
    const writtenAt = there === null ? null : (recordText(there)?.writtenAt ?? null);
    if (writtenAt !== null && textOf({ ...says, writtenAt }) === there) return there;
    return textOf({ ...says, writtenAt: now.toISOString() });
  }

  /** Names in the folder, and in that of the seconds, under which records of this number stand or stood; the plain one first. */
  private async recordNames(number: string): Promise<string[]> {
    const standing = [...(await recordNamesIn(this.path)), ...(await recordNamesIn(join(this.path, SECOND_FOLDER)))];
    const written = this.known.map(({ name }) => name.slice(name.lastIndexOf('/') + 1));
    const names = [...standing, ...written].filter((name) => recordNumber(name) === number);
    return [...new Set(names)].sort((a, b) => a.length - b.length || (a < b ? -1 : 1));
  }

  private isOf(text: string, of: RecordOf): boolean {
    const record = recordText(text);
    return record !== null && isRecordOf(record, of);
  }

  /** Whose record stands under a name? One that is spoilt is ours when we wrote there and the other of the two does not say otherwise. */
  private async whose(name: string, of: RecordOf): Promise<'ours' | 'others' | 'nobody’s'> {
    const texts = [await readOwn(this.path, name), await readOwn(this.path, `${SECOND_FOLDER}/${name}`)];
    const there = texts.filter((text) => text !== null);
    if (!there.length) return 'nobody’s';
    const records = there.flatMap((text) => recordText(text) ?? []);
    if (records.some((record) => !isRecordOf(record, of))) return 'others';
    if (records.length) return 'ours';
    return this.known.some((one) => one.name === name || one.name === `${SECOND_FOLDER}/${name}`) ? 'ours' : 'others';
  }

  /** Takes away what we wrote of an intake; what is spoilt stays. */
  private async removeRecord(name: string, of: RecordOf): Promise<void> {
    for (const one of [name, `${SECOND_FOLDER}/${name}`]) {
      const there = await readOwn(this.path, one);
      if (there !== null && this.isOf(there, of)) await removeOwn(this.where.root, join(this.where.folder, one));
      this.gone.push(one);
    }
  }

  /** Is it, to the byte, what we wrote? */
  private async isAsWritten(name: string, text: string): Promise<boolean> {
    const known = this.known.find((one) => one.name === name);
    return known !== undefined && (await hashOf(Buffer.from(text))).equals(known.hash);
  }

  /**
   * Where files went that stood here once. What former houses said of that stays, apart from ours.
   * @param files null: nothing that stood there is known to stand elsewhere
   */
  async movedAway(houseId: string, files: MovedRecord['files'] | null): Promise<void> {
    const there = await readOwn(this.path, MOVED_FILE);
    const said = there === null ? null : movedText(there);
    const isOurs = said?.houseId === houseId || (there !== null && (await this.isAsWritten(MOVED_FILE, there)));
    const before = said ? [...said.before, ...(isOurs ? [] : said.files)] : [];
    // What others wrote, and we add nothing to, is left alone.
    if (!files && (!said || !isOurs)) this.gone.push(MOVED_FILE);
    else if (!files && !before.length) {
      await removeOwn(this.where.root, join(this.where.folder, MOVED_FILE));
      this.gone.push(MOVED_FILE);
    } else {
      const { folder } = this.where;
      const list = { format: 'tally-stick-moved', version: 1, folder, houseId, files: files ?? [], before };
      await this.write(MOVED_FILE, `${JSON.stringify(MovedRecord.parse(list), null, 2)}\n`, (text) => movedText(text) !== null);
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

const textOf = (record: IntakeRecord): string => `${JSON.stringify(record, null, 2)}\n`;

const split = (name: string): [folder: string, own: string] => {
  const at = name.lastIndexOf('/') + 1;
  return [name.slice(0, at), name.slice(at)];
};

const hashedFile = ({ name, hash, bytes, modifiedAt, talliedAt }: TalliedFile): HashList['files'][number] => ({
  ...{ path: name, bytes, modifiedAt: modifiedAt.toISOString(), hashedAt: talliedAt.toISOString(), hashes: { xxh128: hash } },
});
