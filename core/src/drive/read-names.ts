import { extensionOf, stemOf } from '../card/index.js';
import { type HouseRule, proposeSlug, readPath, slug, type Reading, type RuleSettings } from '../rule/index.js';
import { dayOf, findDay, readByPattern, type DayParts } from './read-date.js';

/** A rule that names may have been made by. */
export interface Reader {
  /** As a person is told: *today's rule*, *revision 3*, *starter “Quarters”*. */
  readonly name: string;
  readonly rule: HouseRule;
}

/** Whom and what the house knows, to understand names by. */
export interface HouseLists {
  /** `codes`: the one somebody has and those they had. */
  readonly contributors: readonly { readonly id: number; readonly name: string; readonly codes: readonly string[] }[];
  readonly assignments: readonly {
    readonly id: number;
    readonly slug: string;
    readonly title: string;
    readonly from: string | null;
    readonly to: string | null;
  }[];
}

/** What a path says of the file that stands there. */
export interface PathSays {
  /** `yyyy-MM-dd`. */
  readonly day: string | null;
  /** `yyyy-MM` where it says no day. */
  readonly month: string | null;
  readonly contributorId: number | null;
  readonly assignmentId: number | null;
  /** Title of an assignment that the house does not know yet. */
  readonly title: string | null;
  readonly n: number | null;
  /** What it was read by. */
  readonly by: string;
}

/** Made once of what the house knows: looked up for every name. */
export class NameReader {
  private readonly byCode = new Map<string, number>();
  private readonly byName = new Map<string, number>();
  private readonly bySlug = new Map<string, number[]>();
  private readonly slugs = new Map<string, number>();
  private readonly assignments: ReadonlyMap<number, HouseLists['assignments'][number]>;

  constructor(
    private readonly readers: readonly Reader[],
    lists: HouseLists,
  ) {
    for (const { id, name, codes } of lists.contributors) {
      for (const code of codes) this.byCode.set(code.toUpperCase(), id);
      this.byName.set(slug(name), id);
    }
    for (const one of lists.assignments) this.slugs.set(one.slug, one.id);
    for (const one of lists.assignments)
      for (const key of new Set([one.slug, slug(one.title), proposeSlug(one.title)]))
        this.bySlug.set(key, [...(this.bySlug.get(key) ?? []), one.id]);
    this.assignments = new Map(lists.assignments.map((one) => [one.id, one]));
  }

  /** Reads one path: by the first rule that can have made it, else by its words. */
  read(path: string): PathSays {
    for (const { name, rule } of this.readers) {
      const readings = readPath(rule, path, 2);
      // Two ways to read it are no reading, unless both say the same of what matters.
      const said = readings.map((reading) => this.understood(reading, rule.settings, name));
      const [first, second] = said;
      if (first && first.day !== null && (!second || isAlike(first, second))) return first;
    }
    return this.byWords(path);
  }

  private understood(reading: Reading, settings: RuleSettings, by: string): PathSays {
    let parts: DayParts = {};
    let contributorId: number | null = null;
    let wanted: string | null = null;
    let title: string | null = null;
    let n: number | null = null;
    for (const { name, format, text } of reading.fields) {
      if (name === 'captured') parts = { ...parts, ...readByPattern(text, format ?? 'yyyy-MM-dd', settings.language) };
      else if (name === 'contributor.code') contributorId ??= this.byCode.get(text.toUpperCase()) ?? null;
      else if (name === 'contributor.name') contributorId ??= this.byName.get(slug(text)) ?? null;
      else if (name === 'assignment.slug') wanted ??= text;
      else if (name === 'assignment.title') title ??= text;
      else if (name === 'n') n ??= Number(text);
    }
    const day = dayOf(parts);
    // A short name is one assignment's, whatever day it was; a title may come again every year.
    const bySlug = title === null && wanted !== null ? this.slugs.get(wanted) : undefined;
    const assignmentId = bySlug ?? this.assignmentFor(title ?? wanted, day);
    const said = title ?? (wanted === null ? null : unslugged(wanted));
    return { day, month: monthOf(parts), contributorId, assignmentId, title: assignmentId === null ? said : null, n, by };
  }

  /** By what stands in it: days and months as people write them, names and codes of the house, and the words that are left. */
  private byWords(path: string): PathSays {
    const levels = path.split('/');
    const file = levels.pop() ?? '';
    let parts: DayParts = {};
    let contributorId: number | null = null;
    let assignmentId: number | null = null;
    let title: string | null = null;
    // What stands nearer to the file says more.
    for (const level of levels) {
      const found = findDay(level);
      if (found?.year !== undefined) parts = deeper(parts, found);
      else if (/^(0[1-9]|1[0-2])$/.test(level) && parts.year !== undefined) parts = { ...parts, month: Number(level) };
      const words = (found?.rest ?? level).replace(/[_.]+/g, ' ').trim();
      contributorId = this.contributorIn(words) ?? contributorId;
      const known = this.assignmentFor(words, dayOf(parts));
      if (known !== null) [assignmentId, title] = [known, null];
      else if (isTelling(words) && this.contributorIn(words) === null) [assignmentId, title] = [null, tidy(words)];
    }
    const stem = extensionOf(file) ? stemOf(file) : file;
    const inName = findDay(stem);
    if (dayOf(parts) === null && inName && dayOf(inName) !== null) parts = inName;
    contributorId = this.contributorIn(inName?.rest ?? stem) ?? contributorId;
    const n = /(\d{1,6})\D*$/.exec(inName?.rest ?? stem)?.[1];
    return {
      ...{ day: dayOf(parts), month: monthOf(parts), contributorId, assignmentId, title },
      ...{ n: n === undefined ? null : Number(n), by: 'its words' },
    };
  }

  private contributorIn(words: string): number | null {
    const whole = this.byName.get(slug(words));
    if (whole !== undefined) return whole;
    for (const [name, id] of this.byName) if (name.includes('-') && `-${slug(words)}-`.includes(`-${name}-`)) return id;
    // A code is written in capitals: `IB`, not the beginning of a word.
    for (const word of words.split(/[^\p{L}\p{N}]+/u)) {
      if (word.length < 2 || word !== word.toUpperCase() || /^\d+$/.test(word)) continue;
      const id = this.byCode.get(word);
      if (id !== undefined) return id;
    }
    return null;
  }

  /** The one of that name on whose days it was; of one without a day, the only one. */
  private assignmentFor(words: string | null, day: string | null): number | null {
    if (!words) return null;
    const ids = this.bySlug.get(slug(words)) ?? this.bySlug.get(proposeSlug(words)) ?? [];
    const onDay = ids.filter((id) => {
      const { from, to } = this.assignments.get(id)!;
      return day !== null && from !== null && from <= day && day <= (to ?? from);
    });
    return onDay[0] ?? (day === null && ids.length === 1 ? ids[0]! : null);
  }
}

const isAlike = (a: PathSays, b: PathSays) =>
  a.day === b.day && a.contributorId === b.contributorId && a.assignmentId === b.assignmentId && a.title === b.title;

const monthOf = ({ year, month }: DayParts): string | null =>
  year === undefined || month === undefined ? null : `${String(year).padStart(4, '0')}-${String(month).padStart(2, '0')}`;

/** A folder of a day inside one of a month says more; one of another year begins anew. */
function deeper(above: DayParts, { year, month, day }: DayParts): DayParts {
  const found = {
    ...(year === undefined ? {} : { year }),
    ...(month === undefined ? {} : { month }),
    ...(day === undefined ? {} : { day }),
  };
  return above.year === year ? { ...above, ...found } : found;
}

/** Names that say nothing of what is in a folder. */
const EMPTY_NAMES =
  /^(new folder|untitled( folder)?|unsorted|misc|various|temp|photos?|pictures?|images?|raws?|jpe?gs?|videos?|clips?|sound|audio|selects?|edits?|originals?|dcim|\d{3}[a-z0-9_]{5}|copy|backup|old)( ?\(?\d+\)?)?$/i;

const isTelling = (words: string): boolean => /\p{L}{3}/u.test(words) && !EMPTY_NAMES.test(words);

const tidy = (words: string): string => {
  const text = words.replace(/[-_ ]+/g, ' ').trim();
  return text === text.toLowerCase() ? text.charAt(0).toUpperCase() + text.slice(1) : text;
};

const unslugged = (text: string): string => tidy(text.replaceAll('-', ' '));

/** What the files of one folder come to, and what has to be asked of it. */
export interface FolderSays {
  readonly folder: string;
  readonly files: number;
  readonly bytes: number;
  readonly from: string | null;
  readonly to: string | null;
  readonly contributorId: number | null;
  readonly assignmentId: number | null;
  readonly title: string | null;
  /** What most of it was read by. */
  readonly by: string;
  /** How many names said a day by themselves. */
  readonly read: number;
  readonly asks: readonly ('contributor' | 'assignment' | 'day')[];
}

/** Puts together what the names of a folder say: what most of them say; days from the first to the last. */
export function folderSays(folder: string, files: readonly { readonly bytes: number; readonly says: PathSays }[]): FolderSays {
  const days = files.flatMap(({ says }) => says.day ?? []).sort();
  const contributorId = most(files.map(({ says }) => says.contributorId));
  const assignmentId = most(files.map(({ says }) => says.assignmentId));
  const title = assignmentId === null ? most(files.map(({ says }) => says.title)) : null;
  const asks: FolderSays['asks'][number][] = [];
  if (contributorId === null) asks.push('contributor');
  if (assignmentId === null) asks.push('assignment');
  if (!days.length) asks.push('day');
  return {
    ...{ folder, files: files.length, bytes: files.reduce((sum, { bytes }) => sum + bytes, 0) },
    ...{ from: days[0] ?? null, to: days.at(-1) ?? null, contributorId, assignmentId, title },
    ...{ by: most(files.map(({ says }) => says.by)) ?? 'its words', read: days.length, asks },
  };
}

function most<T extends string | number>(values: readonly (T | null)[]): T | null {
  const counts = new Map<T, number>();
  for (const value of values) if (value !== null) counts.set(value, (counts.get(value) ?? 0) + 1);
  let best: T | null = null;
  for (const [value, count] of counts) if (best === null || count > counts.get(best)!) best = value;
  return best;
}
