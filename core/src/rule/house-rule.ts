import { DAY_BEGINS } from '../capture/index.js';
import { KINDS, type Kind } from '../card/index.js';
import { own } from '../lookup/index.js';
import { LANGUAGES } from './date-pattern.js';
import type { FieldName } from './fields.js';
import { fieldsOf, parseLine, type Piece, type RuleError } from './line.js';
import { checkSeason } from './season.js';
import { settingsOf, type RuleSettings, type SaidSettings } from './settings.js';

/** The house's default: months in years, days with the assignment's slug, date + code + number. */
export const DEFAULT_RULE = {
  folderLine: '{captured:yyyy}/{captured:yyyy-MM}/{captured:yyyy-MM-dd}_{assignment.slug}',
  fileLine: '{captured:yyyyMMdd}_{contributor.code}_{n:0000}',
} as const;

export interface SourceLines {
  readonly folderLine: string;
  readonly fileLine: string;
}

/** Lines of a kind: what is not said follows the general line. */
export interface KindLines {
  readonly folderLine?: string | undefined;
  readonly fileLine?: string | undefined;
}

/** Kinds that can have lines of their own. Sidecars follow what they belong to. */
export const OWN_LINES_KINDS = ['photo', 'raw', 'video', 'sound', 'other'] as const satisfies readonly Kind[];
export type OwnLinesKind = (typeof OWN_LINES_KINDS)[number];

/** A house rule as it is written, stored and exchanged. Kinds without lines of their own follow the general ones. */
export interface RuleSource extends SourceLines {
  readonly kinds?: Readonly<Partial<Record<OwnLinesKind, KindLines | undefined>>> | undefined;
  readonly settings?: SaidSettings | undefined;
}

export interface Lines {
  readonly folderLine: readonly Piece[];
  readonly fileLine: readonly Piece[];
}

export interface HouseRule extends Lines {
  readonly kinds: Readonly<Partial<Record<OwnLinesKind, Lines>>>;
  /** Folder line under which what is kept as on the card stands. */
  readonly cardLine: readonly Piece[];
  readonly settings: RuleSettings;
}

/** Which part of a rule an error is in. `kind` is null for the general lines. */
export interface RuleFault {
  readonly line: 'folder' | 'file' | 'card' | 'settings';
  readonly kind: OwnLinesKind | null;
  readonly error: RuleError;
}

export type ParsedRule = { readonly ok: true; readonly rule: HouseRule } | ({ readonly ok: false } & RuleFault);

class Fault extends Error {
  constructor(readonly fault: RuleFault) {
    super(fault.error.message);
  }
}

/** Parses all lines and checks the settings. The file line may not make folders. */
export function parseRule(source: RuleSource): ParsedRule {
  try {
    const general = parseLines(source, null);
    const kinds: Partial<Record<OwnLinesKind, Lines>> = {};
    for (const kind of OWN_LINES_KINDS) {
      const own = source.kinds?.[kind];
      if (own?.folderLine === undefined && own?.fileLine === undefined) continue;
      kinds[kind] = parseLines(
        { folderLine: own.folderLine ?? source.folderLine, fileLine: own.fileLine ?? source.fileLine },
        kind,
      );
    }
    const settings = settingsOf(source.settings);
    const wrong = settingsFault(settings);
    if (wrong) throw new Fault({ line: 'settings', kind: null, error: { message: wrong, span: { from: 0, to: 0 } } });
    return { ok: true, rule: { ...general, kinds, settings, cardLine: parseCardLine(source, settings) } };
  } catch (error) {
    if (error instanceof Fault) return { ok: false, ...error.fault };
    throw error;
  }
}

/** A rule that is known to be one. @throws RangeError when it is not. */
export function ruleOf(source: RuleSource): HouseRule {
  const parsed = parseRule(source);
  if (!parsed.ok) throw new RangeError(parsed.error.message);
  return parsed.rule;
}

/** In it a card has its own folder: two cards of one day would run into each other. */
const CARD_FOLDER = '{intake}[_{card.label}]';

/** The folder line of what is kept as on the card: the house's own, or the general one and in it a folder for the card. */
export function cardLineOf(folderLine: string, { asOnCard }: RuleSettings): string {
  const general = folderLine.replace(/\/+\s*$/, '');
  return asOnCard.folderLine ?? (general ? `${general}/${CARD_FOLDER}` : CARD_FOLDER);
}

function parseCardLine(source: RuleSource, settings: RuleSettings): readonly Piece[] {
  const parsed = parseLine(cardLineOf(source.folderLine, settings));
  if (!parsed.ok) throw new Fault({ line: 'card', kind: null, error: parsed.error });
  const number = fieldSpan(parsed.pieces, 'n');
  if (number) {
    const message = 'What is kept as on the card has the names of the card: there is no number in the sequence.';
    throw new Fault({ line: 'card', kind: null, error: { message, span: number } });
  }
  return parsed.pieces;
}

function parseLines(source: SourceLines, kind: OwnLinesKind | null): Lines {
  const folder = parseLine(source.folderLine);
  if (!folder.ok) throw new Fault({ line: 'folder', kind, error: folder.error });
  const file = parseLine(source.fileLine);
  if (!file.ok) throw new Fault({ line: 'file', kind, error: file.error });
  const fault = (line: 'folder' | 'file', message: string, from: number, to: number) =>
    new Fault({ line, kind, error: { message, span: { from, to } } });
  const slash = firstSlash(file.pieces);
  if (slash) throw fault('file', 'The file line names a file; folders belong into the folder line.', slash.from, slash.to);
  if (!file.pieces.length) throw fault('file', 'The file line is empty: a file needs a name.', 0, 0);
  const number = fieldSpan(folder.pieces, 'n');
  if (number) throw fault('folder', 'A number in the sequence belongs into the file line.', number.from, number.to);
  return { folderLine: folder.pieces, fileLine: file.pieces };
}

function firstSlash(pieces: readonly Piece[]): Piece['span'] | null {
  for (const piece of pieces) {
    if (piece.type === 'text' && /[/\\]/.test(piece.text)) return piece.span;
    const inner = piece.type === 'optional' ? firstSlash(piece.pieces) : null;
    if (inner) return inner;
  }
  return null;
}

function fieldSpan(pieces: readonly Piece[], name: FieldName): Piece['span'] | null {
  for (const piece of pieces) {
    if (piece.type === 'field' && piece.name === name) return piece.span;
    const inner = piece.type === 'optional' ? fieldSpan(piece.pieces, name) : null;
    if (inner) return inner;
  }
  return null;
}

function settingsFault({ season, language, sequence, day }: RuleSettings): string | null {
  if (!DAY_BEGINS.test(day.begins)) return `A day begins between 00:00 and 12:59, not at "${day.begins}".`;
  if (own(LANGUAGES, language) === undefined)
    return `Month names can be written in ${Object.keys(LANGUAGES).join(', ')}, not in "${language}".`;
  if (!Number.isInteger(sequence.start) || sequence.start < 0) return 'A sequence begins with a whole number, 0 or more.';
  return checkSeason(season);
}

/** What is kept as on the card, as if it were named by lines: its folder, and in it the card's own name. */
export const linesOfCard = ({ cardLine }: HouseRule): Lines => ({ folderLine: cardLine, fileLine: OWN_NAME });
const OWN_NAME: readonly Piece[] = [
  { type: 'field', name: 'original', format: null, span: { from: 0, to: '{original}'.length } },
];

/** The lines that an item of a kind follows. */
export const linesFor = (rule: HouseRule, kind: Kind): Lines => (kind === 'sidecar' ? rule : (rule.kinds[kind] ?? rule));

/** Every distinct pair of lines with the kinds that follow it; the general pair is first. */
export function allLines(rule: HouseRule): { lines: Lines; kinds: Kind[] }[] {
  const general = KINDS.filter((kind) => linesFor(rule, kind) === rule);
  const own = OWN_LINES_KINDS.flatMap((kind) => (rule.kinds[kind] ? [{ lines: rule.kinds[kind], kinds: [kind] }] : []));
  return [{ lines: rule, kinds: general }, ...own];
}

/** Does a pair of lines number its files? */
export function hasSequence(lines: Lines): boolean {
  const known = sequences.get(lines) ?? fieldsOf(lines.fileLine).some((field) => field.name === 'n');
  sequences.set(lines, known);
  return known;
}

const sequences = new WeakMap<Lines, boolean>();

/** Does a rule date by the day of handing in or filing, and never by that of capture? */
export function datedByCopying(rule: HouseRule): boolean {
  return allLines(rule).some(({ lines }) => {
    const names = [...fieldsOf(lines.folderLine), ...fieldsOf(lines.fileLine)].map(({ name }) => name);
    return !names.some((name) => DATES.captured.has(name)) && names.some((name) => DATES.copying.has(name));
  });
}

const DATES = {
  captured: new Set<FieldName>(['captured', 'season', 'quarter']),
  copying: new Set<FieldName>(['received', 'filed']),
};

/** Fields outside optional parts, of all lines that give names: what the slip must say before anything can be named. */
export function neededFields(rule: HouseRule): Set<FieldName> {
  if (rule.settings.asOnCard.card) return new Set();
  const all = allLines(rule).flatMap(({ lines }) => [...fieldsOf(lines.folderLine), ...fieldsOf(lines.fileLine)]);
  return new Set(all.filter((field) => !field.optional).map((field) => field.name));
}

/** The same for what is kept as on the card. */
export const cardFields = (rule: HouseRule): Set<FieldName> =>
  new Set(fieldsOf(rule.cardLine).flatMap(({ optional, name }) => (optional ? [] : [name])));
