import { adversaries } from './adversaries.js';
import { EXAMPLE } from './fields.js';
import type { HouseRule } from './house-rule.js';
import { nameItems } from './numbering.js';
import type { Trial, Verdict } from './verdict.js';
import { legalEverywhere } from './verdict-legal.js';
import { asNamedByCard, judgeAsOnCard } from './verdicts-as-on-card.js';
import { withinLength } from './verdict-length.js';
import { readsBack } from './verdict-reads-back.js';
import { inTimeOrder } from './verdict-time-order.js';
import { unique } from './verdict-unique.js';

/** The five verdicts on a rule: by its parts, and by a search over real items and items made to break it. */
export function judgeRule(said: HouseRule, trial: Trial = {}): Verdict[] {
  const base = trial.items?.[0] ?? EXAMPLE;
  const wholeCard = said.settings.asOnCard.card;
  const rule = wholeCard ? asNamedByCard(said) : said;
  const tried = nameItems(rule, [...(trial.items ?? []), ...adversaries(rule, base)]);
  if (wholeCard) return judgeAsOnCard(rule, tried, trial);
  const legal = legalEverywhere(rule);
  const back = readsBack(rule, tried, legal.outcome === 'holds');
  return [unique(rule, tried, back), inTimeOrder(rule, tried), legal, withinLength(rule, tried, trial), back.verdict];
}
