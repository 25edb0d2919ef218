import { setTimeout as sleep } from 'node:timers/promises';
import { standsAt } from '../drive/card-identity.js';
import { URGENCY, type PreviewSize } from '../media/previews.js';
import { type House, intakeById, tell } from '../house/index.js';
import { pictureSource } from './items.js';
import { itemPlace } from './store/items.js';
import { answerPicture, askPicture, pictureAnswered, picturesWanted, type AskedPicture } from './store/pictures-asked.js';

/*
 * Pictures of cards in other stations' readers. The station that has the card makes them; they come through the database,
 * and are kept here like those made here.
 */

const AT_ONCE = 16;
const ANSWERED_WITHIN_MS = 8_000;
/** Should an event be missed. */
const LOOK_MS = 1_000;

/**
 * A picture of an item whose card lies in another station's reader.
 * @returns null when it does not, when there is no picture, or when the station does not answer in time.
 */
export async function pictureFromStation(
  house: House,
  itemId: number,
  size: PreviewSize,
  gone: AbortSignal,
): Promise<Buffer | null> {
  const { db } = house;
  const place = await itemPlace(db, itemId);
  if (!place?.present || place.station === house.settings.station) return null;
  const asked: AskedPicture = { itemId, size };
  const there = new AbortController();
  const deaf = house.live.listen((event) => event.type === 'picture there' && event.itemId === itemId && there.abort());
  try {
    await askPicture(db, asked, place.station);
    for (let waited = 0; waited < ANSWERED_WITHIN_MS && !gone.aborted; waited += LOOK_MS) {
      await tell(db, { type: 'pictures wanted', station: place.station });
      // Ends early when it is there, or when nobody waits for it any more.
      await sleep(LOOK_MS, undefined, { signal: AbortSignal.any([there.signal, gone]) }).catch(() => undefined);
      const picture = await pictureAnswered(db, asked);
      if (picture === undefined) continue;
      if (picture) await house.previews.keepMade(await pictureSource(house, itemId), size, picture);
      return picture;
    }
    return null;
  } finally {
    deaf();
  }
}

/** Makes what others wait for of cards in this station's readers, some at a time. @returns how many. */
export async function answerPictures(house: House): Promise<number> {
  const wanted = await picturesWanted(house.db, house.settings.station, AT_ONCE);
  const answered = await Promise.all(wanted.map((asked) => answer(house, asked)));
  return answered.filter(Boolean).length;
}

async function answer(house: House, asked: AskedPicture): Promise<boolean> {
  const source = await pictureSource(house, asked.itemId);
  const intake = await intakeById(house.db, source.intakeId);
  // A card that is not there any more says nothing about its pictures: whoever waits asks again.
  if (!intake || !(await standsAt(intake.sourcePath, intake))) return false;
  const picture = await house.previews.made(source, asked.size, { priority: URGENCY.looking });
  await answerPicture(house.db, asked, picture);
  await tell(house.db, { type: 'picture there', itemId: asked.itemId });
  return true;
}
