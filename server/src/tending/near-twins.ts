import { wallClockMs } from '@tally/core/capture';
import { finding, isAside, isSmallerOf, type Pictured } from '@tally/core/drive';
import { looksTheSame } from '@tally/core/find';
import { folderOf } from '@tally/core/rule';
import type { House } from '../house/index.js';
import { shelfNow } from '../shelf/index.js';
import { forgetFindings, keepFindings, type NewFinding } from './store/findings.js';
import { type FiledPicture, intakesAdoptedAt, picturesOf, picturesOfIntakes } from './store/pictures.js';

const AT_A_TIME = 100;
/** Pictures of a plain wall look like many: so many of them are compared. */
const MOST_ALIKE = 12;

/** Finds what was adopted at a place and is filed in a larger size, too. Only what has been looked at can be told. */
export async function findNearTwins(house: House, placeId: string, signal: AbortSignal): Promise<void> {
  const found: NewFinding[] = [];
  for (let after = 0; ;) {
    const intakes = await intakesAdoptedAt(house.db, placeId, after, AT_A_TIME);
    const pictures = (await picturesOfIntakes(house.db, intakes)).filter(({ path }) => !isAside(path));
    for (let from = 0; from < pictures.length; from += AT_A_TIME) {
      signal.throwIfAborted();
      found.push(...(await twinsOf(house, pictures.slice(from, from + AT_A_TIME))));
    }
    if (intakes.length < AT_A_TIME) break;
    after = intakes.at(-1)!;
  }
  await keepFindings(house.db, placeId, found, house.clock());
  await forgetFindings(house.db, placeId, ['near twin'], null, found);
}

async function twinsOf(house: House, some: readonly FiledPicture[]): Promise<NewFinding[]> {
  const shelf = await shelfNow(house);
  const alike = new Map(some.map(({ itemId }) => [itemId, looksTheSame(shelf, itemId).slice(0, MOST_ALIKE)]));
  const ids = [...new Set([...alike.values()].flat())];
  const others = new Map((ids.length ? await picturesOf(house.db, ids) : []).map((one) => [one.itemId, one]));
  return some.flatMap((small) => {
    const like = alike.get(small.itemId)!.flatMap((id) => others.get(id) ?? []);
    const twin = like.find((large) => !isAside(large.path) && isSmallerOf(pictured(small), pictured(large)));
    return twin ? [nearTwin(small, twin)] : [];
  });
}

const pictured = ({ width, height, capturedLocal, byCamera }: FiledPicture): Pictured => ({
  ...{ width, height },
  takenMs: byCamera ? wallClockMs(capturedLocal) : null,
});

const nearTwin = (small: FiledPicture, large: FiledPicture): NewFinding => ({
  ...finding('near twin', small.path, {
    filedItemId: small.filedItemId,
    other: large.path,
    what: `${small.width} × ${small.height} pixels, the other ${large.width} × ${large.height}`,
  }),
  ...{ folder: folderOf(small.path), files: 1 },
});
