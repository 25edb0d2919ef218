/** What a person who is pictured said to being shown. */
export const CONSENTS = ['yes', 'no', 'ask'] as const;
export type Consent = (typeof CONSENTS)[number];

export interface Pictured {
  readonly id: number;
  readonly name: string;
  readonly consent: Consent;
  /** Last day on which a yes holds, `yyyy-MM-dd`. */
  readonly until: string | null;
  /** What for: print, the web, inside … in the house's words. */
  readonly purpose: string;
}

export interface ConsentStanding {
  readonly consent: Consent;
  readonly words: string;
}

/** What a person's consent comes to on a day: a yes that has run out is a question again; a no stays a no. */
export function consentOf(person: Pictured, today: string): ConsentStanding {
  const purpose = person.purpose ? ` (${person.purpose})` : '';
  if (person.consent === 'no') return { consent: 'no', words: `${person.name} must not be shown` };
  if (person.consent === 'ask') return { consent: 'ask', words: `ask ${person.name} first` };
  if (person.until !== null && today > person.until)
    return { consent: 'ask', words: `${person.name}’s consent ended on ${person.until}: ask first` };
  const until = person.until === null ? '' : ` until ${person.until}`;
  return { consent: 'yes', words: `${person.name} consents${purpose}${until}` };
}

/** What a picture of several people comes to: one no is a no. Null when nobody is named. */
export function consentOfAll(people: readonly Pictured[], today: string): ConsentStanding | null {
  const standings = people.map((person) => consentOf(person, today));
  const worst = (['no', 'ask', 'yes'] as const).find((consent) => standings.some((one) => one.consent === consent));
  if (!worst) return null;
  const words = standings.filter(({ consent }) => consent === worst).map((one) => one.words);
  return { consent: worst, words: words.join('; ') };
}

/** Who of these must not be shown, in words; null: nobody. A no needs no day: it stays one. */
export function notToBeShown(people: readonly Pick<Pictured, 'name' | 'consent'>[]): string | null {
  const names = people.filter(({ consent }) => consent === 'no').map(({ name }) => name);
  return names.length ? `${names.join(' and ')} must not be shown` : null;
}
