import { changesInWords } from '@tally/core/logbook';
import type { Db } from '../../db/database.js';
import { namesFor } from '../store/lists.js';

/** What of a record may be known by its number only. */
interface Numbered {
  readonly termsId?: number | null;
  readonly locationId?: number | null;
}

/** Terms and location by their names, for people to read. */
async function byName(tx: Db, said: Numbered): Promise<object> {
  const { terms, location } = await namesFor(tx, said.termsId, said.locationId);
  return {
    ...said,
    ...('termsId' in said ? { termsId: said.termsId === undefined ? undefined : terms } : {}),
    ...('locationId' in said ? { locationId: said.locationId === undefined ? undefined : location } : {}),
  };
}

/** What a change of a record changed, in words, with names where the record has numbers. */
export const changesOf = async (
  tx: Db,
  before: object,
  change: object,
  words: Readonly<Record<string, string>>,
): Promise<string[]> => changesInWords(await byName(tx, before), await byName(tx, change), words);
