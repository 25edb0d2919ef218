import { EXIT, say } from '../cli/output.js';
import type { House } from '../house/index.js';
import { followItems } from '../people/index.js';
import { creditItemsMeant } from '../slip/index.js';
import { writeManifests } from './manifests.js';
import { standingOfItems } from './store.js';

/** `tally credit … --write`: brings the files of these items up to date, at every place that is here. */
export async function writeCommand(house: House, what: string[], signal: AbortSignal): Promise<number> {
  const ids = (await creditItemsMeant(house, what)).map(({ id }) => id);
  await followItems(house.db, 'select unnest($1::int[]) as item_id', [ids]);
  await writeManifests(house, signal);
  const places = await standingOfItems(house.db, ids);
  if (!places.length) say('Nothing of this is filed yet: it is written when it is filed.');
  for (const { place, inside, beside, records, behind } of places)
    say(
      `${place}: ${inside} inside, ${beside} beside, ${records} in the records only${behind ? `; ${behind} folders still to follow` : ''}.`,
    );
  return places.some(({ behind }) => behind > 0) ? EXIT.attention : EXIT.done;
}
