import type { LocationView, RecordedCredit, TermsView } from '@tally/contract';
import { creditInContext } from '@tally/core/credit';
import type { House } from '../house/index.js';
import { intakeCredit } from './credit.js';
import { ownCredits } from './store/recorded.js';

/** The credit of each item of an intake, put together from all who say something of it: as a record keeps it. */
export async function recordedCredit(house: House, intakeId: number): Promise<(itemId: number) => RecordedCredit | null> {
  const context = await intakeCredit(house, intakeId);
  const own = await ownCredits(house.db, intakeId);
  return (itemId) => {
    const item = own.get(itemId);
    if (!item) return null;
    const { words, terms, location, ...credit } = creditInContext<TermsView, LocationView>({ ...item, own: item }, context);
    return {
      ...{ creator: credit.creator, creditLine: credit.creditLine, copyrightNotice: credit.copyrightNotice },
      terms: terms && recordedTerms(terms),
      embargoUntil: credit.embargoUntil,
      keywords: words.map(({ text }) => text),
      location: location && recordedLocation(location, item),
      personShown: item.pictured,
    };
  };
}

const recordedTerms = ({ name, stance, sentence, web, until }: TermsView) => ({ name, stance, sentence, web, until });

/** Where it was taken, if somebody knows that, else where the place is. */
const recordedLocation = (
  { name, part, town, region, country, ...place }: LocationView,
  taken: { lat: number | null; lon: number | null },
) => {
  const { lat, lon } = taken.lat === null ? place : taken;
  return { ...{ name, part, town, region, country }, lat, lon };
};
