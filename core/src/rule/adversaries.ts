import { EXAMPLE, fieldNamed, type Field, type RuleContext } from './fields.js';
import { mayDifferInDay } from './filed-day.js';
import { allLines, type HouseRule } from './house-rule.js';
import { CODES, DIGITS, FREE, SLUGS } from './letters.js';
import type { Piece } from './line.js';

/** Numbers that no real intake has: its items are imagined. */
const IMAGINED = ['9999-0001', '9999-0002'] as const;
export const isImagined = ({ intake }: RuleContext): boolean => IMAGINED.some((number) => number === intake);

/**
 * Items that try to break a rule: what cameras, calendars and people do sooner or later, and values made for this rule,
 * in which its own separators stand. Deterministic. Two intakes, the second handed in later with earlier pictures.
 */
export function adversaries(rule: HouseRule, base: RuleContext = EXAMPLE): RuleContext[] {
  const night: RuleContext[] = mayDifferInDay(rule.settings)
    ? [{ ...base, intake: IMAGINED[0], captured: '2026-04-17T22:00:00' }]
    : [];
  const first = [...ordinary(base, IMAGINED[0]), ...night];
  const second = ordinary({ ...base, received: '2027-12-30T08:00:00' }, IMAGINED[1]);
  return [...first, ...separators(rule, { ...base, intake: IMAGINED[0] }), ...second];
}

function ordinary(base: RuleContext, intake: string): RuleContext[] {
  const say = (change: Partial<RuleContext>): RuleContext => ({ ...base, intake, ...change });
  const at = (captured: string, change: Partial<RuleContext> = {}) => say({ captured, ...change });
  const others = { contributor: { code: 'ZZ', name: 'Zita Zelle' }, cardLabel: 'Z-999' };
  const earlier = { contributor: { code: 'AA', name: 'Aino Aalto' }, cardLabel: 'A-001' };
  const months = Array.from({ length: 12 }, (_, month) => String(month + 1).padStart(2, '0'));
  return [
    // A camera begins its numbers again in the next folder of the card; a burst fills a second.
    at('2026-04-18T09:12:31', { original: 'HM4_0001.JPG' }),
    at('2026-04-18T09:12:31', { original: 'HM4_0001.JPG' }),
    at('2026-04-18T09:12:31', { original: 'HM4_9999.JPG' }),
    at('2026-04-18T09:12:32', { original: 'HM4_0002.JPG' }),
    // Two people, and the one who comes first in the alphabet took pictures last.
    at('2026-04-18T08:00:00', others),
    at('2026-04-18T21:00:00', earlier),
    // The same day for two assignments, two cameras, and the other way round the next day.
    at('2026-04-18T07:00:00', { assignment: { slug: 'zoo', title: 'Zoo', from: '2026-04-18', place: 'Zuid' } }),
    at('2026-04-19T07:00:00', { assignment: { slug: 'alder', title: 'Alder', from: '2026-04-19', place: 'Aa' } }),
    at('2026-04-18T12:00:00', { camera: { make: 'Zorro', model: 'Z9' } }),
    at('2026-04-18T13:00:00', { camera: { make: 'Arda', model: 'A1' } }),
    // Every month, both sides of a year's end, week 53, a leap day, morning and evening.
    ...months.map((month) => at(`2026-${month}-05T10:00:00`)),
    at('2020-12-31T23:59:59'),
    at('2021-01-03T00:00:00'),
    at('2021-01-04T00:00:00'),
    at('2024-02-29T12:00:00'),
    at('2026-04-18T01:05:00'),
    at('2026-04-18T13:05:00'),
    // Things nobody said.
    say({ camera: { make: null, model: null }, cardLabel: '', description: null }),
    say({ assignment: base.assignment && { ...base.assignment, place: null }, original: 'MOVIE.JPG' }),
    // Names that systems refuse.
    say({ contributor: { code: 'CON', name: 'Con' }, original: 'nul.JPG', cardLabel: 'AUX' }),
    say({ assignment: { slug: 'a-1', title: '"Q&A": what now?', from: '2026-04-18', place: 'x/y' } }),
    say({ contributor: { code: 'J2', name: 'J. R. Doe Jr.' }, original: 'a.b.c.JPG', description: ' . ' }),
  ];
}

/** For each two fields that stand beside each other: values that hold what separates them. */
function separators(rule: HouseRule, base: RuleContext): RuleContext[] {
  const made: RuleContext[] = [];
  for (const { lines, kinds } of allLines(rule)) {
    const context = { ...base, kind: kinds[0] ?? base.kind };
    for (const pieces of [lines.folderLine, lines.fileLine]) {
      const line = inOrder(pieces);
      for (const [index, piece] of line.entries()) {
        if (piece.type !== 'field') continue;
        const next = line.slice(index + 1).find((other) => other.type === 'field');
        const between = line[index + 1]?.type === 'text' ? (line[index + 1] as { text: string }).text : '';
        made.push(...straddling(context, fieldNamed(piece.name)!, next && fieldNamed(next.name)!, between));
      }
    }
  }
  return made;
}

const inOrder = (pieces: readonly Piece[]): Exclude<Piece, { type: 'optional' }>[] =>
  pieces.flatMap((piece) => (piece.type === 'optional' ? inOrder(piece.pieces) : [piece]));

/** `a‹sep›b` beside `c`, and `a` beside `b‹sep›c`: one text, two meanings. */
function straddling(base: RuleContext, left: Field, right: Field | undefined, between: string): RuleContext[] {
  const put = (field: Field | undefined, context: RuleContext, text: string) => {
    const legal = field && text !== '' && fits(field, text);
    return legal && field.put ? field.put(context, text) : null;
  };
  const pairs = ['1', 'x', 'A1', '0001'].flatMap((inner) => {
    const sep = between || inner;
    return [
      [`a${sep}${inner}`, inner],
      ['a', `${inner}${sep}${inner}`],
      [`A${sep}1`, '12'],
      [`A${sep}`, '112'],
      [`A1`, `1${sep}2`],
      [`AB`, `C${sep}`],
      [`ABC`, `${sep}C`],
      [`1${sep}0001`, '0001'],
    ] as const;
  });
  return pairs.flatMap(([one, two]) => {
    const withLeft = put(left, base, one);
    const withBoth = put(right, withLeft ?? base, two);
    return [withLeft, withBoth].filter((context) => context !== null);
  });
}

function fits(field: Field, text: string): boolean {
  if (field.letters === CODES) return /^[A-Z0-9]{2,4}$/.test(text);
  if (field.letters === SLUGS) return /^[a-z0-9]+(?:-[a-z0-9]+)*$/.test(text);
  if (field.letters === DIGITS) return /^\d{1,12}$/.test(text);
  return field.letters === FREE;
}
