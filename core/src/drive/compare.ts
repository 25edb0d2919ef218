import { kindOf, stemOf } from '../card/index.js';
import type { CopyState } from '../copies/index.js';
import { sidecarOf } from '../fields/index.js';
import { foldName, folderOf, mendName, nameFaults, nameOf, PATH_CHARS_MAX, pathIn } from '../rule/index.js';
import { finding, type Finding } from './finding.js';
import { isHalfName, leftoverReason } from './leftovers.js';
import { isOurs } from './ours.js';

/** A file as it stands at a place. */
export interface Stood {
  /** From the place's root, `/` between folders; what is not UTF-8 is U+FFFD. */
  readonly path: string;
  readonly bytes: number;
  /** Milliseconds since 1970. */
  readonly modifiedMs: number;
  /** Why it is not looked at further: a link, a device, bytes that are no UTF-8; null: a regular file. */
  readonly problem: string | null;
}

/** A copy as the logbook has it at that place. */
export interface KnownCopy {
  readonly filedItemId: number;
  readonly path: string;
  /** Of the file as it should stand there, with whatever credit was put into it. */
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly state: CopyState;
  /** Did we write a sidecar beside it? */
  readonly hasSidecar: boolean;
  /** Other devices with a copy that tallies. */
  readonly elsewhere: number;
  /** Are other copies on their way? */
  readonly waiting: boolean;
}

/** What comparing a folder comes to. */
export interface Compared {
  /** Copies that stand as they should, by size and time. */
  readonly same: readonly KnownCopy[];
  /** Copies whose size or time is another: their bytes must be looked at. */
  readonly doubtful: readonly { readonly known: KnownCopy; readonly stood: Stood }[];
  /** Copies that should stand there and do not. */
  readonly absent: readonly KnownCopy[];
  /** Files that nobody filed. */
  readonly strays: readonly Stood[];
  /** Strays that somebody may still be writing. */
  readonly half: readonly Stood[];
  /** What names and kinds alone tell. */
  readonly findings: readonly Finding[];
}

/** FAT keeps times in steps of two seconds; summer time may move what a system shows by whole hours. */
const STEP_MS = 2_000;
const HOUR_MS = 3_600_000;

/** May two file times be one, told by different file systems? */
export function isSameTime(a: number, b: number): boolean {
  const apart = Math.abs(a - b);
  if (apart <= STEP_MS) return true;
  const hours = Math.round(apart / HOUR_MS);
  return hours <= 14 && Math.abs(apart - hours * HOUR_MS) <= STEP_MS;
}

/** A copy that should stand where it is said to. */
const isDue = ({ state }: KnownCopy) => state !== 'waiting' && state !== 'copying';

interface Around {
  /** Is somebody still at this file? What is, is no stray yet. */
  readonly writtenLately?: (file: Stood) => boolean;
  /** Length of what people write before a path, in UTF-16 units. */
  readonly prefixLength?: number;
  /** Is it a folder of a camera's tree? What belongs to a clip may stand in another one. */
  readonly inTree?: boolean;
  /** Names that a list of filed files in the folder holds: a house filed them, this one or one before it. */
  readonly listed?: ReadonlySet<string>;
}

/** Compares what stands in one folder with what the logbook has in it. */
export function compareFolder(stood: readonly Stood[], known: readonly KnownCopy[], around: Around = {}): Compared {
  const { writtenLately = () => false, prefixLength = 0, inTree = false, listed = new Set<string>() } = around;
  const same: KnownCopy[] = [];
  const doubtful: { known: KnownCopy; stood: Stood }[] = [];
  const strays: Stood[] = [];
  const half: Stood[] = [];
  const findings: Finding[] = [];
  const byPath = new Map(known.map((one) => [one.path, one]));
  const found = new Set<string>();
  const stems = new Set<string>();
  const folded = new Map<string, string>();
  const sidecars = new Set(known.filter(({ hasSidecar }) => hasSidecar).map(({ path }) => sidecarOf(path)));
  for (const { path } of stood) stems.add(stemPath(path));

  for (const file of stood) {
    const { path } = file;
    const copy = byPath.get(path);
    if (copy) {
      found.add(path);
      if (file.problem !== null) findings.push(finding('odd', path, { filedItemId: copy.filedItemId, what: file.problem }));
      else if (file.bytes === copy.bytes && isSameTime(file.modifiedMs, copy.modifiedMs)) same.push(copy);
      else if (isDue(copy)) doubtful.push({ known: copy, stood: file });
    }
    if (isOurs(path) || sidecars.has(path)) continue;
    const key = foldName(path);
    const other = folded.get(key);
    if (other === undefined) folded.set(key, path);
    else findings.push(finding('case apart', path, { other, filedItemId: copy?.filedItemId ?? null }));
    if (copy) {
      findings.push(...nameFindings(path, copy.filedItemId, prefixLength));
      continue;
    }
    if (file.problem !== null) findings.push(finding('odd', path, { what: file.problem }));
    else judgeStray(file);
  }

  function judgeStray(file: Stood): void {
    const { path } = file;
    const reason = leftoverReason(path);
    // A sidecar that a house wrote beside what it filed goes with that.
    if (isListedSidecar(path)) return;
    if (reason !== null) findings.push(finding('leftover', path, { what: reason }));
    else if (isHalfName(path) || writtenLately(file)) half.push(file);
    else if (!inTree && kindOf(path) === 'sidecar' && !listed.has(nameOf(path)) && isAlone(path))
      findings.push(finding('left alone', path));
    else strays.push(file);
    if (reason === null) findings.push(...nameFindings(path, null, prefixLength));
  }

  function isListedSidecar(path: string): boolean {
    const of = path.slice(0, -sidecarOf('').length);
    return listed.has(nameOf(path)) && path === sidecarOf(of) && listed.has(nameOf(of)) && !byPath.has(of);
  }

  /** `a.jpg.xmp` belongs to `a.jpg`, `a.xmp` to whatever is called `a`. */
  function isAlone(path: string): boolean {
    const of = path.slice(0, path.lastIndexOf('.'));
    if (byPath.has(of) || folded.has(foldName(of))) return false;
    return !stood.some((one) => one.path !== path && (one.path === of || stemPath(one.path) === stemPath(path)));
  }

  const absent = known.filter((one) => !found.has(one.path) && isDue(one));
  return { same, doubtful, absent, strays, half, findings };
}

const stemPath = (path: string) => pathIn(folderOf(path), stemOf(nameOf(path)));

/**
 * What is wrong with the last name of a path, whoever gave it; the folders above have names of their own.
 * @param prefixLength of what the share is called where people open it, in characters.
 */
export function nameFindings(path: string, filedItemId: number | null, prefixLength = 0): Finding[] {
  const name = nameOf(path);
  const isLong = prefixLength + path.length > PATH_CHARS_MAX;
  if (mendName(name) === name && !isLong) return [];
  const faults = nameFaults(name);
  const illegal = faults.filter((fault) => !isAboutLength(fault));
  const long = faults.filter(isAboutLength);
  if (isLong) long.push(`its path has ${prefixLength + path.length} characters, more than ${PATH_CHARS_MAX}`);
  return [
    ...(illegal.length ? [finding('illegal', path, { filedItemId, what: illegal.join('; ') })] : []),
    ...(long.length ? [finding('too long', path, { filedItemId, what: long.join('; ') })] : []),
  ];
}

const isAboutLength = (fault: string) => fault.includes('longer');
