import { mkdir, readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { clipSidecar, makeClip, makeSound } from '../camera/clips.js';
import { drawScene } from '../scene/scene.js';
import { actionCard, cinemaCard, phoneCard } from './footage-cards.js';
import { BODIES } from './people.js';
import { cameraNumber, hourOf, later, session, type Shot } from './shots.js';
import { put, stamp, writeShots } from './write-card.js';

/** One card of the demonstration, for the panel that puts it in. */
export interface DemoCard {
  readonly volume: string;
  readonly says: string;
  /** How much the card holds; 32 unless said. */
  readonly gigabytes?: number;
}

export const DEMO_CARDS: readonly DemoCard[] = [
  { volume: 'HALDEN_M4', says: 'Ines Barrow: reed planting, stills only' },
  { volume: 'CORVANE_K2', says: 'Halvard Moss: tide gate repair, raw + JPEG' },
  { volume: 'ORRERY_CINE', says: 'Sefa Tuiasosopo: tide gate, video with sidecars, and sound' },
  { volume: 'BRISLING_7', says: 'Mateo Sorrel: bird count and moth survey, six by another camera' },
  { volume: 'BRISLING_POND', says: "Ola Brandt: bird count, the camera's clock fell back" },
  { volume: 'HALDEN_M2', says: 'Junia Addo: bird count, half of it is filed already' },
  { volume: 'ORRERY_REEL', says: 'Sefa Tuiasosopo: tide gate, a cinema card that stays whole', gigabytes: 256 },
  { volume: 'PELLET_A2', says: 'Halvard Moss: reed planting, one recording in three chapters' },
  { volume: 'FENNICK_P6', says: "June Aldwin's phone: stills with their moving parts, one edited" },
];

const SUMMER = '+01:00';

/** Writes the cards into a folder. `JUNIA_FIRST` is what the half-filed card held when it was first read. */
export async function makeCards(box: string): Promise<void> {
  await Promise.all([ines(join(box, 'HALDEN_M4')), halvard(join(box, 'CORVANE_K2'))]);
  await Promise.all([sefa(join(box, 'ORRERY_CINE')), mateo(join(box, 'BRISLING_7'))]);
  await Promise.all([ola(join(box, 'BRISLING_POND')), junia(join(box, 'HALDEN_M2'))]);
  await Promise.all([cinemaCard(join(box, 'ORRERY_REEL')), phoneCard(join(box, 'FENNICK_P6'))]);
  await actionCard(join(box, 'PELLET_A2'));
}

function namer(code: string, first: number) {
  const { prefix } = BODIES[code]!;
  return (index: number) => `${prefix}${cameraNumber(first, index)}`;
}

async function ines(card: string): Promise<void> {
  const body = BODIES['IB']!;
  const shots = [
    ...session(11, '2026-04-18T08:52:10', 11, ['flats', 'reeds', 'birds']),
    ...session(12, '2026-04-18T10:31:40', 15, ['planting', 'planting', 'reeds']),
    ...session(13, '2026-04-18T14:06:05', 10, ['planting', 'boat', 'heron']),
    ...session(14, '2026-04-18T17:48:30', 8, ['planting', 'flats', 'boat']),
  ];
  await writeShots(shots, { body, folder: join(card, 'DCIM', body.folder), nameOf: namer('IB', 417), offset: SUMMER });
  await put(join(card, 'MISC', 'INDEX.DAT'), 'camera index', '2026-04-18T18:00:00');
  await put(join(card, '.Trashes', '501', '._HM4_0410.JPG'), 'thrown away', '2026-04-18T18:00:00');
}

async function halvard(card: string): Promise<void> {
  const body = BODIES['HM']!;
  const shots = [
    ...session(21, '2026-04-20T09:14:00', 9, ['gate', 'gate', 'flats']),
    ...session(22, '2026-04-20T15:20:30', 7, ['gate', 'boat']),
  ];
  await writeShots(shots, {
    body,
    folder: join(card, 'DCIM', body.folder),
    nameOf: namer('HM', 9993),
    offset: SUMMER,
    raw: true,
  });
}

async function sefa(card: string): Promise<void> {
  const body = BODIES['ST']!;
  const starts = [
    '2026-04-20T10:02:11',
    '2026-04-20T10:09:47',
    '2026-04-20T10:31:02',
    '2026-04-20T15:41:30',
    '2026-04-20T15:55:18',
  ];
  for (const [index, at] of starts.entries()) {
    const name = `CLIP${cameraNumber(31, index)}`;
    const picture = join(card, '..', `.frame-${name}.jpg`);
    await mkdir(join(card, 'CLIPS'), { recursive: true });
    await writeFile(
      picture,
      await drawScene({ seed: 900 + index * 13, hour: hourOf(at), subject: index % 2 ? 'boat' : 'gate' }, 1500),
    );
    const seconds = 4 + index;
    const file = join(card, 'CLIPS', `${name}.MP4`);
    await makeClip(picture, file, seconds, `${later(at, -3600)}Z`);
    await stamp(file, at);
    await put(join(card, 'CLIPS', `${name}.XML`), clipSidecar(body, name, at, seconds), at);
  }
  for (const [index, at] of ['2026-04-20T10:05:00', '2026-04-20T15:44:12'].entries()) {
    const file = join(card, 'SOUND', `TIDE_${cameraNumber(7, index)}.WAV`);
    await mkdir(join(card, 'SOUND'), { recursive: true });
    await makeSound(file, 6 + index * 3, at, index);
    await stamp(file, at);
  }
  await writeShots(session(31, '2026-04-20T11:10:00', 5, ['gate', 'birds']), {
    body,
    folder: join(card, 'DCIM', body.folder),
    nameOf: (i) => `ORRC${cameraNumber(88, i)}`,
    offset: null,
  });
  await put(join(card, 'PRIVATE', 'MEDIAPRO.IDX'), 'camera index', '2026-04-20T16:00:00');
}

async function mateo(card: string): Promise<void> {
  const body = BODIES['MS']!;
  const shots = [
    ...session(41, '2026-04-19T06:20:00', 14, ['birds', 'heron', 'flats', 'birds']),
    ...session(43, '2026-04-19T21:15:20', 12, ['moth']),
  ];
  await writeShots(shots, { body, folder: join(card, 'DCIM', body.folder), nameOf: namer('MS', 2204), offset: SUMMER });
  // For a while the card was in Ines Barrow's camera.
  const lent = BODIES['IB']!;
  const heron = session(42, '2026-04-19T09:35:00', 6, ['heron', 'reeds']);
  await writeShots(heron, { body: lent, folder: join(card, 'DCIM', lent.folder), nameOf: namer('IB', 398), offset: SUMMER });
}

/** The battery of this camera ran flat: its clock counts from the start of 2000 again. */
async function ola(card: string): Promise<void> {
  const body = BODIES['OB']!;
  const shots = session(51, '2026-04-19T07:10:00', 12, ['birds', 'flats', 'heron'], 7.2);
  const began = Date.parse(`${shots[0]!.at}Z`);
  const clock = (at: string) => later('2000-01-01T00:02:14', (Date.parse(`${at}Z`) - began) / 1000);
  await writeShots(shots, { body, folder: join(card, 'DCIM', body.folder), nameOf: namer('OB', 12), clock, offset: null });
}

export const JUNIA_FIRST = 12;

export function juniaShots(): Shot[] {
  return [
    ...session(61, '2026-04-12T08:05:00', JUNIA_FIRST, ['birds', 'flats']),
    ...session(62, '2026-04-19T16:30:00', 11, ['birds', 'reeds', 'boat']),
  ];
}

async function junia(card: string): Promise<void> {
  const body = BODIES['JA']!;
  await writeShots(juniaShots(), { body, folder: join(card, 'DCIM', body.folder), nameOf: namer('JA', 640), offset: SUMMER });
}

/** Copies what Junia's card held at its first reading: the same bytes, times and names. */
export async function copyJuniaFirst(box: string, to: string): Promise<void> {
  const body = BODIES['JA']!;
  for (let index = 0; index < JUNIA_FIRST; index++) {
    const path = join('DCIM', body.folder, `${namer('JA', 640)(index)}.JPG`);
    const { mtime } = await stat(join(box, 'HALDEN_M2', path));
    await put(
      join(to, path),
      await readFile(join(box, 'HALDEN_M2', path)),
      new Date(mtime.getTime() + 3_600_000).toISOString().slice(0, 19),
    );
  }
}
