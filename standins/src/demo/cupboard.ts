import { join } from 'node:path';
import { thumbnailOf, withExif } from '../camera/camera.js';
import { chance, pick, whole } from '../chance.js';
import { drawScene } from '../scene/scene.js';
import type { Subject } from '../scene/subjects.js';
import { BODIES } from './people.js';
import { exposureOf, later } from './shots.js';
import { put } from './write-card.js';

const SMALL = 480;

/** Years of folders that somebody filed by hand before there was a rule: months in words, days, what it was, who. */
const FOLDERS: readonly { readonly path: string; readonly day: string; readonly by: string; readonly subject: Subject }[] = [
  { path: '2019/05 May/2019-05-18 Dune walk', day: '2019-05-18', by: 'WC', subject: 'flats' },
  { path: '2020/09 September/2020-09-12 Seal watch', day: '2020-09-12', by: 'JA', subject: 'boat' },
  { path: '2021/06 June/2021-06-05 Sluice repair', day: '2021-06-05', by: 'IB', subject: 'cleanup' },
  { path: '2022/04 April/2022-04-23 Reed planting North Creek', day: '2022-04-23', by: 'PL', subject: 'planting' },
  { path: '2023/10 October/2023-10-14 Autumn open day', day: '2023-10-14', by: 'TRO', subject: 'boat' },
  { path: '2024/02 February/2024-02-17 Storm damage', day: '2024-02-17', by: 'IB', subject: 'reeds' },
];

/** Folders that say nothing. */
const NAMELESS = [
  { path: 'new folder (2)', day: '2023-07-01', subject: 'heron' },
  { path: 'untitled 3', day: '2024-05-11', subject: 'birds' },
] as const;

/** Pictures of the sluice, made small for a page and kept beside the others. */
const FOR_A_PAGE = { path: '2021/06 June/for the web page', day: '2021-06-09', subject: 'cleanup', size: 240 } as const;

/** What a picture shows depends on its hour and subject only, whatever its size. */
const scene = (hour: number, subject: Subject) => ({ seed: 9000 + Math.round(hour * 10) + subject.length, hour, subject });

/** Draws an old cupboard drive of 2019 to 2024 into a folder: small pictures under another habit than the house's. */
export async function makeCupboard(folder: string): Promise<void> {
  const roll = chance(1924);
  const drawn = new Map<string, Buffer>();
  for (const subject of new Set([...FOLDERS, ...NAMELESS].map((one) => one.subject)))
    for (const hour of [8, 12.5, 18]) drawn.set(`${subject} ${hour}`, await drawScene(scene(hour, subject), SMALL, 78));
  for (const { path, day, by, subject } of FOLDERS) {
    const body = BODIES[by]!;
    let at = `${day}T10:${String(whole(roll, 10, 50))}:00`;
    const count = whole(roll, 4, 7);
    for (let n = 1; n <= count; n++) {
      const jpeg = drawn.get(`${subject} ${pick(roll, [8, 12.5, 18])}`)!;
      const size = { width: SMALL, height: Math.round((SMALL * 2) / 3) };
      const picture = withExif(jpeg, await thumbnailOf(jpeg), body, exposureOf(at, null, whole(roll, 1, 90_000)), size);
      await put(join(folder, path, `${by}_${String(n).padStart(3, '0')}.jpg`), picture, at);
      at = later(at, whole(roll, 20, 900));
    }
  }
  // Without a camera's data: only the files' own times say something, and not much.
  for (const { path, day, subject } of NAMELESS)
    for (const [n, hour] of [8, 12.5, 18].entries())
      await put(join(folder, path, `scan ${n + 1}.jpg`), drawn.get(`${subject} ${hour}`)!, `${day}T09:0${n}:00`);
  const { path, day, subject, size } = FOR_A_PAGE;
  for (const [n, hour] of [8, 12.5, 18].entries())
    await put(
      join(folder, path, `sluice${n + 1}-small.jpg`),
      await drawScene(scene(hour, subject), size, 70),
      `${day}T15:0${n}:00`,
    );
  await put(join(folder, 'untitled 3/Thumbs.db'), 'thumbnails', '2024-05-11T09:10:00');
}
