import { afterAll, describe, expect, it } from '@jest/globals';
import { readFile, stat, symlink, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp, { type Sharp } from 'sharp';
import { isoCaptureTime } from '@tally/core/capture';
import { kindOf } from '@tally/core/card';
import { FIXTURES, put } from '../testing/cards.js';
import { scratch } from '../testing/scratch.js';
import { tool } from '../testing/tools.js';
import { jpegSize } from './jpeg-head.js';
import { cleanSerial, cleanText } from './metadata.js';
import { Previews, upright } from './previews.js';
import { CardReader } from './reader.js';
import { withSafePath } from './safe-path.js';
import { ThoroughReader } from './thorough.js';

const folder = scratch();
const thorough = new ThoroughReader(join(folder, 'run'));
const reader = new CardReader(thorough, 'Europe/Berlin');
afterAll(() => reader.close());

async function read(path: string) {
  const { size, mtime } = await stat(path);
  return reader.read({ path: Buffer.from(path), kind: kindOf(path), bytes: size, modifiedAt: mtime });
}
const own = (name: string) => join(FIXTURES, 'own', name);

describe('clips and sounds, whose times are known by construction', () => {
  // Source: make.sh beside the files, which says what ffmpeg wrote.
  it.each([
    ['utc-creation.mp4', '2024-05-03T17:01:55+02:00', 'container'],
    ['apple-creationdate.mov', '2024-05-03T17:01:55+02:00', 'metadata with offset'],
    ['timecode.mov', '2024-05-03T17:01:55+02:00', 'container'],
    ['bext.wav', '2024-05-03T17:01:55', 'metadata'],
  ])('%s: %s by %s', async (name, captured, source) => {
    const item = await read(own(name));
    expect([isoCaptureTime(item.captured), item.captured.source]).toEqual([captured, source]);
    expect(item.durationMs).toBeGreaterThanOrEqual(990);
    expect(item.durationMs).toBeLessThanOrEqual(1010);
  });

  it('a clip without a time falls back to the file’s, and says so', async () => {
    expect((await read(own('zero-creation.mp4'))).captured.source).toBe('file time');
  });
});

describe('files that are not what they seem', () => {
  const picture = () => sharp({ create: { width: 64, height: 48, channels: 3, background: '#3a7' } });

  it('an empty file, a picture cut off, a picture under a false name, a text: each with a word, none an error', async () => {
    await put(join(folder, 'empty.jpg'), '');
    expect(await read(join(folder, 'empty.jpg'))).toMatchObject({ remark: 'an empty file (0 bytes)' });
    const whole = await picture().jpeg().toBuffer();
    await writeFile(join(folder, 'cut.jpg'), whole.subarray(0, whole.length - 20));
    expect((await read(join(folder, 'cut.jpg'))).remark).toBe('cut off: the picture has no end');
    await writeFile(join(folder, 'png.jpg'), await picture().png().toBuffer());
    expect((await read(join(folder, 'png.jpg'))).remark).toBe('named .jpg but is PNG');
    await writeFile(join(folder, 'jpeg.png'), await picture().jpeg().toBuffer());
    expect((await read(join(folder, 'jpeg.png'))).remark).toBe('named .png but is JPEG');
    await put(join(folder, 'words.jpg'), 'these are words, not a picture');
    expect((await read(join(folder, 'words.jpg'))).remark).toMatch(/named \.jpg but is TXT|cannot be understood|no metadata/);
    await put(join(folder, 'noise.cr3'), 'not a raw');
    expect((await read(join(folder, 'noise.cr3'))).captured.source).toBe('file time');
  });

  it('a file that is gone is a remark', async () => {
    const item = await reader.read({
      path: Buffer.from(join(folder, 'gone.jpg')),
      kind: 'photo',
      bytes: 1,
      modifiedAt: new Date(0),
    });
    expect(item).toMatchObject({ remark: 'cannot be read (ENOENT)', quickHash: null });
  });

  it('a metadata block that lies about its length harms nothing', async () => {
    const jpeg = await picture()
      .withExif({ IFD0: { Make: 'Halden' } })
      .jpeg()
      .toBuffer();
    const lying = Buffer.from(jpeg);
    const app1 = lying.indexOf(Buffer.from('Exif\0\0'));
    lying.writeUInt32LE(0xfffffff0, app1 + 10);
    await writeFile(join(folder, 'lying.jpg'), lying);
    expect((await read(join(folder, 'lying.jpg'))).width).toBe(64);
  });

  it('names that a tool could misread are read all the same', async () => {
    const source = await readFile(own('utc-creation.mp4'));
    for (const name of ['-ver.mp4', 'new\nline.mp4', '$(touch x).mp4', `quote'".mp4`]) {
      await put(join(folder, name), source);
      expect((await read(join(folder, name))).captured.source).toBe('container');
    }
    const invalid = Buffer.concat([Buffer.from(`${folder}/`), Buffer.from([0xff]), Buffer.from('.mp4')]);
    await writeFile(invalid, source);
    const item = await reader.read({ path: invalid, kind: 'video', bytes: source.length, modifiedAt: new Date(0) });
    expect(item.captured.source).toBe('container');
    expect(await withSafePath(invalid, (safe) => Promise.resolve(safe))).toMatch(/file\.mp4$/);
  });

  it('serial numbers that tell nothing are none', () => {
    expect(['0', '000000', 'n/a', 'None', '  ', undefined].map(cleanSerial)).toEqual([null, null, null, null, null, null]);
    expect(cleanSerial(' 40117732\0\0x')).toBe('40117732');
    expect(cleanText('Halden \0garbage')).toBe('Halden');
  });

  it('the size in the frame header equals what exiftool says, for every ordinary picture', async () => {
    const dir = join(FIXTURES, 'jhead/normal-digicams');
    const listed = JSON.parse(tool('exiftool', '-json', '-n', '-ImageWidth', '-ImageHeight', '-ext', 'jpg', dir)) as {
      SourceFile: string;
      ImageWidth: number;
      ImageHeight: number;
    }[];
    expect(listed.length).toBeGreaterThan(15);
    for (const { SourceFile, ImageWidth, ImageHeight } of listed) {
      expect({ SourceFile, ...jpegSize(await readFile(SourceFile)) }).toEqual({
        SourceFile,
        width: ImageWidth,
        height: ImageHeight,
      });
    }
  });
});

describe('previews', () => {
  const previews = new Previews(join(folder, 'previews'), thorough);
  let itemId = 0;
  const source = (path: string, orientation: number | null = null) => ({
    itemId: ++itemId,
    intakeId: 1,
    path: Buffer.from(path),
    kind: kindOf(path),
    orientation,
  });

  /** Red on the left, blue on the right, a green corner at the top left: every turn and mirroring is told apart. */
  async function flag(orientation: number): Promise<string> {
    const svg =
      '<svg xmlns="http://www.w3.org/2000/svg" width="600" height="300"><rect width="600" height="300" fill="blue"/><rect width="300" height="300" fill="red"/><rect width="150" height="100" fill="lime"/></svg>';
    // Stored turned the other way round, so that an upright view shows the flag as drawn.
    const turns: Record<number, (image: Sharp) => Sharp> = {
      1: (i) => i,
      2: (i) => i.flop(),
      3: (i) => i.rotate(180),
      4: (i) => i.flip(),
      5: (i) => i.flop().rotate(270),
      6: (i) => i.rotate(270),
      7: (i) => i.flop().rotate(90),
      8: (i) => i.rotate(90),
    };
    const file = join(folder, `flag-${orientation}.jpg`);
    const turned = await turns[orientation]!(sharp(Buffer.from(svg)))
      .png()
      .toBuffer();
    await sharp(turned).withMetadata({ orientation }).jpeg({ quality: 95 }).toFile(file);
    return file;
  }

  // CIPA DC-008 (Exif), tag 0x0112, all eight values.
  it.each([1, 2, 3, 4, 5, 6, 7, 8])('orientation %d is shown upright', async (orientation) => {
    const file = await flag(orientation);
    const shown = [
      await previews.made(source(file), 'sheet'),
      await upright(sharp(await sharp(file).withMetadata({ orientation: 1 }).jpeg().toBuffer()), orientation)
        .jpeg()
        .toBuffer(),
    ];
    for (const picture of shown) {
      const { data, info } = await sharp(picture!).resize(60, 30, { fit: 'fill' }).raw().toBuffer({ resolveWithObject: true });
      const at = (x: number, y: number) =>
        [...data.subarray((y * 60 + x) * info.channels, (y * 60 + x) * info.channels + 3)].map((v) => (v > 128 ? 1 : 0)).join('');
      expect([at(5, 4), at(25, 25), at(50, 4)]).toEqual(['010', '100', '001']);
    }
  });

  it('a clip has a poster, a sound and a text have none', async () => {
    const poster = await previews.made(source(own('utc-creation.mp4')), 'sheet');
    expect((await sharp(poster!).metadata()).width).toBe(160);
    expect(await previews.made(source(own('bext.wav')), 'sheet')).toBeNull();
  });

  it('the embedded picture is there without decoding the large one', async () => {
    const picture = await previews.embedded(source(join(FIXTURES, 'jhead/normal-digicams/dx6340.jpg')));
    expect((await sharp(picture!).metadata()).width).toBeLessThanOrEqual(320);
  });

  it('a link on a card shows nothing of what it points at', async () => {
    const secret = await flag(1);
    const link = join(folder, 'link.jpg');
    await symlink(secret, link);
    expect(await previews.made(source(link), 'closer')).toBeNull();
    expect(await previews.embedded(source(link))).toBeNull();
  });

  it('what cannot be a picture is tried once, and what is kept survives its card', async () => {
    const file = join(folder, 'once.jpg');
    await writeFile(file, 'no picture');
    const one = source(file);
    expect(await previews.made(one, 'sheet')).toBeNull();
    expect((await stat(join(folder, 'previews/1', `${one.itemId}-400.jpg`))).size).toBe(0);
    const kept = source(await flag(1));
    const first = await previews.made(kept, 'sheet');
    expect(await previews.made({ ...kept, path: Buffer.from('/gone') }, 'sheet')).toEqual(first);
    expect(await previews.made(source('/gone.jpg'), 'sheet')).toBeNull();
  });
});
