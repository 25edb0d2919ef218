import { extensionOf } from '../card/index.js';
import { fieldNamed, type FieldName, type RuleContext } from './fields.js';
import { writeValue } from './formats.js';
import { cutToBytes, mendName, NAME_BYTES_MAX, utf8Bytes } from './legal-name.js';
import { fieldsOf, parseLine, type Piece, type RuleError } from './line.js';

/** The house's default: months in years, days with the assignment's slug, date + code + number. */
export const DEFAULT_RULE = {
  folderLine: '{captured:yyyy}/{captured:yyyy-MM}/{captured:yyyy-MM-dd}_{assignment.slug}',
  fileLine: '{captured:yyyyMMdd}_{contributor.code}_{n:0000}',
} as const;

export interface HouseRule {
  readonly folderLine: readonly Piece[];
  readonly fileLine: readonly Piece[];
}

export type ParsedRule =
  | { readonly ok: true; readonly rule: HouseRule }
  | { readonly ok: false; readonly line: 'folder' | 'file'; readonly error: RuleError };

/** Parses both lines. The file line may not make folders. */
export function parseRule(source: { folderLine: string; fileLine: string }): ParsedRule {
  const folder = parseLine(source.folderLine);
  if (!folder.ok) return { ok: false, line: 'folder', error: folder.error };
  const file = parseLine(source.fileLine);
  if (!file.ok) return { ok: false, line: 'file', error: file.error };
  const slash = source.fileLine.search(/[/\\]/);
  const error = {
    message: 'The file line names a file; folders belong into the folder line.',
    span: { from: slash, to: slash + 1 },
  };
  if (slash >= 0 && textHasSlash(file.pieces)) return { ok: false, line: 'file', error };
  return { ok: true, rule: { folderLine: folder.pieces, fileLine: file.pieces } };
}

function textHasSlash(pieces: readonly Piece[]): boolean {
  return pieces.some((p) => (p.type === 'text' && /[/\\]/.test(p.text)) || (p.type === 'optional' && textHasSlash(p.pieces)));
}

/** Does a rule number its files? */
export const hasSequence = (rule: HouseRule): boolean => fieldsOf(rule.fileLine).some((field) => field.name === 'n');

/** Fields outside optional parts: what the slip must say before anything can be named. */
export function neededFields(rule: HouseRule): Set<FieldName> {
  const all = [...fieldsOf(rule.folderLine), ...fieldsOf(rule.fileLine)];
  return new Set(all.filter((field) => !field.optional).map((field) => field.name));
}

/** The folder of an item, `/` between folders, every part legal everywhere. '' is the root of the place. */
export function renderFolder(rule: HouseRule, context: RuleContext): string {
  return renderPieces(rule.folderLine, context)
    .split('/')
    .filter((part) => part !== '')
    .map((part) => mendName(part))
    .join('/');
}

/**
 * The name of an item with its lower-case extension. A name over 255 bytes loses the ends of its longest text fields,
 * at grapheme boundaries: the number, the dates and the extension stay whole.
 * @param suffix text behind the stem that tells clashing names apart, such as `-2`.
 */
export function renderFileName(rule: HouseRule, context: RuleContext, suffix = ''): string {
  const rawExt = extensionOf(context.original);
  const ext = rawExt && utf8Bytes(rawExt) <= 16 ? `.${rawExt}` : '';
  const room = NAME_BYTES_MAX - utf8Bytes(suffix) - utf8Bytes(ext);
  let stem = renderPieces(rule.fileLine, context);
  for (let longest = 120; utf8Bytes(stem) > room && longest >= 1; longest = Math.floor(longest / 2)) {
    stem = renderPieces(rule.fileLine, context, longest);
  }
  return mendName(`${mendName(stem, room)}${suffix}${ext}`);
}

/** Renders pieces. Values never make folders: separators inside a value become `-`. */
function renderPieces(pieces: readonly Piece[], context: RuleContext, maxTextBytes?: number): string {
  let out = '';
  for (const piece of pieces) {
    if (piece.type === 'text') out += piece.text;
    else if (piece.type === 'field') out += fieldValue(piece, context, maxTextBytes);
    else if (!fieldsOf(piece.pieces).some(({ name }) => isEmpty(name, context)))
      out += renderPieces(piece.pieces, context, maxTextBytes);
  }
  return out;
}

function isEmpty(name: FieldName, context: RuleContext): boolean {
  const value = fieldNamed(name)!.value(context);
  return value === null || value === '';
}

function fieldValue(piece: Extract<Piece, { type: 'field' }>, context: RuleContext, maxTextBytes?: number): string {
  const field = fieldNamed(piece.name)!;
  const text = writeValue(field.type, field.value(context), piece.format).replace(/[/\\]/g, '-');
  return field.type === 'text' && maxTextBytes !== undefined ? cutToBytes(text, maxTextBytes) : text;
}
