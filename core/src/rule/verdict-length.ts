import { EXAMPLE, type RuleContext } from './fields.js';
import { OWN_LINES_KINDS, type HouseRule } from './house-rule.js';
import { utf8Bytes } from './legal-name.js';
import { nameItems, type Named } from './numbering.js';
import { describe, fails, holds, PATH_CHARS_MAX, type KnownValues, type Trial, type Verdict } from './verdict.js';

/** Do the longest names known fit? @param placed where an item stands, when not by its name alone. */
export function withinLength(
  rule: HouseRule,
  tried: readonly Named[],
  { known, items, sharePrefix = '' }: Trial,
  placed = (named: Named): Named => named,
): Verdict {
  const real = tried.slice(0, items?.length ?? 0).map(placed);
  const deepest = items?.length ? items.reduce((best, one) => (depth(one) > depth(best) ? one : best)) : EXAMPLE;
  const longest = [...real, ...longestKnown(rule, known, deepest).map(placed)].sort((a, b) => b.path.length - a.path.length)[0]!;
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

const depth = ({ cardPath }: RuleContext): number => cardPath?.length ?? 0;

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
