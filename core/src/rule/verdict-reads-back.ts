import type { Atom } from './atoms.js';
import { isDetermined } from './determined.js';
import { allLines, type HouseRule, type Lines } from './house-rule.js';
import { levelsOf } from './levels.js';
import { LOWER, PUNCTUATION, sortsIn, SPACE, UPPER } from './letters.js';
import type { Named } from './numbering.js';
import { type Budget, readPath, shapesOf, STEPS_MAX, type Reading } from './read-back.js';
import { fails, holds, open, type Verdict } from './verdict.js';

/** Names that are read although they need not be. */
const SAMPLE = 600;
/** Steps that reading all names may cost, about half a second: a rule of many free fields can be read in more ways than anybody waits for. */
const STEPS_FOR_ALL = 1_500_000;

export interface ReadBack {
  readonly verdict: Verdict;
  /** Two readings of one name, where there is such a name. */
  readonly readings: readonly Reading[];
}

/** Can the fields be recovered from every name? */
export function readsBack(rule: HouseRule, tried: readonly Named[], legal: boolean): ReadBack {
  const sure = legal && allLines(rule).every(({ lines }) => surelyReadable(rule, lines));
  // What the parts of the rule show needs no search; some names are read all the same, to be told if that is ever wrong.
  const searched = sure && tried.length > 2 * SAMPLE ? [...tried.slice(0, SAMPLE), ...tried.slice(-SAMPLE)] : tried;
  let left = STEPS_FOR_ALL;
  let isThrough = true;
  for (const named of searched) {
    const steps = Math.min(STEPS_MAX, left);
    const budget: Budget = { steps };
    const readings = readPath(rule, named.path, 2, budget);
    left -= steps - Math.max(0, budget.steps);
    if (budget.steps < 0 && readings.length < 2) {
      isThrough = false;
      if (left <= 0) break;
      continue;
    }
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
  if (!isThrough) {
    const because =
      'Its names can be read in so many ways that not all were tried: put something between fields that can hold anything.';
    return { verdict: open('reads back', because), readings: [] };
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
