import { afterAll, describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { rawFile, thumbnailOf, withExif } from './camera/camera.js';
import { makeClip, makeSound } from './camera/clips.js';
import { writeTiff } from './camera/tiff.js';
import { chance, pick, whole } from './chance.js';
import { BODIES, CONTRIBUTORS, ASSIGNMENTS } from './demo/people.js';
import { cameraNumber, exposureOf, later, session } from './demo/shots.js';
import { drawScene } from './scene/scene.js';

const folder = mkdtempSync(join(tmpdir(), 'tally-standins-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** What Debian's exiftool reads of a file. */
function exiftool(name: string, content?: Buffer): Record<string, unknown> {
  const file = join(folder, name);
  if (content) writeFileSync(file, content);
  const out = execFileSync('exiftool', ['-json', '-n', '-a', '-validate', '-warning', '-error', '-all', file], {
    encoding: 'utf8',
  });
  return (JSON.parse(out) as [Record<string, unknown>])[0];
}

const body = { make: 'Halden', model: 'M4', serial: '40117732' };
const exposure = { at: '2026-04-18T09:12:31', offset: '+01:00', seconds: 1 / 500, fNumber: 5.6, iso: 200, focalLength: 85 };

describe('made-up cameras write real files', () => {
  it('a JPEG with EXIF and an embedded picture, as exiftool reads it', async () => {
    const plain = await drawScene({ seed: 1, hour: 9, subject: 'reeds' }, 600);
    const tags = exiftool('a.jpg', withExif(plain, await thumbnailOf(plain), body, exposure, { width: 600, height: 400 }));
    expect(tags).toMatchObject({
      ...{
        Make: 'Halden',
        Model: 'M4',
        SerialNumber: 40117732,
        DateTimeOriginal: '2026:04:18 09:12:31',
        OffsetTimeOriginal: '+01:00',
      },
      ...{ ExposureTime: 0.002, FNumber: 5.6, ISO: 200, FocalLength: 85, ImageWidth: 600, ImageHeight: 400 },
    });
    expect(tags['ThumbnailImage']).toContain('Binary data');
    expect(tags['Error']).toBeUndefined();
  });

  it('a raw file whose embedded picture is the whole JPEG', async () => {
    const plain = await drawScene({ seed: 2, hour: 9, subject: 'gate' }, 600);
    const tags = exiftool('b.dng', await rawFile(plain, body, exposure));
    expect(tags).toMatchObject({ FileType: 'DNG', UniqueCameraModel: 'Halden M4', DateTimeOriginal: '2026:04:18 09:12:31' });
    const embedded = execFileSync('exiftool', ['-b', '-JpgFromRaw', join(folder, 'b.dng')], { maxBuffer: 1 << 26 });
    const preview = embedded.length
      ? embedded
      : execFileSync('exiftool', ['-b', '-PreviewImage', join(folder, 'b.dng')], { maxBuffer: 1 << 26 });
    expect(preview.equals(plain)).toBe(true);
  });

  it('a clip with UTC in its container, a sound with local time in its broadcast chunk', async () => {
    writeFileSync(join(folder, 'frame.jpg'), await drawScene({ seed: 3, hour: 12, subject: 'boat' }, 1500));
    await makeClip(join(folder, 'frame.jpg'), join(folder, 'c.mp4'), 1, '2026-04-20T09:02:11Z');
    expect(exiftool('c.mp4')).toMatchObject({
      FileType: 'MP4',
      CreateDate: '2026:04:20 09:02:11',
      ImageWidth: 960,
      ImageHeight: 540,
    });
    await makeSound(join(folder, 'd.wav'), 1, '2026-04-20T10:05:00', 1);
    expect(exiftool('d.wav')).toMatchObject({ FileType: 'WAV', DateTimeOriginal: '2026:04:20 10:05:00', SampleRate: 48000 });
  });

  it('directories of a TIFF are sorted, whatever the order in which they were said', () => {
    const tiff = writeTiff({ entries: { 0x0110: { ascii: 'M4' }, 0x010f: { ascii: 'Halden' }, 0x0112: { short: [1] } } });
    const at = tiff.readUInt32LE(4);
    const tags = Array.from({ length: tiff.readUInt16LE(at) }, (_, i) => tiff.readUInt16LE(at + 2 + i * 12));
    expect(tags).toEqual([0x010f, 0x0110, 0x0112]);
  });
});

describe('drawn scenes', () => {
  const sharpness = async (jpeg: Buffer) => {
    const edges = sharp(jpeg)
      .greyscale()
      .convolve({ width: 3, height: 3, kernel: [0, 1, 0, 1, -4, 1, 0, 1, 0], offset: 128 });
    // Statistics are of what is put in, not of the pipeline: so the edges are made first.
    return (await sharp(await edges.png().toBuffer()).stats()).channels[0]!.stdev;
  };

  it('are the same on every run, and another seed is another picture', async () => {
    const draw = (seed: number) => drawScene({ seed, hour: 7, subject: 'birds' }, 300);
    expect((await draw(5)).equals(await draw(5))).toBe(true);
    expect((await draw(5)).equals(await draw(6))).toBe(false);
  });

  it('a blurred frame is measurably less sharp, and an upright one stands', async () => {
    const scene = { seed: 7, hour: 12, subject: 'reeds' as const };
    expect(await sharpness(await drawScene({ ...scene, blur: 6 }, 800))).toBeLessThan(
      (await sharpness(await drawScene(scene, 800))) * 0.6,
    );
    const { width, height } = await sharp(await drawScene({ ...scene, upright: true }, 600)).metadata();
    expect(height).toBeGreaterThan(width);
  });

  it('morning, noon and night are told apart by their light', async () => {
    const brightness = async (hour: number) =>
      (
        await sharp(await drawScene({ seed: 9, hour, subject: 'flats' }, 200))
          .greyscale()
          .stats()
      ).channels[0]!.mean;
    expect(await brightness(13)).toBeGreaterThan((await brightness(23)) * 2);
  });
});

describe('the demonstration', () => {
  it('a camera’s number wraps after 9999, as cameras do', () => {
    expect([cameraNumber(9998, 0), cameraNumber(9998, 1), cameraNumber(9998, 2)]).toEqual(['9998', '9999', '0001']);
  });

  it('shots of a session are in order, some of them bursts', () => {
    const shots = session(12, '2026-04-18T10:31:40', 40, ['planting']);
    expect(shots).toHaveLength(40);
    expect(shots.map((shot) => shot.at)).toEqual(shots.map((shot) => shot.at).sort());
    expect(new Set(shots.map((shot) => shot.scene.seed)).size).toBeLessThan(40);
    expect(later('2026-04-18T23:59:59', 2)).toBe('2026-04-19T00:00:01');
  });

  it('exposure fits the light', () => {
    expect(exposureOf('2026-04-18T22:00:00', null, 1).iso).toBeGreaterThan(exposureOf('2026-04-18T12:00:00', null, 1).iso);
  });

  it('everybody has a camera; everybody expected exists; no two share a code or a body', () => {
    const codes = CONTRIBUTORS.map((one) => one.code);
    expect(new Set(codes).size).toBe(codes.length);
    expect(codes.filter((code) => !BODIES[code])).toEqual([]);
    expect(ASSIGNMENTS.flatMap((one) => [...one.expected]).filter((code) => !codes.includes(code))).toEqual([]);
    expect(new Set(Object.values(BODIES).map(({ serial }) => serial)).size).toBe(codes.length);
  });

  it('chance is fair enough and repeatable', () => {
    const roll = chance(1);
    const again = chance(1);
    const values = Array.from({ length: 2000 }, () => roll());
    expect(values).toEqual(Array.from({ length: 2000 }, () => again()));
    expect(values.reduce((sum, value) => sum + value, 0) / 2000).toBeCloseTo(0.5, 1);
    expect(whole(roll, 3, 3)).toBe(3);
    expect(['a', 'b']).toContain(pick(roll, ['a', 'b']));
  });
});
