import { type CreditFacts, fillCreditLine } from './credit-fields.js';

/** What one level says of credit; null: nothing, so that the next one speaks. */
export interface CreditSaid {
  readonly creditLine: string | null;
  readonly copyrightNotice: string | null;
  readonly termsId: number | null;
  readonly locationId: number | null;
  readonly wordIds: readonly number[];
}

export const NOTHING_SAID: CreditSaid = { creditLine: null, copyrightNotice: null, termsId: null, locationId: null, wordIds: [] };

/** Whoever may say something of an item's credit, the nearest first. */
export const LEVELS = ['item', 'slip', 'assignment', 'contributor', 'house'] as const;
export type Level = (typeof LEVELS)[number];

/** What an item comes to, and which level said each thing (null: nobody did). */
export interface CreditOf {
  readonly creditLine: string;
  readonly copyrightNotice: string;
  readonly termsId: number | null;
  readonly locationId: number | null;
  readonly wordIds: readonly number[];
  readonly from: Readonly<Record<'creditLine' | 'copyrightNotice' | 'termsId' | 'locationId', Level | null>>;
}

/**
 * The credit of an item: each thing as the nearest level says it; words of all levels together, without those that the
 * item was said not to have. Lines are filled with who, what and when.
 */
export function creditOf(
  levels: Readonly<Partial<Record<Level, CreditSaid>>>,
  facts: CreditFacts,
  without: readonly number[] = [],
): CreditOf {
  const nearest = <T>(of: (said: CreditSaid) => T | null): { value: T | null; level: Level | null } => {
    for (const level of LEVELS) {
      const said = levels[level];
      const value = said ? of(said) : null;
      if (value !== null) return { value, level };
    }
    return { value: null, level: null };
  };
  const creditLine = nearest((said) => said.creditLine);
  const copyrightNotice = nearest((said) => said.copyrightNotice);
  const terms = nearest((said) => said.termsId);
  const location = nearest((said) => said.locationId);
  const words = new Set(LEVELS.flatMap((level) => levels[level]?.wordIds ?? []));
  for (const id of without) words.delete(id);
  return {
    creditLine: fillCreditLine(creditLine.value ?? '', facts),
    copyrightNotice: fillCreditLine(copyrightNotice.value ?? '', facts),
    termsId: terms.value,
    locationId: location.value,
    wordIds: [...words],
    from: {
      ...{ creditLine: creditLine.level, copyrightNotice: copyrightNotice.level },
      ...{ termsId: terms.level, locationId: location.level },
    },
  };
}
