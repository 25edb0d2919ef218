import { peaksOf, WAVE_BARS } from '@tally/core/looks';
import { own } from '@tally/core/lookup';
import { spawn } from 'node:child_process';
import { limited } from '../aside/limited.js';
import { runLimited, TOOL_MEMORY_BYTES } from './run-limited.js';
import { withSafePath } from './safe-path.js';

const QUIET = ['-v', 'error', '-nostdin'];

/** What cameras, phones and recorders write. No playlists, no lists of other files, whatever a name ends in. */
const FORMATS = [
  'mov',
  'mp4',
  'm4a',
  '3gp',
  '3g2',
  'mj2',
  'matroska',
  'webm',
  'avi',
  'asf',
  'flv',
  'mpeg',
  'mpegts',
  'mpegvideo',
  'mxf',
  'dv',
  'ogg',
  'wav',
  'w64',
  'aiff',
  'caf',
  'mp3',
  'aac',
  'flac',
  'amr',
  'h264',
  'hevc',
  'm4v',
];

/** Arguments that open a file: only of these formats, and only itself. */
export const openOnly = (path: string): string[] => [
  '-protocol_whitelist',
  'file',
  '-format_whitelist',
  FORMATS.join(','),
  '-i',
  `file:${path}`,
];

const WAVE_HZ = 8000;
const LONGEST_MAKING_MS = 15 * 60_000;

/** What browsers are told a clip or sound is: never anything that they would run. */
const TYPES: Readonly<Record<string, string>> = {
  ...{ mp4: 'video/mp4', m4v: 'video/mp4', mov: 'video/mp4', webm: 'video/webm', mkv: 'video/x-matroska', '3gp': 'video/3gpp' },
  ...{ wav: 'audio/wav', bwf: 'audio/wav', mp3: 'audio/mpeg', m4a: 'audio/mp4', aac: 'audio/aac', flac: 'audio/flac' },
  ...{ ogg: 'audio/ogg', opus: 'audio/ogg' },
};

export const mediaType = (extension: string): string => own(TYPES, extension) ?? 'application/octet-stream';

/** A frame one second into a clip, or the first one of a shorter clip. Seeking before opening keeps it quick. */
export async function poster(path: Buffer, pixels: number): Promise<Buffer | null> {
  const scale = `scale='min(${pixels},iw)':'min(${pixels},ih)':force_original_aspect_ratio=decrease`;
  return withSafePath(path, async (safe) => {
    for (const at of ['1', '0']) {
      const opening = [...QUIET, '-ss', at, ...openOnly(safe)];
      const output = ['-frames:v', '1', '-vf', scale, '-f', 'mjpeg', '-q:v', '4', 'pipe:1'];
      try {
        const made = await runLimited('ffmpeg', [...opening, ...output], { maxBuffer: 1 << 24, timeout: 20_000 });
        if (made.length) return made;
      } catch {
        // Not readable at this point of time: try the start, then draw a shape.
      }
    }
    return null;
  });
}

/** A small version that every browser plays: H.264 and AAC in MP4, index first. @returns false when it cannot be read. */
export async function makeSmallVersion(path: Buffer, isVideo: boolean, target: string): Promise<boolean> {
  const video = ['-vf', `scale='min(854,iw)':-2`, '-c:v', 'libx264', '-preset', 'veryfast', '-crf', '26', '-pix_fmt', 'yuv420p'];
  const args = [
    ...(isVideo ? video : ['-vn']),
    '-c:a',
    'aac',
    '-b:a',
    '96k',
    // Where, when and with what it was taken stays in the file itself.
    ...['-map_metadata', '-1', '-map_chapters', '-1'],
    '-movflags',
    '+faststart',
    '-f',
    'mp4',
    '-y',
    target,
  ];
  return withSafePath(path, async (safe) => {
    try {
      await runLimited('ffmpeg', [...QUIET, ...openOnly(safe), ...args], { timeout: LONGEST_MAKING_MS });
      return true;
    } catch {
      return false;
    }
  });
}

/** The wave of a clip's or recording's sound: `WAVE_BARS` peaks from 0 to 255, or null when it has none that can be read. */
export async function wave(path: Buffer): Promise<Uint8Array | null> {
  const args = ['-map', '0:a:0', '-ac', '1', '-ar', String(WAVE_HZ), '-f', 's16le', 'pipe:1'];
  return withSafePath(
    path,
    (safe) =>
      new Promise((resolve) => {
        const { command, before } = limited({ memoryBytes: TOOL_MEMORY_BYTES }, 'ffmpeg');
        const tool = spawn(command, [...before, ...QUIET, ...openOnly(safe), ...args], { stdio: ['ignore', 'pipe', 'ignore'] });
        const late = setTimeout(() => tool.kill('SIGKILL'), LONGEST_MAKING_MS);
        const peaks: number[] = [];
        // A peak for every twentieth of a second bounds the memory, however long the recording is.
        const step = (WAVE_HZ / 20) * 2;
        let rest: Buffer = Buffer.alloc(0);
        tool.stdout.on('data', (chunk: Buffer) => {
          let data = rest.length ? Buffer.concat([rest, chunk]) : chunk;
          while (data.length >= step) {
            let peak = 0;
            for (let at = 0; at < step; at += 2) peak = Math.max(peak, Math.abs(data.readInt16LE(at)));
            peaks.push(peak);
            data = data.subarray(step);
          }
          rest = data;
        });
        tool.on('error', () => resolve(null));
        tool.on('close', () => {
          clearTimeout(late);
          resolve(peaks.length ? peaksOf(peaks, WAVE_BARS) : null);
        });
      }),
  );
}
