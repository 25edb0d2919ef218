import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import type { Body } from './camera.js';

const execute = promisify(execFile);
const QUIET = ['-v', 'error', '-nostdin', '-y'];

export interface ClipLooks {
  /** Where the camera's timecode stands at its first frame, `hh:mm:ss:ff`. */
  readonly timecode?: string;
  /** Code points of its colour, as ffmpeg names those of ITU-T H.273. */
  readonly colour?: { readonly primaries: string; readonly transfer: string; readonly matrix: string };
}

/** A clip that pans slowly over a picture, with wind for sound. Its times are UTC, by the standard of its container. */
export async function makeClip(
  picture: string,
  file: string,
  seconds: number,
  utc: string,
  { timecode, colour }: ClipLooks = {},
): Promise<void> {
  const pan = `crop=960:540:x='(in_w-960)*t/${seconds}':y='(in_h-540)/2',format=yuv420p`;
  const tags = colour ? ['-color_primaries', colour.primaries, '-color_trc', colour.transfer, '-colorspace', colour.matrix] : [];
  await execute('ffmpeg', [
    ...QUIET,
    ...['-loop', '1', '-framerate', '25', '-t', String(seconds), '-i', picture],
    ...['-f', 'lavfi', '-t', String(seconds), '-i', 'anoisesrc=color=brown:amplitude=0.25:seed=7'],
    ...['-vf', pan, '-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '23', '-c:a', 'aac', '-b:a', '96k', '-shortest'],
    ...tags,
    ...(timecode ? ['-timecode', timecode] : []),
    ...['-metadata', `creation_time=${utc}`, '-movflags', '+faststart', '-fflags', '+bitexact', file],
  ]);
}

/** The small version that a camera makes beside a clip: the same picture, timecode and colour, fewer pixels. */
export async function makeSmall(clip: string, file: string, width: number): Promise<void> {
  await execute('ffmpeg', [
    ...[...QUIET, '-i', clip, '-vf', `scale=${width}:-2`, '-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '30'],
    ...['-c:a', 'copy', '-map_metadata', '0', '-movflags', '+faststart', '-fflags', '+bitexact', '-f', 'mp4', file],
  ]);
}

/** A broadcast wave file (EBU Tech 3285): origination date and time are local. */
export async function makeSound(file: string, seconds: number, at: string, seed: number): Promise<void> {
  const [date, time] = at.split('T');
  const sound = `anoisesrc=color=${seed % 2 ? 'pink' : 'brown'}:amplitude=0.4:seed=${seed}:duration=${seconds}`;
  await execute('ffmpeg', [
    ...QUIET,
    ...['-f', 'lavfi', '-i', sound, '-ar', '48000', '-c:a', 'pcm_s16le', '-write_bext', '1'],
    ...['-metadata', 'originator=TARN T10', '-metadata', `origination_date=${date}`, '-metadata', `origination_time=${time}`],
    ...['-fflags', '+bitexact', file],
  ]);
}

/** The sidecar that this made-up camera writes beside a clip. */
export function clipSidecar(body: Body, clip: string, at: string, seconds: number): string {
  return `<?xml version="1.0" encoding="UTF-8"?>
<ClipRecord>
  <Clip name="${clip}" start="${at}" seconds="${seconds}"/>
  <Device make="${body.make}" model="${body.model}" serial="${body.serial}"/>
</ClipRecord>
`;
}
