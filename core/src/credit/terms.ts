/** What may be done with an item, in four steps. */
export const STANCES = ['free for the house', 'ask first', 'not to be shown', 'open licence'] as const;
export type Stance = (typeof STANCES)[number];

export interface Terms {
  readonly id: number;
  readonly name: string;
  readonly stance: Stance;
  /** In the house's own words. */
  readonly sentence: string;
  /** Address of an open licence. */
  readonly web: string | null;
  /** Last day on which they hold, `yyyy-MM-dd`. */
  readonly until: string | null;
}

/** Open licences by the addresses under which they are published (creativecommons.org, from memory). */
export const LICENCES = [
  { name: 'CC0 1.0', web: 'https://creativecommons.org/publicdomain/zero/1.0/' },
  { name: 'CC BY 4.0', web: 'https://creativecommons.org/licenses/by/4.0/' },
  { name: 'CC BY-SA 4.0', web: 'https://creativecommons.org/licenses/by-sa/4.0/' },
  { name: 'CC BY-NC 4.0', web: 'https://creativecommons.org/licenses/by-nc/4.0/' },
  { name: 'CC BY-ND 4.0', web: 'https://creativecommons.org/licenses/by-nd/4.0/' },
  { name: 'CC BY-NC-SA 4.0', web: 'https://creativecommons.org/licenses/by-nc-sa/4.0/' },
  { name: 'CC BY-NC-ND 4.0', web: 'https://creativecommons.org/licenses/by-nc-nd/4.0/' },
] as const;

/** An open licence that is known by its address, however it is written; null for another one. */
export function licenceAt(web: string): string | null {
  const plain = web
    .trim()
    .toLowerCase()
    .replace(/^http:/, 'https:')
    .replace(/\/(?:(?:deed|legalcode)(?:\.[a-z-]+)?)?$/, '');
  return LICENCES.find((licence) => licence.web === `${plain}/`)?.name ?? null;
}

/** As much of terms as tells what they come to. */
export type TermsGiven = Pick<Terms, 'name' | 'stance' | 'until'>;

export interface TermsStanding {
  readonly stance: Stance;
  readonly words: string;
  /** Must whoever wants to use it stop and think? */
  readonly mark: 'none' | 'ask' | 'no';
}

/**
 * What terms come to on a day, with an assignment's embargo. Terms that have run out allow nothing by themselves: ask first.
 * @param today `yyyy-MM-dd`
 */
export function termsStanding(terms: TermsGiven | null, today: string, embargoUntil: string | null = null): TermsStanding {
  const embargoed = embargoUntil !== null && today <= embargoUntil;
  const own = standingOf(terms, today);
  if (!embargoed || own.mark === 'no') return own;
  return { ...own, mark: 'no', words: `not before ${embargoUntil}, then ${own.words}` };
}

function standingOf(terms: TermsGiven | null, today: string): TermsStanding {
  if (!terms) return { stance: 'ask first', words: 'nothing agreed: ask first', mark: 'ask' };
  if (terms.until !== null && today > terms.until)
    return { stance: 'ask first', words: `${terms.name} ended on ${terms.until}: ask first`, mark: 'ask' };
  const until = terms.until === null ? '' : ` until ${terms.until}`;
  const mark = terms.stance === 'not to be shown' ? 'no' : terms.stance === 'ask first' ? 'ask' : 'none';
  return { stance: terms.stance, words: `${terms.name}${until}`, mark };
}
