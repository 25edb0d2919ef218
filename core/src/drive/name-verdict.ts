import {
  filedDay,
  foldName,
  type HouseRule,
  readPath,
  renderFileName,
  renderFolder,
  type RuleContext,
  pathIn,
} from '../rule/index.js';
import { stemOf } from '../card/index.js';
import { finding, type Finding } from './finding.js';
import { dayOf, readByPattern, type DayParts } from './read-date.js';

/** A filed item, as its name is judged. */
export interface Judged {
  readonly filedItemId: number;
  readonly folder: string;
  readonly name: string;
  /** What is known of it, with its number. */
  readonly context: RuleContext;
  /** Codes its contributor had once: they stand in names that were given then. */
  readonly formerCodes: readonly string[];
}

/** The path that a rule gives to an item which keeps its number. */
export function rightPath(rule: HouseRule, context: RuleContext): string {
  return pathIn(renderFolder(rule, context), renderFileName(rule, context));
}

/**
 * Is a name what the rule gives? Names that two files wished for have a suffix or a higher number: they are right. A name
 * that the rule can have made is right even if the house calls its records otherwise by now, unless it bears another day
 * or another contributor's code.
 * @param strict it must be what the rule gives today, to the letter.
 */
export function nameVerdict(rule: HouseRule, item: Judged, strict = false): Finding | null {
  const { context, filedItemId } = item;
  const path = pathIn(item.folder, item.name);
  const wanted = rightPath(rule, context);
  if (isSame(path, wanted)) return null;
  const wrong = (kind: 'misnamed' | 'wrong date', what: string) => finding(kind, path, { filedItemId, other: wanted, what });
  const [reading] = readPath(rule, path, 1, { steps: 4_000 });
  if (!reading) return wrong('misnamed', 'the rule cannot have made this name');
  let parts: DayParts = {};
  for (const { name, format, text } of reading.fields) {
    if (name === 'captured') parts = { ...parts, ...readByPattern(text, format ?? 'yyyy-MM-dd', rule.settings.language) };
    if (name === 'contributor.code' && context.contributor && !isCodeOf(text, context.contributor.code, item.formerCodes))
      return wrong('misnamed', `it says ${text}, and is by ${context.contributor.name}`);
  }
  const day = dayOf(parts);
  if (day !== null && day !== filedDay(context, rule.settings) && day !== context.captured.slice(0, 10))
    return wrong('wrong date', `it says ${day}, and was taken on ${context.captured.slice(0, 10)}`);
  return strict ? wrong('misnamed', 'today the rule gives it another name') : null;
}

const isCodeOf = (text: string, code: string, former: readonly string[]) =>
  [code, ...former].some((one) => one.toUpperCase() === text.toUpperCase());

/** The same name, or the one it got because another stood there: `-2` behind its stem. */
function isSame(path: string, wanted: string): boolean {
  if (path === wanted) return true;
  const [a, b] = [foldName(path), foldName(wanted)];
  if (a === b) return true;
  const [stem, right] = [stemOf(a), stemOf(b)];
  return (
    a.slice(stem.length) === b.slice(right.length) && stem.startsWith(right) && /^-\d+(-[a-z]+)?$/.test(stem.slice(right.length))
  );
}
