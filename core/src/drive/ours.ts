import { CHECKSUM_FILE, HASH_LIST_FOLDER } from '../manifest/index.js';
import { folderOf, nameOf } from '../rule/index.js';

/** Tray on a place for what should not stand there: put aside, kept for its days. */
export const ASIDE_FOLDER = '_put-aside';
/** Where a house may have moved what others put on a place by hand. */
export const BY_HAND_FOLDER = '_arrived-by-hand';
/** Says in a folder what stood there once and where it went. */
export const MOVED_FILE = 'moved-away.json';

const HOUSE_RECORD = /^house-record(-[0-9a-f]{8})?\.json$/;
/**
 * What the house record at the root of a place is called: what the house knows of people, assignments, words and cards.
 * @param houseId UUID; of its own name where another house's stands there
 */
export const houseRecordName = (houseId: string | null): string =>
  `house-record${houseId === null ? '' : `-${houseId.replaceAll('-', '').slice(-8)}`}.json`;
/** Is it what a house record is called? */
export const isHouseRecord = (path: string): boolean => HOUSE_RECORD.test(path);

/** Says at a place where the log ended each night. */
export const LOG_HEADS_FILE = 'log-heads.txt';

/** The folder, in one that has records, in which each of them stands a second time: what is spoilt in one place is whole in the other. */
export const SECOND_FOLDER = '.tally-second';

/** Folder of the house's backups, at a place that has some. */
export const BACKUP_FOLDER = '_tally-backups';

const RECORD = /^intake-.+\.json$/;
/** Folders of ours: in those that they explain, and that of the backups. */
const OWN_FOLDERS: readonly string[] = [HASH_LIST_FOLDER, SECOND_FOLDER, BACKUP_FOLDER];

/**
 * What we write beside filed files, told by its name: lists, records, marks, temporary files. Whether what stands under
 * such a name is really ours, its content tells.
 */
export function isOurs(path: string): boolean {
  const name = nameOf(path);
  return (
    name === CHECKSUM_FILE ||
    name === MOVED_FILE ||
    RECORD.test(name) ||
    path === LOG_HEADS_FILE ||
    HOUSE_RECORD.test(path) ||
    name.startsWith('.tally-') ||
    path.split('/').some((part) => OWN_FOLDERS.includes(part))
  );
}

/** The folder that is explained by what stands in a folder: that itself, or the one that a folder of ours stands in. */
export const explainedBy = (folder: string): string => (OWN_FOLDERS.includes(nameOf(folder)) ? folderOf(folder) : folder);

/** Is it a folder in which only we write? */
export const isOwnFolder = (name: string): boolean => OWN_FOLDERS.includes(name);

/** Name that a file has while others of the same mend take its place. @param n given once in a mend. */
export const temporaryName = (mendId: number, n: number): string => `.tally-mend-${mendId}-${n}.part`;

/** Is a path such a name? */
export const isTemporary = (path: string): boolean => nameOf(path).startsWith('.tally-mend-');

/** Is a path the name of something that is being made, or was not made to its end? */
export const isHalfMade = (path: string): boolean => nameOf(path).startsWith('.tally-') && path.endsWith('.part');

/** Does it lie in the tray of what was put aside? */
export const isAside = (path: string): boolean => path === ASIDE_FOLDER || path.startsWith(`${ASIDE_FOLDER}/`);

const NUMBERED = /^intake-(\d{4}-\d{4,})(?:-\d+)?\.json$/;

/** Number of an intake whose record a file's name says it is; null: none. */
export const recordNumber = (name: string): string | null =>
  NUMBERED.exec(name)?.[1] ?? /^intake-(.+)\.json$/.exec(name)?.[1] ?? null;

/** What the record of an intake is called. @param nth from 2 on where others of that number stand there */
export const recordName = (number: string, nth = 1): string => `intake-${number}${nth > 1 ? `-${nth}` : ''}.json`;
