import { mkdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { thumbnailOf, type Body } from '../camera/camera.js';
import { clipSidecar, makeClip, makeSmall, type ClipLooks } from '../camera/clips.js';
import { drawScene } from '../scene/scene.js';
import type { Subject } from '../scene/subjects.js';
import { hourOf, later, session } from './shots.js';
import { put, stamp, writeShots } from './write-card.js';

type Named = Body & { prefix: string; folder: string };

const REEL = { make: 'Orrery', model: 'Reel 8', serial: 'OR8-0031', prefix: 'ORR', folder: 'ORRROOT' } satisfies Named;
const PHONE = { make: 'Fennick', model: 'P6', serial: 'FP6-55120', prefix: 'IMG_', folder: '100FENIK' } satisfies Named;
const HLG: ClipLooks['colour'] = { primaries: 'bt2020', transfer: 'arib-std-b67', matrix: 'bt2020nc' };

/** A clip of a scene, and the still it pans over. */
async function clip(file: string, at: string, seconds: number, subject: Subject, looks: ClipLooks = {}): Promise<Buffer> {
  const still = await drawScene({ seed: Date.parse(`${at}Z`) / 1000, hour: hourOf(at), subject }, 1500);
  await mkdir(join(file, '..'), { recursive: true });
  const picture = `${file}.still.jpg`;
  await writeFile(picture, still);
  await makeClip(picture, file, seconds, `${later(at, -3600)}Z`, looks);
  await rm(picture);
  await stamp(file, at);
  return still;
}

/** A cinema camera: clips with descriptions, small versions and thumbnails in folders of their own, and an index. */
export async function cinemaCard(card: string): Promise<void> {
  const root = join(card, 'PRIVATE', REEL.folder);
  const takes: [string, number, Subject][] = [
    ['2026-04-20T09:40:12', 4, 'gate'],
    ['2026-04-20T09:52:30', 3, 'gate'],
    ['2026-04-20T11:05:44', 5, 'boat'],
  ];
  for (const [index, [at, seconds, subject]] of takes.entries()) {
    const name = `${REEL.prefix}${String(index + 1).padStart(4, '0')}`;
    const looks = { colour: HLG, timecode: `${at.slice(11)}:00` };
    const still = await clip(join(root, 'CLIP', `${name}.MP4`), at, seconds, subject, looks);
    await put(join(root, 'CLIP', `${name}M01.XML`), clipSidecar(REEL, name, at, seconds), at);
    await small(join(root, 'CLIP', `${name}.MP4`), join(root, 'SUB', `${name}S03.MP4`), at, 480);
    await put(join(root, 'THMBNL', `${name}T01.JPG`), await thumbnailOf(still), at);
  }
  const names = takes.map((_, index) => `<Clip name="${REEL.prefix}${String(index + 1).padStart(4, '0')}"/>`);
  await put(join(root, 'INDEX.XML'), `<ClipIndex>${names.join('')}</ClipIndex>\n`, '2026-04-20T11:06:00');
  await put(join(root, 'GENERAL', 'LUT', 'TIDE.CUBE'), 'LUT_1D_SIZE 2\n0 0 0\n1 1 1\n', '2026-04-20T09:00:00');
}

/** A small camera that breaks long recordings into chapters, each with a small version and a thumbnail. */
export async function actionCard(card: string): Promise<void> {
  const folder = join(card, 'DCIM', '100PELLT');
  const chapters: [string, string, number][] = [
    ['PE010021', '2026-04-18T10:12:00', 5],
    ['PE020021', '2026-04-18T10:12:05', 5],
    ['PE030021', '2026-04-18T10:12:10', 3],
    ['PE010022', '2026-04-18T14:30:00', 4],
  ];
  for (const [name, at, seconds] of chapters) {
    const still = await clip(join(folder, `${name}.MP4`), at, seconds, 'planting');
    await put(join(folder, `${name}.THM`), await thumbnailOf(still), at);
    await small(join(folder, `${name}.MP4`), join(folder, `${name}.LRV`), at, 320);
  }
}

async function small(clip: string, file: string, at: string, width: number): Promise<void> {
  await mkdir(join(file, '..'), { recursive: true });
  await makeSmall(clip, file, width);
  await stamp(file, at);
}

/** A phone: stills with a short moving part, one that was edited on the phone, and a clip. */
export async function phoneCard(card: string): Promise<void> {
  const folder = join(card, 'DCIM', PHONE.folder);
  const shots = session(71, '2026-04-18T11:20:00', 7, ['planting', 'reeds', 'heron']);
  const nameOf = (index: number) => `${PHONE.prefix}0${101 + index}`;
  await writeShots(shots, { body: PHONE, folder, nameOf, offset: '+01:00' });
  for (const index of [0, 1, 4]) await clip(join(folder, `${nameOf(index)}.MOV`), shots[index]!.at, 2, 'planting');
  const edited = session(72, shots[2]!.at, 1, ['reeds']);
  await writeShots(edited, { body: PHONE, folder, nameOf: () => 'IMG_E0103', offset: '+01:00' });
  await put(join(folder, 'IMG_0103.AAE'), '<plist version="1.0"><dict/></plist>\n', shots[2]!.at);
  await clip(join(folder, 'IMG_0120.MOV'), '2026-04-18T11:58:00', 4, 'boat');
}
