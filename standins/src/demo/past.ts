import { join } from 'node:path';
import { thumbnailOf, withExif } from '../camera/camera.js';
import { chance, pick, whole, type Chance } from '../chance.js';
import { drawScene } from '../scene/scene.js';
import type { Subject } from '../scene/subjects.js';
import { ACCOUNTS, BODIES, CONTRIBUTORS } from './people.js';
import { copyJuniaFirst } from './cards.js';
import { cameraNumber, exposureOf, later } from './shots.js';
import { put } from './write-card.js';

interface PastIntake {
  readonly at: string;
  readonly folder: string;
  readonly contributor: string;
  readonly assignment: string;
  readonly label: string;
  readonly receivedBy: string;
  readonly givenBack: boolean;
}

const SMALL = 480;

const SUBJECTS: Readonly<Record<string, readonly Subject[]>> = {
  'marsh-diary': ['flats', 'reeds', 'birds', 'boat', 'heron'],
  'open-day': ['planting', 'boat', 'flats'],
  'wader-survey': ['birds', 'heron', 'flats'],
  'creek-clean-up': ['cleanup', 'reeds'],
  'bird-count': ['birds', 'heron', 'reeds'],
  'reed-planting': ['planting', 'reeds'],
};

/** One earlier hand-in: the day it was shot, by whom, for what. */
interface HandIn {
  readonly shot: string;
  readonly contributor: string;
  readonly assignment: string;
}

/** A year of hand-ins: somebody's walk with a camera most weeks, and the assignments on their days. */
function handIns(roll: Chance): HandIn[] {
  const all: HandIn[] = [];
  for (let day = '2025-05-03T10:00:00'; day < '2026-04-12'; day = later(day, whole(roll, 8, 18) * 86_400)) {
    all.push({ shot: day, contributor: pick(roll, CONTRIBUTORS).code, assignment: 'marsh-diary' });
  }
  for (const contributor of ['JUA', 'WC', 'IB', 'PL', 'TRO'])
    all.push({ shot: '2025-10-11T11:00:00', contributor, assignment: 'open-day' });
  for (const day of ['2025-11-08', '2025-12-06', '2026-01-10', '2026-01-31', '2026-02-21']) {
    for (const contributor of roll() < 0.6 ? ['MS', 'OB'] : ['TRO'])
      all.push({ shot: `${day}T09:00:00`, contributor, assignment: 'wader-survey' });
  }
  for (const contributor of ['JA', 'ST', 'PL', 'HM'])
    all.push({ shot: '2026-03-14T10:00:00', contributor, assignment: 'creek-clean-up' });
  for (const contributor of ['PL', 'TRO']) all.push({ shot: '2026-04-11T07:00:00', contributor, assignment: 'bird-count' });
  for (const contributor of ['WC', 'JUA']) all.push({ shot: '2026-04-18T11:00:00', contributor, assignment: 'reed-planting' });
  return all.sort((a, b) => (a.shot < b.shot ? -1 : 1));
}

/** A year of earlier hand-ins with small pictures, as folders and the story that files them. Ends a few days before today. */
export async function makePast(folder: string, box: string): Promise<PastIntake[]> {
  const roll = chance(2026);
  const pool = new Map<Subject, { jpeg: Buffer; thumbnail: Buffer }[]>();
  for (const subject of new Set(Object.values(SUBJECTS).flat())) {
    const drawn = [6.8, 9.5, 13, 17, 19.6].map(async (hour, index) => {
      const jpeg = await drawScene(
        { seed: 7000 + index * 31 + subject.length, hour: subject === 'moth' ? 22 : hour, subject },
        SMALL,
        78,
      );
      return { jpeg, thumbnail: await thumbnailOf(jpeg) };
    });
    pool.set(subject, await Promise.all(drawn));
  }

  const intakes: PastIntake[] = [];
  const counters = new Map<string, number>();
  for (const [index, { shot, contributor, assignment }] of handIns(roll).entries()) {
    const body = BODIES[contributor]!;
    // The name of the last folder is what the system would call the card.
    const name = `past/${String(index).padStart(3, '0')}/${body.folder.slice(3)}`;
    let at = later(shot, whole(roll, 0, 90) * 60);
    const count = whole(roll, 5, 24);
    for (let i = 0; i < count; i++) {
      const from = counters.get(contributor) ?? whole(roll, 100, 3000);
      counters.set(contributor, from + 1);
      const { jpeg, thumbnail } = pick(roll, pool.get(pick(roll, SUBJECTS[assignment]!))!);
      const picture = withExif(jpeg, thumbnail, body, exposureOf(at, null, from), {
        width: SMALL,
        height: Math.round((SMALL * 2) / 3),
      });
      await put(join(folder, name, 'DCIM', body.folder, `${body.prefix}${cameraNumber(from, 0)}.JPG`), picture, at);
      at = later(at, whole(roll, 5, 400));
    }
    const received = `${later(at, whole(roll, 1, 2) * 86_400).slice(0, 10)}T${String(whole(roll, 9, 17)).padStart(2, '0')}:${String(whole(roll, 10, 59))}:00Z`;
    const label = `C-${String(40 + index).padStart(3, '0')}`;
    intakes.push({
      at: new Date(received).toISOString(),
      folder: name,
      contributor,
      assignment,
      label,
      receivedBy: pick(roll, ACCOUNTS).name,
      givenBack: assignment !== 'reed-planting',
    });
  }
  await copyJuniaFirst(box, join(folder, 'past/junia/HALDEN_M2'));
  intakes.push({
    at: '2026-04-13T09:20:00.000Z',
    folder: 'past/junia/HALDEN_M2',
    contributor: 'JA',
    assignment: 'bird-count',
    label: 'C-014',
    receivedBy: 'wren',
    givenBack: true,
  });
  return intakes.sort((a, b) => (a.at < b.at ? -1 : 1));
}
