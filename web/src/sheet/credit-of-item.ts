import type { IntakeCredit, IntakeSummary, ItemView, LocationView, TermsView } from '@tally/contract';
import {
  consentOfAll,
  type ConsentStanding,
  creditInContext,
  type ItemCredit as Put,
  type Level,
  termsStanding,
  type TermsStanding,
} from '@tally/core/credit';

/** Everything one sees of the credit of an item. */
export interface ItemCredit extends Put<TermsView, LocationView> {
  /** What its terms come to today. */
  readonly standing: TermsStanding;
  /** Of whoever is in it; null: nobody looked at one item. */
  readonly consent: ConsentStanding | null;
}

/** @param item null: what the slip comes to, without any item. @param today `yyyy-MM-dd` */
export function creditOfItem(
  item: ItemView | null,
  intake: Pick<IntakeSummary, 'contributor' | 'assignment'>,
  context: IntakeCredit,
  today: string,
): ItemCredit {
  const own = item?.credit ?? null;
  const says = {
    contributorId: (item?.contributor ?? intake.contributor)?.id ?? null,
    assignmentId: (item?.assignment ?? intake.assignment)?.id ?? null,
    year: (item ? item.captured.local : today).slice(0, 4),
    own,
  };
  const credit = creditInContext<TermsView, LocationView>(says, context);
  return {
    ...credit,
    standing: termsStanding(credit.terms, today, credit.embargoUntil),
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
