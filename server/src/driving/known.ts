import { isOnSystemDisk, markAnew, markWords, probe } from '../drive/place.js';
import { houseId, type House, record, Refusal, tell } from '../house/index.js';
import { placesStanding } from './places.js';
import { setMarkedAnew } from './store.js';

const NO_TURN = 'is being worked on just now: try again in a minute';

/**
 * *This is that drive*: somebody says knowingly that what stands at a place's root is that place, though it carries another
 * mark or none, as after the database was lost, or on a new drive that was copied to. What stands there is left alone; the
 * next check compares it with the logbook. @returns what it was marked as before, in words
 * @throws Refusal when there is nothing to say, or it is another place of this house
 */
export async function placeIsKnown(house: House, id: string, who: string, signal: AbortSignal): Promise<string> {
  const places = await placesStanding(house);
  const place = places.find((one) => one.id === id);
  if (!place) throw new Refusal('not found', `There is no place ${id}: ${places.map((one) => one.id).join(', ')}.`);
  const { standing } = place;
  if (standing.online) throw new Refusal('conflict', `${place.name} is known: it carries this place's mark.`);
  if (!standing.unknown) throw new Refusal('not possible now', `${place.name} is away: ${standing.problem}.`);
  const { mark } = standing.unknown;
  const other = mark && places.find((one) => one.id !== id && one.mark === mark.mark);
  if (other)
    throw new Refusal('conflict', `${place.root} is the drive of ${other.name}: correct the paths of the two in the settings.`);
  if (mark === null && house.settings.systemDisk === undefined && (await isOnSystemDisk(place.root)))
    throw new Refusal('conflict', `${place.root} is on the disk of the system: mount its drive there first.`);
  const by = { house: house.settings.house, houseId: await houseId(house.db) };
  const { links } = await probe(place);
  const held = await house.locks.holdInTurn('place', id, signal, () =>
    markAnew(place, place.mark, by, { links, isMarked: mark !== null }),
  );
  if (!held) throw new Refusal('not possible now', `${place.name} ${NO_TURN}.`);
  const before = mark === null ? 'it carried no mark' : `it carried the mark of ${markWords(mark)}`;
  await setMarkedAnew(house.db, id);
  const text = `${place.root} was taken for ${place.name}: ${before}.`;
  await record(house.db, { at: house.clock(), kind: 'place', intakeId: null, who, text, data: { place: id, before: mark } });
  await tell(house.db, { type: 'desk' });
  await tell(house.db, { type: 'drive', placeId: id });
  return before;
}
