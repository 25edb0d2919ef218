import { determinedAtoms } from './determined.js';
import { linesOfCard, type HouseRule } from './house-rule.js';
import { foldName, mendPath } from './legal-name.js';
import { levelsOf } from './levels.js';
import type { Named } from './numbering.js';
import { fails, holds, open, shown, type Trial, type Verdict } from './verdict.js';
import { legalEverywhere } from './verdict-legal.js';
import { withinLength } from './verdict-length.js';
import { readsBack } from './verdict-reads-back.js';

/** A rule that keeps whole cards, as one of folder lines: what stands in a card's folder has the card's own names. */
export const asNamedByCard = (rule: HouseRule): HouseRule => ({ ...rule, ...linesOfCard(rule), kinds: {} });

/**
 * The five verdicts on a rule that keeps the whole card: names are unique within a card's folder, the order in time is
 * that of the camera's names and not claimed, lengths count the card's own folders.
 * @param rule by `asNamedByCard`; @param tried under that.
 */
export function judgeAsOnCard(rule: HouseRule, tried: readonly Named[], trial: Trial): Verdict[] {
  const legal = legalEverywhere(rule);
  // The name in its folder is the card's: what it says is not the rule's to say.
  const ownNames = tried.filter(({ context: { original } }) => mendPath(original) === original);
  const { verdict } = readsBack(rule, ownNames, legal.outcome === 'holds');
  return [
    uniqueByCard(rule, tried),
    open('in time order', 'Not claimed: what is kept as on the card sorts as the camera named it. Its folder bears the date.'),
    legal.outcome === 'holds'
      ? holds(
          'legal everywhere',
          "The line's own text is legal everywhere; names of the card that some system refuses are mended.",
        )
      : legal,
    withinLength(rule, tried, trial, onItsCard),
    verdict,
  ];
}

const onItsCard = (named: Named): Named => {
  const below = mendPath(named.context.cardPath ?? named.context.original);
  return { ...named, path: named.folder ? `${named.folder}/${below}` : below };
};

/** Can the files of two cards come into one folder, where their cameras gave the same names? */
function uniqueByCard(rule: HouseRule, tried: readonly Named[]): Verdict {
  const levels = levelsOf(rule, rule)?.slice(0, -1) ?? [];
  const told = levels.flatMap((level) => [...determinedAtoms(level)]);
  const tells = (field: string) =>
    told.some((atom) => atom.type === 'value' && atom.name === field && atom.piece.format === null);
  if (tells('intake')) return holds('unique', 'Each intake has a folder of its own, and on a card no two files have one path.');
  const cards = new Map<string, Named>();
  for (const named of tried) {
    const other = cards.get(foldName(named.folder));
    if (other && other.context.intake !== named.context.intake && other.context.cardLabel !== named.context.cardLabel)
      return fails('unique', 'Two cards get one folder: their cameras give the same names.', shown(other), shown(named));
    if (!other) cards.set(foldName(named.folder), named);
  }
  return open(
    'unique',
    'Two cards get two folders, but one card handed in twice does not always: {intake} in the folder line tells them apart.',
  );
}
