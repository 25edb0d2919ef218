import { mkdir, utimes, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import sharp from 'sharp';
import { rawFile, thumbnailOf, withExif, type Body } from '../camera/camera.js';
import { drawScene } from '../scene/scene.js';
import { exposureOf, type Shot } from './shots.js';

/** Pixels along the long side of the demonstration's pictures. */
const WIDTH = 1500;

/** Local time in the demonstration is one hour ahead of UTC (British summer time). */
const OFFSET_MS = 3_600_000;

/** Writes a file with the time at which a camera would have written it. */
export async function put(file: string, bytes: Buffer | string, at: string): Promise<void> {
  await mkdir(dirname(file), { recursive: true });
  await writeFile(file, bytes);
  await stamp(file, at);
}

export async function stamp(file: string, at: string): Promise<void> {
  const time = new Date(Date.parse(`${at}Z`) - OFFSET_MS);
  await utimes(file, time, time);
}

export interface Takes {
  readonly body: Body;
  readonly folder: string;
  /** File name without extension of a shot. */
  readonly nameOf: (index: number) => string;
  /** Time that the camera's clock shows; its file times follow it. */
  readonly clock?: (at: string) => string;
  readonly offset: string | null;
  readonly raw?: boolean;
}

/** Draws shots and writes them as a camera would: JPEG with EXIF, and a raw file where it makes one. Two at a time. */
export async function writeShots(shots: readonly Shot[], takes: Takes): Promise<void> {
  const lanes = [0, 1].map(async (lane) => {
    for (let index = lane; index < shots.length; index += 2) await writeShot(shots[index]!, index, takes);
  });
  await Promise.all(lanes);
}

async function writeShot(shot: Shot, index: number, takes: Takes): Promise<void> {
  const plain = await drawScene(shot.scene, WIDTH);
  const at = takes.clock?.(shot.at) ?? shot.at;
  const exposure = exposureOf(at, takes.offset, shot.scene.seed);
  const { width, height } = await sharp(plain).metadata();
  const base = join(takes.folder, takes.nameOf(index));
  await put(`${base}.JPG`, withExif(plain, await thumbnailOf(plain), takes.body, exposure, { width, height }), at);
  if (takes.raw) await put(`${base}.DNG`, await rawFile(plain, takes.body, exposure), at);
}
