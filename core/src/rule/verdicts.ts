import { adversaries, isImagined } from './adversaries.js';
import { atomsOf, type Atom, type ValueAtom } from './atoms.js';
import { determinedAtoms, isDetermined } from './determined.js';
import { EXAMPLE, type RuleContext } from './fields.js';
import { allLines, linesFor, OWN_LINES_KINDS, type HouseRule, type Lines } from './house-rule.js';
import { foldName, mendName, nameFaults, utf8Bytes } from './legal-name.js';
import { LOWER, PUNCTUATION, sortsIn, SPACE, UPPER } from './letters.js';
import { nameItems, type Named } from './numbering.js';
import { readField, readPath, shapesOf, type Reading } from './read-back.js';
import { followTime, keyOf, type Progress } from './time-order.js';

export const VERDICTS = ['unique', 'in time order', 'legal everywhere', 'within length', 'reads back'] as const;
export type VerdictName = (typeof VERDICTS)[number];

export interface Verdict {
  readonly name: VerdictName;
  /** `holds` is shown by the parts of the rule; `open`: neither that nor a counterexample was found. */
  readonly outcome: 'holds' | 'fails' | 'open';
  readonly because: string;
  /** When it fails: what shows it, an item or a meaning with the path it has. */
  readonly counterexample: readonly { readonly of: string; readonly path: string }[];
}

/** What is known of the house, for the longest names. */
export interface KnownValues {
  readonly contributors: readonly NonNullable<RuleContext['contributor']>[];
  readonly assignments: readonly NonNullable<RuleContext['assignment']>[];
  readonly cameras: readonly RuleContext['camera'][];
  readonly labels: readonly string[];
}

export interface Trial {
  /** Real items in the order of their numbers. */
  readonly items?: readonly RuleContext[];
  readonly known?: KnownValues;
  /** How the share is called where people open it, such as `\\server\pictures` or `/Volumes/Pictures`. */
  readonly sharePrefix?: string;
}

/** Characters of a path, its end mark left out. Source: Microsoft, "Maximum Path Length Limitation": MAX_PATH is 260 with it. */
export const PATH_CHARS_MAX = 259;

/** Verdicts without which a rule cannot be the house rule: names would be refused or run into each other. */
export const NEEDED_VERDICTS: readonly VerdictName[] = ['unique', 'legal everywhere'];

/** The five verdicts on a rule: by its parts, and by a search over real items and items made to break it. */
export function judgeRule(rule: HouseRule, trial: Trial = {}): Verdict[] {
  const base = trial.items?.[0] ?? EXAMPLE;
  const tried = nameItems(rule, [...(trial.items ?? []), ...adversaries(rule, base)]);
  const legal = legalEverywhere(rule);
  const back = readsBack(rule, tried, legal.outcome === 'holds');
  return [unique(rule, tried, back), inTimeOrder(rule, tried), legal, withinLength(rule, tried, trial), back.verdict];
}

const holds = (name: VerdictName, because: string): Verdict => ({ name, outcome: 'holds', because, counterexample: [] });
const open = (name: VerdictName, because: string): Verdict => ({ name, outcome: 'open', because, counterexample: [] });
const fails = (name: VerdictName, because: string, ...counterexample: Verdict['counterexample'][number][]): Verdict => ({
  name,
  outcome: 'fails',
  because,
  counterexample,
});

function describe({ context }: Named): string {
  const who = context.contributor?.code ?? 'nobody';
  const what = `${context.original}, ${context.captured.slice(0, 19).replace('T', ' ')}, ${who}`;
  return isImagined(context) ? `imagined: ${what}` : `${what}, intake ${context.intake ?? 'new'}`;
}

const shown = (named: Named) => ({ of: describe(named), path: named.path });

// 1 ─────────────────────────────────────────────────────────────────────────────────────────────────────────────────

function unique(rule: HouseRule, tried: readonly Named[], back: ReadBack): Verdict {
  const seen = new Map<string, Named>();
  for (const named of tried) {
    const key = foldName(named.path);
    const other = seen.get(key);
    if (other) return fails('unique', 'Two different items get one name.', shown(other), shown(named));
    seen.set(key, named);
  }
  const weak = allLines(rule).find(({ lines }) => !numberTellsApart(rule, lines));
  if (!weak)
    return holds(
      'unique',
      `The number can be read in every name, and what it counts within (${rule.settings.sequence.scope}) too.`,
    );
  // One name that can be read with two numbers is the name of two items, once there are that many.
  const [one, other] = back.readings;
  if (one && other && readField(one, 'n') !== readField(other, 'n')) {
    return fails('unique', 'One name says two things: items with either would get it.', ...back.verdict.counterexample);
  }
  return open('unique', 'No two of the items tried get one name, but the parts of the rule do not rule it out.');
}

/** Does the number, with its scope, make every name of these lines another one? */
function numberTellsApart(rule: HouseRule, lines: Lines): boolean {
  const levels = levelsOf(rule, lines);
  if (levels === null) return false;
  const file = levels.at(-1)!;
  const told = new Set(levels.flatMap((level) => [...determinedAtoms(level)]));
  const readable = (test: (atom: ValueAtom) => boolean) => [...told].some((atom) => atom.type === 'value' && test(atom));
  const day = ['yyyy|uuuu', 'MM?|LL?|MMMM|LLLL', 'dd?'].every((pattern) =>
    readable(({ name, pattern: written }) => name === 'captured' && new RegExp(`^(${pattern})$`).test(written ?? '')),
  );
  const field = (name: string) => readable((atom) => atom.name === name && atom.piece.format === null);
  const numbered = [...told].some(
    (atom) =>
      file.includes(atom) &&
      ((atom.type === 'value' && atom.name === 'n') ||
        (atom.type === 'optional' &&
          atom.atoms.some((inner) => inner.type === 'value' && inner.name === 'n') &&
          atom.atoms.every((inner) => inner.type === 'text' || (inner.type === 'value' && inner.name === 'n')))),
  );
  if (!numbered) return false;
  switch (rule.settings.sequence.scope) {
    case 'folder':
    case 'never ends':
    case 'same name':
      return true;
    case 'day':
      return day;
    case 'assignment':
      return field('assignment.slug');
    case 'intake':
      return field('intake');
    case 'contributor and day':
      return day && field('contributor.code');
    case 'camera and day':
      return day && field('camera');
  }
}

/** Folders and the file of a pair of lines; null when a folder may not be there at all. */
function levelsOf(rule: HouseRule, lines: Lines): Atom[][] | null {
  const known = levelsMemo.get(lines);
  if (known !== undefined) return known;
  const levels = takenApart(rule, lines);
  levelsMemo.set(lines, levels);
  return levels;
}

const levelsMemo = new WeakMap<Lines, Atom[][] | null>();

function takenApart(rule: HouseRule, lines: Lines): Atom[][] | null {
  const folders: Atom[][] = [[]];
  for (const atom of atomsOf(lines.folderLine, rule.settings)) {
    if (atom.type === 'folder') folders.push([]);
    else if (atom.type === 'optional' && atom.atoms.some(({ type }) => type === 'folder')) return null;
    else folders.at(-1)!.push(atom);
  }
  const levels = [...folders.filter((level) => level.length), atomsOf(lines.fileLine, rule.settings)];
  return levels.some((level) => level.every(({ type }) => type === 'optional')) ? null : levels;
}

// 2 ─────────────────────────────────────────────────────────────────────────────────────────────────────────────────

const isDated = (level: readonly Atom[]): boolean =>
  level.some((atom) =>
    atom.type === 'optional'
      ? isDated(atom.atoms)
      : atom.type === 'value' && ['captured', 'season', 'quarter'].includes(atom.name),
  );

function inTimeOrder(rule: HouseRule, tried: readonly Named[]): Verdict {
  const found = folderOutOfOrder(rule, tried) ?? fileOutOfOrder(tried);
  if (found) return found;
  if (allLines(rule).every(({ lines }) => followsTime(rule, lines))) {
    return holds(
      'in time order',
      'Dates come from large to small, in digits, before anything else: folders to the day, names to the second.',
    );
  }
  return open(
    'in time order',
    'Among the items tried names sort by capture time, but the parts of the rule do not show it for all.',
  );
}

function followsTime(rule: HouseRule, lines: Lines): boolean {
  const levels = levelsOf(rule, lines);
  if (levels === null) return false;
  const file = levels.at(-1)!;
  const folders = levels.slice(0, -1);
  const constant = new Set<string>();
  let progress: Progress = { fixed: 0, blocked: false };
  for (const level of folders) {
    if (isDated(level)) {
      progress = followTime(level, rule.settings, progress, constant);
      if (progress.blocked && progress.fixed < 3) return false;
      progress = { fixed: progress.fixed, blocked: false };
    }
    for (const atom of level) if (atom.type === 'value' && atom.part === null) constant.add(keyOf(atom.name, atom.piece.format));
  }
  if (folders.length && !folders.some(isDated) && folders.some((level) => level.some(({ type }) => type !== 'text')))
    return false;
  return followTime(file, rule.settings, progress, constant).fixed === 6;
}

function folderOutOfOrder(rule: HouseRule, tried: readonly Named[]): Verdict | null {
  const first = new Map<string, { parent: string; part: string; day: string; named: Named }>();
  for (const named of tried) {
    const levels = levelsOf(rule, linesFor(rule, named.context.kind))?.slice(0, -1);
    const parts = named.folder === '' ? [] : named.folder.split('/');
    if (levels?.length !== parts.length) continue;
    const dateless = !levels.some(isDated);
    for (const [index, level] of levels.entries()) {
      if (!dateless && !isDated(level)) continue;
      const parent = parts.slice(0, index).join('/');
      const key = `${parent}/${parts[index]!}`;
      const day = named.context.captured.slice(0, 10);
      const known = first.get(key);
      if (!known || day < known.day) first.set(key, { parent, part: parts[index]!, day, named });
    }
  }
  const sorted = [...first.values()].sort((a, b) => compare(a.parent, b.parent) || compare(foldName(a.part), foldName(b.part)));
  for (const [index, folder] of sorted.entries()) {
    const before = sorted[index - 1];
    if (before?.parent === folder.parent && before.day > folder.day) {
      return fails(
        'in time order',
        'A folder that begins later comes before one that begins earlier.',
        shown(before.named),
        shown(folder.named),
      );
    }
  }
  return null;
}

function fileOutOfOrder(tried: readonly Named[]): Verdict | null {
  const sorted = tried
    .map((named) => ({ named, folder: foldName(named.folder), name: foldName(named.name) }))
    .sort((a, b) => compare(a.folder, b.folder) || compare(a.name, b.name));
  const latest = new Map<string, Named>();
  for (const { named, folder } of sorted) {
    // Raw, stills and sidecars of one moment sort by their extensions; kinds may have lines of their own.
    const key = `${folder}\0${named.context.kind}`;
    const before = latest.get(key);
    if (before && before.context.captured.slice(0, 19) > named.context.captured.slice(0, 19)) {
      return fails('in time order', 'A later item sorts before an earlier one in its folder.', shown(before), shown(named));
    }
    latest.set(key, named);
  }
  return null;
}

const compare = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);

// 3 ─────────────────────────────────────────────────────────────────────────────────────────────────────────────────

/** Values are mended before they become part of a name, so only the rule's own text can be illegal. */
function legalEverywhere(rule: HouseRule): Verdict {
  for (const { lines } of allLines(rule)) {
    for (const level of rawLevels(lines, rule)) {
      const faults = nameFaults(level.text).filter((fault) => !fault.includes('NFC'));
      if (!faults.length) continue;
      return fails(
        'legal everywhere',
        `The rule's own text makes a name that some system refuses: ${faults.join(', ')}.`,
        { of: 'as the rule says', path: level.text },
        { of: 'as it would have to be', path: mendName(level.text) },
      );
    }
  }
  return holds(
    'legal everywhere',
    'Its own text is legal on Windows and SMB, exFAT, macOS and Linux; values are mended before they are used.',
  );
}

/** What a rule writes with all optional parts and with none, values as harmless as can be. */
function rawLevels(lines: Lines, rule: HouseRule): { text: string }[] {
  const write = (pieces: Lines['folderLine'], optional: boolean): string =>
    pieces
      .map((piece) => {
        if (piece.type === 'text') return piece.text;
        if (piece.type === 'optional') return optional ? write(piece.pieces, optional) : '';
        return rawValue(piece, rule);
      })
      .join('');
  return [true, false].flatMap((optional) => [
    ...write(lines.folderLine, optional)
      .split('/')
      .filter((part) => part !== '')
      .map((text) => ({ text })),
    { text: `${write(lines.fileLine, optional) || '_'}.jpg` },
  ]);
}

function rawValue(piece: Extract<Lines['folderLine'][number], { type: 'field' }>, rule: HouseRule): string {
  const atoms = atomsOf([piece], rule.settings);
  if (!atoms.some((atom) => atom.type === 'value' && atom.part)) return 'x1';
  return writeRaw(piece.format ?? 'yyyy-MM-dd');
}

// A date pattern's letters become digits, its text stays.
const writeRaw = (pattern: string) => pattern.replace(/'([^']*)'|([A-Za-z])+/g, (_, text: string | undefined) => text ?? '1');

// 4 ─────────────────────────────────────────────────────────────────────────────────────────────────────────────────

function withinLength(rule: HouseRule, tried: readonly Named[], { known, items, sharePrefix = '' }: Trial): Verdict {
  const real = tried.slice(0, items?.length ?? 0);
  const longest = [...real, ...longestKnown(rule, known, items?.[0] ?? EXAMPLE)].sort(
    (a, b) => b.path.length - a.path.length,
  )[0]!;
  const prefix = sharePrefix ? `${sharePrefix.replace(/[\\/]+$/, '')}/` : '';
  const path = `${prefix}${longest.path}`;
  const cut = [...real, longest].find((named) => named.cut);
  const example = { of: describe(longest), path };
  if (cut)
    return fails('within length', 'The longest names known do not fit into 255 bytes and would be cut.', {
      of: describe(cut),
      path: cut.path,
    });
  const over = path.length - PATH_CHARS_MAX;
  if (over > 0)
    return fails(
      'within length',
      `The longest path known is ${path.length} characters long: ${over} more than Windows opens.`,
      example,
    );
  const bytes = Math.max(...longest.path.split('/').map(utf8Bytes));
  return holds(
    'within length',
    `The longest path known has ${path.length} of ${PATH_CHARS_MAX} characters, its longest name ${bytes} of 255 bytes.`,
  );
}

/** The longest path that the values known to the house can make. */
function longestKnown(rule: HouseRule, known: KnownValues | undefined, base: RuleContext): Named[] {
  const longest = <T>(all: readonly T[], size: (one: T) => number): T | undefined =>
    all.reduce<T | undefined>((best, one) => (best === undefined || size(one) > size(best) ? one : best), undefined);
  const context: RuleContext = {
    ...base,
    captured: '2026-09-30T23:59:59',
    contributor: longest(known?.contributors ?? [], ({ code, name }) => code.length + name.length) ?? base.contributor,
    assignment:
      longest(known?.assignments ?? [], ({ slug, title, place }) => slug.length + title.length + (place?.length ?? 0)) ??
      base.assignment,
    camera: longest(known?.cameras ?? [], ({ make, model }) => `${make ?? ''}${model ?? ''}`.length) ?? base.camera,
    cardLabel: longest(known?.labels ?? [], (label) => label.length) ?? base.cardLabel,
  };
  const numbers = { ...rule, settings: { ...rule.settings, sequence: { ...rule.settings.sequence, start: 99_999 } } };
  return OWN_LINES_KINDS.filter((kind) => kind === 'photo' || rule.kinds[kind]).flatMap((kind) =>
    nameItems(numbers, [{ ...context, kind }]),
  );
}

// 5 ─────────────────────────────────────────────────────────────────────────────────────────────────────────────────

/** Names that are read although they need not be. */
const SAMPLE = 600;

interface ReadBack {
  readonly verdict: Verdict;
  /** Two readings of one name, where there is such a name. */
  readonly readings: readonly Reading[];
}

function readsBack(rule: HouseRule, tried: readonly Named[], legal: boolean): ReadBack {
  const sure = legal && allLines(rule).every(({ lines }) => surelyReadable(rule, lines));
  // What the parts of the rule show needs no search; some names are read all the same, to be told if that is ever wrong.
  const searched = sure && tried.length > 2 * SAMPLE ? [...tried.slice(0, SAMPLE), ...tried.slice(-SAMPLE)] : tried;
  for (const named of searched) {
    const readings = readPath(rule, named.path);
    const [first, second] = readings;
    const meant = meaning(named.written);
    if (first && !second && meaning(first.fields) === meant) continue;
    const others = readings.filter(({ fields }) => meaning(fields) !== meant);
    const because = others.length ? 'One name can be read in two ways.' : 'A name cannot be read back.';
    const [other] = others;
    const counterexample = [{ of: meant, path: named.path }, ...(other ? [{ of: meaning(other.fields), path: named.path }] : [])];
    return {
      verdict: fails('reads back', because, ...counterexample),
      readings: other ? [{ fields: named.written }, other] : [],
    };
  }
  const verdict = sure
    ? holds('reads back', 'Every field can be told from its neighbours in every name.')
    : open('reads back', 'Every name tried can be read in one way only, but the parts of the rule do not show it for all.');
  return { verdict, readings: [] };
}

const meaning = (fields: Named['written']): string =>
  fields.map(({ name, format, text }) => `${name}${format === null ? '' : `:${format}`} = ${text}`).join(', ');

function surelyReadable(rule: HouseRule, lines: Lines): boolean {
  const levels = levelsOf(rule, lines);
  if (!levels?.every(isDetermined)) return false;
  // A name without an extension keeps no dots: a rule's own would not be found in it.
  if (levels.at(-1)!.some(hasDot)) return false;
  const shapes = shapesOf(lines, rule).flatMap((shape) => shape.levels);
  return shapes.every((level) => !mayBeTrimmed(level) && !mayBeDevice(level)) && textLength(levels) <= 120;
}

function hasDot(atom: Atom): boolean {
  if (atom.type === 'optional') return atom.atoms.some(hasDot);
  return atom.type === 'text'
    ? atom.text.includes('.')
    : atom.type === 'value' && (atom.words ?? []).some((word) => word.includes('.'));
}

const textLength = (levels: readonly (readonly Atom[])[]): number =>
  levels.flat().reduce((sum, atom) => sum + (atom.type === 'text' ? atom.text.length : 0), 0);

/** Could the level's own text be changed where it begins, ends or meets a value? */
function mayBeTrimmed(level: readonly Atom[]): boolean {
  const [first, last] = [level[0], level.at(-1)];
  if (first?.type === 'text' && /^[. ]/.test(first.text)) return true;
  if (last?.type === 'text' && /[. ]$/.test(last.text)) return true;
  return level.some((atom) => atom.type === 'text' && !/^[\u0020-\u007e]*$/.test(atom.text));
}

/** Could a name of this level be that of a device on Windows: a word like `con`, alone or before a dot? */
function mayBeDevice(level: readonly Atom[]): boolean {
  const [first] = level;
  if (first?.type === 'value' && !(first.letters.set & (UPPER | LOWER))) return false;
  if (first?.type === 'text' && /^([^A-Za-z]|[A-Za-z0-9]*[-_])/.test(first.text)) return false;
  const sorts = level.reduce(
    (set, atom) => set | (atom.type === 'text' ? sortsIn(atom.text) : atom.type === 'value' ? atom.letters.set : 0),
    0,
  );
  const joined = level.some((atom) => atom.type === 'text' && /[-_]/.test(atom.text));
  return !joined || (sorts & (PUNCTUATION | SPACE)) !== 0;
}
