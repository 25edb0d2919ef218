import { extensionOf, KINDS, kindOf, stemOf, type Kind } from '../card/index.js';
import { atomsOf, couldBe, missingWord, type Atom, type ValueAtom } from './atoms.js';
import type { DatePart } from './date-pattern.js';
import type { FieldName } from './fields.js';
import { mayDifferInDay } from './filed-day.js';
import { linesFor, type HouseRule, type Lines } from './house-rule.js';
import { mendName, mendValue } from './legal-name.js';
import { houseLetters } from './letters.js';
import type { WrittenField } from './render.js';

/** One way in which a name can have come about. */
export interface Reading {
  readonly fields: readonly WrittenField[];
}

type FlatAtom = Exclude<Atom, { type: 'optional' | 'folder' }>;

/** One shape that names of a rule have: optional parts decided, a list of atoms for each folder and for the file. */
export interface NameShape {
  readonly levels: readonly (readonly FlatAtom[])[];
}

/** More optional parts than this make more shapes than anybody reads. */
const OPTIONALS_MAX = 8;
/** Steps that one name may cost before it counts as not read through. */
export const STEPS_MAX = 60_000;

/** Steps that reading may still cost; below zero it was not read through, and there may be more readings. */
export interface Budget {
  steps: number;
}

const shapesMemo = new WeakMap<Lines, NameShape[]>();

/** All shapes that names of these lines have. */
export function shapesOf(lines: Lines, rule: HouseRule): NameShape[] {
  const known = shapesMemo.get(lines);
  if (known) return known;
  const folders = flatten(atomsOf(lines.folderLine, rule.settings));
  const files = flatten(atomsOf(lines.fileLine, rule.settings));
  const shapes = folders.flatMap((folder) => files.map((file): NameShape => ({ levels: [...levelsOf(folder), flat(file)] })));
  shapesMemo.set(lines, shapes);
  return shapes;
}

function flatten(atoms: readonly Atom[]): Atom[][] {
  let ways: Atom[][] = [[]];
  let optionals = 0;
  for (const atom of atoms) {
    if (atom.type !== 'optional') ways.forEach((way) => way.push(atom));
    else if (optionals++ < OPTIONALS_MAX) ways = ways.flatMap((way) => [[...way, ...atom.atoms], [...way]]);
  }
  return ways;
}

/** Levels between `/`; a level without anything in it is no folder. */
function levelsOf(atoms: readonly Atom[]): FlatAtom[][] {
  const levels: FlatAtom[][] = [[]];
  for (const atom of atoms) {
    if (atom.type === 'folder') levels.push([]);
    else levels.at(-1)!.push(atom as FlatAtom);
  }
  return levels.filter((level) => level.length > 0);
}

const flat = (atoms: readonly Atom[]): FlatAtom[] => atoms.filter((atom): atom is FlatAtom => atom.type !== 'folder');

/**
 * Reads the fields back from a path on the drive: `/` between folders, the name with its extension.
 * @returns every reading, at most `limit`; none when the rule cannot have made this name. A part of a date is compared
 * wherever it stands: `2026/2026-05/…` is no path of a rule that writes one year twice.
 * @param budget what it may cost; what is left of it afterwards stands there.
 */
export function readPath(rule: HouseRule, path: string, limit = 2, budget: Budget = { steps: STEPS_MAX }): Reading[] {
  const slash = path.lastIndexOf('/');
  const name = path.slice(slash + 1);
  const tail = extensionOf(name);
  const ext = asWritten(tail, rule);
  const texts = [...(slash < 0 ? [] : path.slice(0, slash).split('/')), tail ? stemOf(name) : name];
  const readings = new Map<string, Reading>();
  for (const lines of linesThatMade(rule, name)) {
    for (const { levels } of shapesOf(lines, rule)) {
      if (--budget.steps < 0) return [...readings.values()];
      if (levels.length !== texts.length) continue;
      for (const written of beforeMending(texts)) {
        readLevels(levels, written, ext, budget, mayDifferInDay(rule.settings), (found) => {
          const fields = fieldsFrom(found);
          readings.set(fields.map((field) => `${field.name}:${field.format ?? ''}=${field.text}`).join('\n'), { fields });
          return readings.size < limit;
        });
      }
      if (readings.size >= limit) return [...readings.values()];
    }
  }
  return [...readings.values()];
}

/** An extension as a field has it: in the house's letters; what has none is called by the house's word for what is missing. */
const asWritten = (ext: string, { settings }: HouseRule): string =>
  (mendValue(houseLetters(ext, settings)) || missingWord(settings)).toLowerCase();

const MAYBE_DEVICE = /^(con|prn|aux|nul|clock|com.|lpt.)[^.\s]*_/i;

/** A device's name got `_` behind it: `CON_` was `CON`, or was written so. */
function beforeMending(texts: readonly string[]): (readonly string[])[] {
  if (!texts.some((text) => MAYBE_DEVICE.test(text))) return [texts];
  const ways = texts.map((text) => {
    const bare = text.replace(/^([^.\s]+)_/, '$1');
    return bare !== text && mendName(bare) === text ? [text, bare] : [text];
  });
  return ways.reduce<string[][]>((all, way) => all.flatMap((one) => way.map((text) => [...one, text])), [[]]);
}

/** A sidecar follows the lines of what it belongs to, which its name does not tell. */
function linesThatMade(rule: HouseRule, name: string): Lines[] {
  const kind = kindOf(name);
  const kinds: readonly Kind[] = kind === 'sidecar' ? KINDS : [kind];
  return [...new Set(kinds.map((one) => linesFor(rule, one)))];
}

interface FoundAtom {
  readonly atom: FlatAtom;
  readonly text: string;
  /** Does it stand in a name whose day may be another than that of its folders? */
  readonly apart: boolean;
}
type Found = readonly FoundAtom[];

/** Fields that follow the day of capture. */
const OF_THE_DAY = new Set<FieldName>(['captured', 'season', 'quarter']);
const ofTwoDays = (before: FoundAtom, atom: ValueAtom, apart: boolean): boolean =>
  before.apart !== apart && OF_THE_DAY.has(atom.name);

/**
 * Calls `take` with each way to read all levels, until it returns false.
 * @param twoDays may the folders bear another day than the name?
 */
function readLevels(
  levels: NameShape['levels'],
  texts: readonly string[],
  ext: string,
  budget: Budget,
  twoDays: boolean,
  take: (found: Found) => boolean,
): boolean {
  const found: FoundAtom[] = [];
  const inName = (level: number) => twoDays && level + 1 === levels.length;
  const step = (level: number, index: number, at: number): boolean => {
    if (--budget.steps < 0) return false;
    const atoms = levels[level]!;
    const text = texts[level]!;
    const atom = atoms[index];
    if (!atom) {
      if (at !== text.length) return true;
      return level + 1 === levels.length ? take(found) : step(level + 1, 0, 0);
    }
    const tryText = (piece: string) => {
      found.push({ atom, text: piece, apart: inName(level) });
      const goOn = agrees(found, ext) ? step(level, index + 1, at + piece.length) : true;
      found.pop();
      return goOn;
    };
    if (atom.type === 'text') return text.startsWith(atom.text, at) ? tryText(atom.text) : true;
    // A field that was read before says the same again: there is nothing to try.
    const said = found.find((one) => isSameField(one.atom, atom) && !ofTwoDays(one, atom, inName(level)))?.text;
    if (said !== undefined) return text.startsWith(said, at) ? tryText(said) : true;
    const [shortest, longest] = span(atom, atoms.length - 1 === index, text.length - at);
    for (let length = longest; length >= shortest; length--) {
      const piece = text.slice(at, at + length);
      if (couldBe(atom, piece) && !tryText(piece)) return false;
    }
    return true;
  };
  return step(0, 0, 0);
}

function span({ letters, words }: ValueAtom, isLast: boolean, room: number): [number, number] {
  const [min, max] = letters.length !== undefined && !words ? [letters.length, letters.length] : [letters.min, letters.max];
  return isLast ? [Math.max(min, room), Math.min(max, room)] : [min, Math.min(max, room)];
}

/** Do two atoms write one and the same text, whatever the item? */
const isSameField = (one: FlatAtom, other: ValueAtom): boolean =>
  one.type === 'value' &&
  one.part === null &&
  other.part === null &&
  one.name === other.name &&
  one.piece.format === other.piece.format;

/** Does the newest text agree with what was read before? */
function agrees(found: Found, ext: string): boolean {
  const { atom, text, apart } = found.at(-1)!;
  if (atom.type === 'text') return true;
  if (atom.name === 'ext') return text.toLowerCase() === ext;
  for (let index = found.length - 2; index >= 0; index--) {
    const before = found[index]!;
    if (before.atom.type !== 'value' || before.atom.name !== atom.name || ofTwoDays(before, atom, apart)) continue;
    if (!sameValue(before.atom, before.text, atom, text)) return false;
  }
  return true;
}

/** Can two texts of one field stand for one value? */
function sameValue(one: ValueAtom, oneText: string, other: ValueAtom, otherText: string): boolean {
  if (one.part !== other.part) return true;
  if (one.part === null) return one.piece.format !== other.piece.format || oneText === otherText;
  if (one.words || other.words) return one.pattern !== other.pattern || oneText === otherText;
  if (one.part === 'year' || one.part === 'week year') return Number(oneText) % 100 === Number(otherText) % 100;
  // Hours are counted in four ways.
  if (one.part === 'hour') return one.pattern !== other.pattern || oneText === otherText;
  return Number(oneText) === Number(otherText);
}

function fieldsFrom(found: Found): WrittenField[] {
  const fields: (WrittenField & { text: string; piece: object })[] = [];
  for (const { atom, text } of found) {
    if (atom.piece.type !== 'field') continue;
    const last = fields.at(-1);
    if (last?.piece === atom.piece) fields[fields.length - 1] = { ...last, text: last.text + text };
    else fields.push({ name: atom.piece.name, format: atom.piece.format, text, piece: atom.piece });
  }
  return fields.map(({ name, format, text }) => ({ name, format, text }));
}

/** The same field in the words of a reading; null when the name does not hold it. */
export const readField = (reading: Reading, name: FieldName): string | null =>
  reading.fields.find((field) => field.name === name)?.text ?? null;

export type { DatePart };
