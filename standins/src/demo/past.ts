import { join } from 'node:path';
import { thumbnailOf, withExif } from '../camera/camera.js';
import { between, chance, pick, whole } from '../chance.js';
import { drawScene } from '../scene/scene.js';
import type { Subject } from '../scene/subjects.js';
import { ACCOUNTS, ASSIGNMENTS, BODIES, CONTRIBUTORS } from './people.js';
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

/** How many earlier intakes there are, and about how many pictures each. */
const INTAKES = 44;
const SMALL = 480;

const SUBJECTS: Readonly<Record<string, readonly Subject[]>> = {
  'open-day': ['planting', 'boat', 'flats'],
  'wader-survey': ['birds', 'heron', 'flats'],
  'creek-clean-up': ['cleanup', 'reeds'],
  'sluice-inspection': ['gate'],
  'bird-count': ['birds', 'heron', 'reeds'],
  'reed-planting': ['planting', 'reeds'],
  'moth-survey': ['moth'],
  'tide-gate': ['gate', 'flats'],
};

/** A year of earlier hand-ins with small pictures, as folders and the story that files them. Ends a few days before today. */
export async function makePast(folder: string, box: string): Promise<PastIntake[]> {
  const roll = chance(2026);
  const pool = new Map<Subject, { jpeg: Buffer; thumbnail: Buffer }[]>();
  for (const subject of new Set(Object.values(SUBJECTS).flat())) {
    const drawn = [6.8, 9.5, 13, 17, 19.6].map(async (hour, index) => {
      const jpeg = await drawScene({ seed: 7000 + index * 31 + subject.length, hour: subject === 'moth' ? 22 : hour, subject }, SMALL, 78);
      return { jpeg, thumbnail: await thumbnailOf(jpeg) };
    });
    pool.set(subject, await Promise.all(drawn));
  }

  const intakes: PastIntake[] = [];
  const counters = new Map<string, number>();
  const busy = ASSIGNMENTS.flatMap((assignment) => Array.from({ length: Math.min(assignment.cards * 2, 14) }, () => assignment));
  const start = Date.parse('2025-05-02T10:00:00Z');
  const end = Date.parse('2026-04-15T16:00:00Z');
  for (let index = 0; index < INTAKES; index++) {
    const at = new Date(start + ((end - start) * (index + between(roll, 0.05, 0.95))) / INTAKES);
    const contributor = pick(roll, CONTRIBUTORS);
    const assignment = pick(roll, busy);
    const body = BODIES[contributor.code]!;
    const name = `past/${String(index).padStart(3, '0')}`;
    let shot = later(at.toISOString().slice(0, 19), -whole(roll, 1, 3) * 86_400);
    const count = whole(roll, 5, 16);
    for (let i = 0; i < count; i++) {
      const from = counters.get(contributor.code) ?? 1;
      counters.set(contributor.code, from + 1);
      const { jpeg, thumbnail } = pick(roll, pool.get(pick(roll, SUBJECTS[assignment.slug]!))!);
      const picture = withExif(jpeg, thumbnail, body, exposureOf(shot, null, from), { width: SMALL, height: Math.round((SMALL * 2) / 3) });
      await put(join(folder, name, 'DCIM', body.folder, `${body.prefix}${cameraNumber(from, 0)}.JPG`), picture, shot);
      shot = later(shot, whole(roll, 5, 400));
    }
    const label = `C-${String(40 + index).padStart(3, '0')}`;
    const receivedBy = pick(roll, ACCOUNTS).name;
    intakes.push({ at: at.toISOString(), folder: name, contributor: contributor.code, assignment: assignment.slug, label, receivedBy, givenBack: index < INTAKES - 2 });
  }
  await copyJuniaFirst(box, join(folder, 'past/junia'));
  intakes.push({ at: '2026-04-13T09:20:00.000Z', folder: 'past/junia', contributor: 'JA', assignment: 'bird-count', label: 'C-031', receivedBy: 'wren', givenBack: true });
  return intakes;
}
