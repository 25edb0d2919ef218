import { consentOfAll, type Pictured } from './consent.js';
import { type TermsGiven, termsStanding } from './terms.js';

/** What stands in the way of using an item, and in which words. */
export interface MayBeUsed {
  readonly mark: 'none' | 'ask' | 'no';
  readonly words: string;
}

/**
 * Whether an item may be used on a day, by its terms, its assignment's embargo and whoever is shown in it: the strictest of
 * them speaks; of two that are as strict, a person's no before all, terms before a question of consent.
 * @param today `yyyy-MM-dd`
 */
export function mayBeUsed(
  terms: TermsGiven | null,
  embargoUntil: string | null,
  pictured: readonly Pictured[],
  today: string,
): MayBeUsed {
  const consent = consentOfAll(pictured, today);
  if (consent?.consent === 'no') return { mark: 'no', words: consent.words };
  const { mark, words } = termsStanding(terms, today, embargoUntil);
  return mark === 'none' && consent?.consent === 'ask' ? { mark: 'ask', words: consent.words } : { mark, words };
}
