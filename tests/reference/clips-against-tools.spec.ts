import { beforeAll, describe, expect, it } from '@jest/globals';
import { mkdtemp, rename } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { colourInWords, profileOf } from '@tally/core/footage';
import { probeClip } from '../../server/src/media/probe.js';
import { tool } from '../../server/src/testing/tools.js';

/*
 * What clips say of themselves, against what they were told to say and what a second tool reads. The containers are made
 * by Debian's ffmpeg; the second tool is Debian's exiftool, which has readers of its own.
 */

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'tally-clips-'));
});

const COLOURS = {
  hlg: { primaries: 'bt2020', transfer: 'arib-std-b67', matrix: 'bt2020nc', code: [9, 18], words: 'HLG in BT.2020', flat: 'HLG' },
  pq: { primaries: 'bt2020', transfer: 'smpte2084', matrix: 'bt2020nc', code: [9, 16], words: 'PQ in BT.2020', flat: 'PQ' },
  plain: { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', code: [1, 1], words: 'BT.709', flat: null },
} as const;
type Colour = (typeof COLOURS)[keyof typeof COLOURS];

function clip(name: string, rate: string, { primaries, transfer, matrix }: Colour, more: readonly string[] = []): Buffer {
  const path = join(folder, name);
  tool(
    'ffmpeg',
    ...['-v', 'error', '-nostdin', '-y', '-f', 'lavfi', '-i', `testsrc=size=320x180:rate=${rate}:duration=2`],
    ...['-f', 'lavfi', '-i', 'sine=frequency=440:sample_rate=48000:duration=2', '-ac', '2', '-shortest'],
    ...['-color_primaries', primaries, '-color_trc', transfer, '-colorspace', matrix, '-pix_fmt', 'yuv420p'],
    ...more,
    path,
  );
  return Buffer.from(path);
}
/** By exiftool, numbers as they are written. */
const second = (path: Buffer, ...tags: string[]) =>
  (JSON.parse(tool('exiftool', '-n', '-j', ...tags.map((tag) => `-${tag}`), path.toString())) as Record<string, unknown>[])[0]!;

describe('clips', () => {
  it.each(Object.keys(COLOURS) as (keyof typeof COLOURS)[])(
    '%s: code points, words and the profile that is proposed',
    async (name) => {
      const colour = COLOURS[name];
      for (const ending of ['mov', 'mp4']) {
        const path = clip(`${name}.${ending}`, '25', colour, ['-c:v', 'libx264', '-movflags', '+write_colr']);
        const said = (await probeClip(path))!;
        expect([said.primaries, said.transfer]).toEqual(colour.code);
        const other = second(path, 'ColorPrimaries', 'TransferCharacteristics', 'VideoFrameRate');
        expect([other['ColorPrimaries'], other['TransferCharacteristics']]).toEqual(colour.code);
        expect(said.frameRate).toBe(other['VideoFrameRate']);
        expect(colourInWords(said)).toBe(colour.words);
        expect(profileOf('', said)).toBe(colour.flat);
      }
    },
  );

  it.each([
    ['25', '10:20:30:05', 25],
    ['30000/1001', '01:02:03;04', 29.97],
    ['50', '23:59:58:49', 50],
  ] as const)('at %s frames a second, timecode %s', async (rate, timecode, frames) => {
    const path = clip('code.mov', rate, COLOURS.plain, ['-c:v', 'libx264', '-timecode', timecode]);
    const said = (await probeClip(path))!;
    expect(said).toMatchObject({ timecode, channels: 2, sampleRate: 48_000 });
    expect(said.frameRate).toBeCloseTo(frames, 2);
  });

  it('MXF OP1a: timecode and rate, as exiftool counts them', async () => {
    const path = clip('op1a.mxf', '25', COLOURS.plain, ['-c:v', 'mpeg2video', '-timecode', '10:20:30:05']);
    expect(await probeClip(path)).toMatchObject({ timecode: '10:20:30:05', frameRate: 25 });
    const seconds = 10 * 3600 + 20 * 60 + 30 + 5 / 25;
    expect(second(path, 'StartTimecode')['StartTimecode']).toBeCloseTo(seconds, 2);
  });

  it('a stream of a camcorder: rate and sound; it has no timecode to tell', async () => {
    const path = clip('00000.MTS', '25', COLOURS.plain, ['-c:v', 'libx264', '-c:a', 'ac3', '-f', 'mpegts']);
    expect(await probeClip(path)).toMatchObject({ frameRate: 25, timecode: null, channels: 2, sampleRate: 48_000 });
  });

  it('what is no clip says nothing', async () => {
    const path = join(folder, 'LUT.CUBE');
    tool('sh', '-c', `echo LUT_1D_SIZE 2 > "${path}"`);
    await rename(path, `${path}.MP4`);
    expect(await probeClip(Buffer.from(`${path}.MP4`))).toBeNull();
  });
});
