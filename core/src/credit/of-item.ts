import type { CreditFacts } from './credit-fields.js';
import { creditOf, type CreditOf, type CreditSaid } from './said.js';
import type { Terms } from './terms.js';

export interface SaidWord {
  readonly id: number;
  readonly text: string;
}

/** What somebody says of credit, words by their names. */
export type Speaker = Omit<CreditSaid, 'wordIds'> & { readonly words: readonly SaidWord[] };

/** All who say something of the items of an intake besides the items themselves, and the lists that they speak of. */
export interface CreditContext<T extends Terms, L extends { readonly id: number }> {
  readonly slip: Speaker;
  readonly house: Speaker & { readonly name: string };
  readonly contributors: readonly (Speaker & NonNullable<CreditFacts['contributor']> & { readonly id: number })[];
  readonly assignments: readonly (Speaker & {
    readonly id: number;
    readonly title: string;
    readonly embargoUntil: string | null;
  })[];
  readonly terms: readonly T[];
  readonly locations: readonly L[];
}

/** Whose an item is, and what it says itself. */
export interface ItemSays {
  readonly contributorId: number | null;
  readonly assignmentId: number | null;
  /** Year of the capture. */
  readonly year: string;
  /** With the words that it was said not to have (`has` false); null: it says nothing itself. */
  readonly own: (Omit<Speaker, 'words'> & { readonly words: readonly (SaidWord & { readonly has: boolean })[] }) | null;
}

export interface ItemCredit<T, L> extends Pick<CreditOf, 'creditLine' | 'copyrightNotice' | 'from'> {
  /** Who took it. */
  readonly creator: string | null;
  readonly terms: T | null;
  readonly location: L | null;
  readonly embargoUntil: string | null;
  /** Its words; `own`: said of the item itself. */
  readonly words: readonly (SaidWord & { readonly own: boolean })[];
}

const saidOf = ({ words, creditLine, copyrightNotice, termsId, locationId }: Speaker): CreditSaid => ({
  ...{ creditLine, copyrightNotice, termsId, locationId },
  wordIds: words.map(({ id }) => id),
});

/** The credit of an item, put together from all who say something of it. */
export function creditInContext<T extends Terms, L extends { readonly id: number }>(
  { contributorId, assignmentId, year, own }: ItemSays,
  context: CreditContext<T, L>,
): ItemCredit<T, L> {
  const contributor = context.contributors.find(({ id }) => id === contributorId) ?? null;
  const assignment = context.assignments.find(({ id }) => id === assignmentId) ?? null;
  const ownWords = own?.words.filter(({ has }) => has) ?? [];
  const levels = {
    ...(own ? { item: saidOf({ ...own, words: ownWords }) } : {}),
    slip: saidOf(context.slip),
    ...(assignment ? { assignment: saidOf(assignment) } : {}),
    ...(contributor ? { contributor: saidOf(contributor) } : {}),
    house: saidOf(context.house),
  };
  const facts = { contributor, house: context.house.name, assignment: assignment?.title ?? null, year };
  const without = own?.words.filter(({ has }) => !has).map(({ id }) => id) ?? [];
  const credit = creditOf(levels, facts, without);
  const texts = new Map([...context.slip.words, ...(assignment?.words ?? []), ...ownWords].map(({ id, text }) => [id, text]));
  const mine = new Set(ownWords.map(({ id }) => id));
  return {
    ...{ creditLine: credit.creditLine, copyrightNotice: credit.copyrightNotice, from: credit.from },
    creator: contributor?.name ?? null,
    terms: context.terms.find(({ id }) => id === credit.termsId) ?? null,
    location: context.locations.find(({ id }) => id === credit.locationId) ?? null,
    embargoUntil: assignment?.embargoUntil ?? null,
    words: credit.wordIds.map((id) => ({ id, text: texts.get(id) ?? '', own: mine.has(id) })),
  };
}
