import { extensionOf } from '../card/index.js';
import { underItsDay } from './filed-day.js';
import { fieldNamed, type FieldName, type RuleContext } from './fields.js';
import { writeValue } from './formats.js';
import { linesFor, type HouseRule } from './house-rule.js';
import { cutToBytes, mendName, mendValue, NAME_BYTES_MAX, utf8Bytes } from './legal-name.js';
import { houseLetters } from './letters.js';
import type { Piece } from './line.js';
import type { RuleSettings } from './settings.js';

/** A field as it stands in a name. */
export interface WrittenField {
  readonly name: FieldName;
  readonly format: string | null;
  readonly text: string;
}

/** Where rendering notes what it wrote and what nobody said. */
export interface Notes {
  readonly written: WrittenField[];
  /** Fields outside optional parts that had no value: the house's word stands for them. */
  readonly unsaid: FieldName[];
  /** Was a text cut because the name would have been too long? */
  cut: boolean;
}

export const newNotes = (): Notes => ({ written: [], unsaid: [], cut: false });

type FieldPiece = Extract<Piece, { type: 'field' }>;

/** The folder of an item, `/` between folders, every part legal everywhere. '' is the root of the place. */
export function renderFolder(rule: HouseRule, context: RuleContext, notes?: Notes): string {
  return renderPath(linesFor(rule, context.kind).folderLine, underItsDay(context, rule.settings), rule.settings, notes);
}

/** The folder under which a card or a tree of it stands as it is. */
export function renderCardFolder(rule: HouseRule, context: RuleContext, notes?: Notes): string {
  return renderPath(rule.cardLine, underItsDay(context, rule.settings), rule.settings, notes);
}

function renderPath(pieces: readonly Piece[], context: RuleContext, settings: RuleSettings, notes?: Notes): string {
  let parts: string[] = [];
  for (const longest of SHRINKING) {
    const tried = newNotes();
    parts = render(pieces, context, settings, longest, tried)
      .split('/')
      .filter((part) => part !== '');
    if (parts.some((part) => utf8Bytes(part) > NAME_BYTES_MAX) && longest !== 1) continue;
    if (notes) pass(tried, notes, longest);
    break;
  }
  return parts.map((part) => mendName(part)).join('/');
}

/**
 * The name of an item with its lower-case extension. A name over 255 bytes loses the ends of its longest text fields,
 * at grapheme boundaries: the number, the dates and the extension stay whole.
 * @param suffix text behind the stem that tells clashing names apart, such as `-2`.
 */
export function renderFileName(rule: HouseRule, context: RuleContext, suffix = '', notes?: Notes): string {
  const rawExt = mendValue(extensionOf(context.original));
  const ext = rawExt && utf8Bytes(rawExt) <= 16 ? `.${rawExt}` : '';
  const room = NAME_BYTES_MAX - utf8Bytes(suffix) - utf8Bytes(ext);
  const pieces = linesFor(rule, context.kind).fileLine;
  let stem = '';
  for (const longest of SHRINKING) {
    const tried = notes ? newNotes() : undefined;
    stem = render(pieces, context, rule.settings, longest, tried);
    if (utf8Bytes(stem) > room && longest !== 1) continue;
    if (notes) pass(tried!, notes, longest, ext === '');
    break;
  }
  // A name without an extension has no dot: what follows it would be taken for one.
  return mendName(`${mendName(ext ? stem : undotted(stem), room)}${suffix}${ext}`);
}

const undotted = (text: string) => text.replaceAll('.', '-');

function pass(from: Notes, to: Notes, longest: number, dotless = false): void {
  to.written.push(...(dotless ? from.written.map((field) => ({ ...field, text: undotted(field.text) })) : from.written));
  to.unsaid.push(...from.unsaid);
  to.cut ||= longest < NAME_BYTES_MAX;
}

/** How many bytes a text field may have at most, tried one after the other until the name fits. */
const SHRINKING = [NAME_BYTES_MAX, 120, 60, 30, 15, 7, 3, 1] as const;

function render(pieces: readonly Piece[], context: RuleContext, settings: RuleSettings, longest: number, notes?: Notes): string {
  let out = '';
  for (const piece of pieces) {
    if (piece.type === 'text') out += houseLetters(piece.text, settings);
    else if (piece.type === 'field') out += writeField(piece, context, settings, longest, notes);
    else if (!isOptionalEmpty(piece.pieces, context, settings)) out += render(piece.pieces, context, settings, longest, notes);
  }
  return out;
}

function isOptionalEmpty(pieces: readonly Piece[], context: RuleContext, settings: RuleSettings): boolean {
  return fieldPieces(pieces).some((piece) => fieldText(piece, context, settings) === '');
}

const fieldPieces = (pieces: readonly Piece[]): FieldPiece[] =>
  pieces.flatMap((piece) => (piece.type === 'field' ? [piece] : piece.type === 'optional' ? fieldPieces(piece.pieces) : []));

/** The value of a field as the rule writes it; '' when nobody says. Values never make folders and never need mending. */
export function fieldText(piece: Pick<FieldPiece, 'name' | 'format'>, context: RuleContext, settings: RuleSettings): string {
  const field = fieldNamed(piece.name)!;
  const text = writeValue(field.type, field.value(context, settings), piece.format, settings.language);
  if (field.type === 'number') return text;
  return mendValue(houseLetters(text, settings));
}

function writeField(piece: FieldPiece, context: RuleContext, settings: RuleSettings, longest: number, notes?: Notes): string {
  let text = fieldText(piece, context, settings);
  // A number is left out only where the sequence gives none: the first of its name.
  if (text === '' && piece.name !== 'n') {
    notes?.unsaid.push(piece.name);
    text = mendValue(houseLetters(settings.missing, settings));
  }
  if (fieldNamed(piece.name)!.type === 'text' && utf8Bytes(text) > longest) {
    text = mendValue(cutToBytes(text, longest)) || cutToBytes(text, longest);
  }
  notes?.written.push({ name: piece.name, format: piece.format, text });
  return text;
}
