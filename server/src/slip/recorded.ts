import type { RecordedCredit } from '@tally/contract';
import { creditOf, type CreditSaid } from '@tally/core/credit';
import type { House } from '../house/index.js';
import { intakeCredit } from './credit.js';
import { ownCredits } from './store/recorded.js';

type Speaker = Omit<CreditSaid, 'wordIds'> & { words: readonly { id: number }[] };

const saidOf = ({ words, ...said }: Speaker): CreditSaid => ({
  ...{ creditLine: said.creditLine, copyrightNotice: said.copyrightNotice, termsId: said.termsId, locationId: said.locationId },
  wordIds: words.map(({ id }) => id),
});

/** The credit of each item of an intake, put together from all who say something of it: as a record keeps it. */
export async function recordedCredit(house: House, intakeId: number): Promise<(itemId: number) => RecordedCredit | null> {
  const context = await intakeCredit(house, intakeId);
  const own = await ownCredits(house.db, intakeId);
  const texts = new Map(
    [context.slip, ...context.assignments].flatMap(({ words }) => words.map(({ id, text }) => [id, text] as const)),
  );
  for (const { words } of own.values()) for (const { id, text } of words) texts.set(id, text);
  return (itemId) => {
    const item = own.get(itemId);
    if (!item) return null;
    const contributor = context.contributors.find(({ id }) => id === item.contributorId) ?? null;
    const assignment = context.assignments.find(({ id }) => id === item.assignmentId) ?? null;
    const levels = {
      item: saidOf({ ...item, words: item.words.filter(({ has }) => has) }),
      slip: saidOf(context.slip),
      ...(assignment ? { assignment: saidOf(assignment) } : {}),
      ...(contributor ? { contributor: saidOf(contributor) } : {}),
      house: saidOf(context.house),
    };
    const facts = { contributor, house: context.house.name, assignment: assignment?.title ?? null, year: item.year };
    const without = item.words.filter(({ has }) => !has).map(({ id }) => id);
    const credit = creditOf(levels, facts, without);
    const terms = context.terms.find(({ id }) => id === credit.termsId);
    const location = context.locations.find(({ id }) => id === credit.locationId);
    return {
      creator: contributor?.name ?? null,
      creditLine: credit.creditLine,
      copyrightNotice: credit.copyrightNotice,
      terms: terms
        ? { name: terms.name, stance: terms.stance, sentence: terms.sentence, web: terms.web, until: terms.until }
        : null,
      embargoUntil: assignment?.embargoUntil ?? null,
      keywords: credit.wordIds.flatMap((id) => texts.get(id) ?? []),
      location: location
        ? {
            ...{
              name: location.name,
              part: location.part,
              town: location.town,
              region: location.region,
              country: location.country,
            },
            ...(item.lat === null ? { lat: location.lat, lon: location.lon } : { lat: item.lat, lon: item.lon }),
          }
        : null,
      personShown: item.pictured,
    };
  };
}
