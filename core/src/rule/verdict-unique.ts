import type { ValueAtom } from './atoms.js';
import { determinedAtoms } from './determined.js';
import { mayDifferInDay } from './filed-day.js';
import { allLines, type HouseRule, type Lines } from './house-rule.js';
import { foldName } from './legal-name.js';
import { levelsOf } from './levels.js';
import type { Named } from './numbering.js';
import { readField } from './read-back.js';
import { fails, holds, open, shown, type Verdict } from './verdict.js';
import type { ReadBack } from './verdict-reads-back.js';

/** Can two different items get one name? */
export function unique(rule: HouseRule, tried: readonly Named[], back: ReadBack): Verdict {
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
  // The day that is counted within is the folder's; a name may bear another.
  const counted = (atom: ValueAtom) => !mayDifferInDay(rule.settings) || !file.includes(atom);
  const day = ['yyyy|uuuu', 'MM?|LL?|MMMM|LLLL', 'dd?'].every((pattern) =>
    readable((atom) => atom.name === 'captured' && counted(atom) && new RegExp(`^(${pattern})$`).test(atom.pattern ?? '')),
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
