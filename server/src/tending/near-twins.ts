import { wallClockMs } from '@tally/core/capture';
import { finding, isAside, isSmallerOf, type Pictured } from '@tally/core/drive';
import { looksTheSame } from '@tally/core/find';
import { folderOf } from '@tally/core/rule';
import type { House } from '../house/index.js';
import { shelfNow } from '../shelf/index.js';
import { forgetFindings, keepFindings, type NewFinding } from './store/findings.js';
import { adoptedPictures, type FiledPicture, picturesOf } from './store/pictures.js';

const AT_A_TIME = 100;
/** Pictures of a plain wall look like many: so many of them are compared. */
const MOST_ALIKE = 12;

/** Finds what was adopted at a place and is filed in a larger size, too. Only what has been looked at can be told. */
export async function findNearTwins(house: House, placeId: string, signal: AbortSignal): Promise<void> {
  const found: NewFinding[] = [];
  for (let after = 0; ;) {
    const some = await adoptedPictures(house.db, placeId, after, AT_A_TIME);
    if (some.length) {
      signal.throwIfAborted();
      const shelf = await shelfNow(house);
      const alike = new Map(some.map(({ itemId }) => [itemId, looksTheSame(shelf, itemId).slice(0, MOST_ALIKE)]));
      const others = new Map(
        (await picturesOf(house.db, [...new Set([...alike.values()].flat())])).map((one) => [one.itemId, one]),
      );
      for (const small of some) {
        if (isAside(small.path)) continue;
        const larger = alike
          .get(small.itemId)!
          .flatMap((id) => others.get(id) ?? [])
          .filter(({ path }) => !isAside(path));
        const twin = larger.find((large) => isSmallerOf(pictured(small), pictured(large)));
        if (twin) found.push(nearTwin(small, twin));
      }
    }
    if (some.length < AT_A_TIME) break;
    after = some.at(-1)!.filedItemId;
  }
  await keepFindings(house.db, placeId, found, house.clock());
  await forgetFindings(house.db, placeId, ['near twin'], null, found);
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
