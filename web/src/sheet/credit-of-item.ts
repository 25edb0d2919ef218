import type { IntakeCredit, IntakeSummary, ItemView, LocationView, TermsView } from '@tally/contract';
import {
  consentOfAll,
  type ConsentStanding,
  creditOf,
  type CreditSaid,
  type Level,
  termsStanding,
  type TermsStanding,
} from '@tally/core/credit';

/** Everything one sees of the credit of an item, put together from all who say something of it. */
export interface ItemCredit {
  readonly creditLine: string;
  readonly copyrightNotice: string;
  readonly terms: TermsView | null;
  readonly standing: TermsStanding;
  readonly location: LocationView | null;
  readonly words: readonly { readonly id: number; readonly text: string; readonly own: boolean }[];
  readonly from: Readonly<Record<'creditLine' | 'copyrightNotice' | 'termsId' | 'locationId', Level | null>>;
  readonly consent: ConsentStanding | null;
}

type Speaker = Omit<CreditSaid, 'wordIds'> & { readonly words: readonly { readonly id: number }[] };

const saidOf = ({ creditLine, copyrightNotice, termsId, locationId, words }: Speaker): CreditSaid => ({
  ...{ creditLine, copyrightNotice, termsId, locationId },
  wordIds: words.map(({ id }) => id),
});

/** @param item null: what the slip comes to, without any item. @param today `yyyy-MM-dd` */
export function creditOfItem(
  item: ItemView | null,
  intake: Pick<IntakeSummary, 'contributor' | 'assignment'>,
  context: IntakeCredit,
  today: string,
): ItemCredit {
  const contributorId = (item?.contributor ?? intake.contributor)?.id;
  const assignmentId = (item?.assignment ?? intake.assignment)?.id;
  const contributor = context.contributors.find(({ id }) => id === contributorId) ?? null;
  const assignment = context.assignments.find(({ id }) => id === assignmentId) ?? null;
  const own = item?.credit ?? null;
  const ownWords = own?.words.filter(({ has }) => has) ?? [];
  const levels = {
    ...(own ? { item: saidOf({ ...own, words: ownWords }) } : {}),
    slip: saidOf(context.slip),
    ...(assignment ? { assignment: saidOf(assignment) } : {}),
    ...(contributor ? { contributor: saidOf(contributor) } : {}),
    house: saidOf(context.house),
  };
  const year = item ? item.captured.local.slice(0, 4) : today.slice(0, 4);
  const facts = { contributor, house: context.house.name, assignment: assignment?.title ?? null, year };
  const without = own?.words.filter(({ has }) => !has).map(({ id }) => id) ?? [];
  const credit = creditOf(levels, facts, without);
  const terms = context.terms.find(({ id }) => id === credit.termsId) ?? null;
  const texts = new Map(
    [...context.slip.words, ...context.assignments.flatMap(({ words }) => words), ...ownWords].map(({ id, text }) => [id, text]),
  );
  const mine = new Set(ownWords.map(({ id }) => id));
  return {
    creditLine: credit.creditLine,
    copyrightNotice: credit.copyrightNotice,
    terms,
    standing: termsStanding(terms, today, assignment?.embargoUntil ?? null),
    location: context.locations.find(({ id }) => id === credit.locationId) ?? null,
    words: credit.wordIds.map((id) => ({ id, text: texts.get(id) ?? '', own: mine.has(id) })),
    from: credit.from,
    consent: own ? consentOfAll(own.pictured, today) : null,
  };
}

/** Who said something, as people put it. @param answeredBy the habit that gave the slip's answer. */
export function whoSays(level: Level | null, answeredBy?: { readonly name: string }): string {
  switch (level) {
    case 'item':
      return 'said of this item';
    case 'slip':
      return answeredBy ? `by the habit “${answeredBy.name}”` : 'said on the slip';
    case 'assignment':
      return 'from the assignment';
    case 'contributor':
      return 'from the contributor';
    case 'house':
      return 'from the house';
    case null:
      return 'nobody says';
  }
}
