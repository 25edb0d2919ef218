import { afterAll, describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readdir, readFile, stat, symlink, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp, { type Sharp } from 'sharp';
import { isoCaptureTime } from '@tally/core/capture';
import { kindOf } from '@tally/core/card';
import { hashDistance } from '@tally/core/looks';
import { FIXTURES, put } from '../testing/cards.js';
import { scratch } from '../testing/scratch.js';
import { tool } from '../testing/tools.js';
import { drawnView } from '../testing/views.js';
import { jpegSize } from './jpeg-head.js';
import { cleanSerial, cleanText } from './metadata.js';
import { Decoder } from './decoder.js';
import { type Look, upright } from './pixels.js';
import { Previews } from './previews.js';
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

  it('one file whose notes cannot be read does not hide the serial of its model: the next one is asked again', async () => {
    const dir = join(FIXTURES, 'jhead/normal-digicams');
    const files = ['canon-300d.jpg', 'canon-300d.jpg'].map((name) => join(dir, name));
    let tries = 0;
    const thorough = {
      read: () => (++tries === 1 ? Promise.reject(new Error('the reader died')) : Promise.resolve({ serial: '40117732' })),
      close: () => Promise.resolve(),
    } as unknown as ThoroughReader;
    const shy = new CardReader(thorough, 'UTC');
    const serials = [];
    for (const file of files) {
      const { size, mtime } = await stat(file);
      serials.push((await shy.read({ path: Buffer.from(file), kind: 'photo', bytes: size, modifiedAt: mtime })).serial);
    }
    expect(serials).toEqual([null, '40117732']);
  });

  it('serial numbers that tell nothing are none', () => {
    expect(['0', '000000', 'n/a', 'None', '  ', undefined].map(cleanSerial)).toEqual([null, null, null, null, null, null]);
    expect(cleanSerial(' 40117732\0\0x')).toBe('40117732');
    expect(cleanText('Halden \0garbage')).toBe('Halden');
    expect(cleanText('Halden\r\n=1+1\u001b[31m')).toBe('Halden =1+1 [31m');
  });

  it('a picture that says nothing is read at once, and as exiftool reads it; one that says something is not taken for such', async () => {
    const drawn = sharp({ create: { width: 48, height: 32, channels: 3, background: '#486' } });
    const files = {
      'bare.jpg': await drawn.clone().jpeg().toBuffer(),
      'profiled.jpg': await drawn.clone().jpeg().withIccProfile('p3').toBuffer(),
      'progressive.jpg': await drawn.clone().jpeg({ progressive: true }).toBuffer(),
      'undated.jpg': await drawn
        .clone()
        .jpeg()
        .withExif({ IFD0: { Artist: 'Noor Vale' } })
        .toBuffer(),
    };
    for (const [name, bytes] of Object.entries(files)) await put(join(folder, name), bytes, new Date('2021-03-04T05:06:07Z'));
    const asked: string[] = [];
    const watched = Object.assign(Object.create(thorough) as ThoroughReader, {
      read: (path: Buffer, ...rest: [Date, string]) => {
        asked.push(path.toString());
        return thorough.read(path, ...rest);
      },
    });
    const quick = new CardReader(watched, 'Europe/Berlin');
    for (const name of Object.keys(files)) {
      const path = Buffer.from(join(folder, name));
      const { size, mtime } = await stat(path);
      const { quickHash, ...item } = await quick.read({ path, kind: 'photo', bytes: size, modifiedAt: mtime });
      expect(quickHash).toHaveLength(16);
      const { fileType, ...said } = await thorough.read(path, mtime, 'Europe/Berlin');
      expect(fileType).toBe('JPEG');
      expect(item).toEqual(said);
    }
    expect(asked).toEqual([join(folder, 'undated.jpg')]);
    // What stands in their groups is the file's, the frame's, the profile's: nothing of a camera.
    const groups = tool('exiftool', '-G1', '-s', '-args', join(folder, 'bare.jpg'), join(folder, 'progressive.jpg'));
    expect(new Set([...groups.matchAll(/^-(\S+?):/gm)].map(([, group]) => group))).toEqual(
      new Set(['ExifTool', 'System', 'File', 'Composite']),
    );
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
  const opened: Previews[] = [];
  const open = (name: string, onLook?: (source: unknown, look: Look | null) => void) => {
    opened.push(new Previews(join(folder, name), thorough, undefined, onLook));
    return opened.at(-1)!;
  };
  afterAll(() => Promise.all(opened.map((one) => one.close())));
  const previews = open('previews');
  let itemId = 0;
  const source = (path: string, orientation: number | null = null) => ({
    itemId: ++itemId,
    intakeId: 1,
    keptIn: '1',
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

  it('one decoding gives both sizes, and tells the sharpness and the likeness', async () => {
    const looks: (Look | null)[] = [];
    const watching = open('watching', (_source, look) => looks.push(look));
    const crisp = join(folder, 'crisp.png');
    await writeFile(crisp, await drawnView(1500, 1000));
    const soft = join(folder, 'soft.png');
    await sharp(crisp).blur(6).png().toFile(soft);
    const [a, b] = [await watching.ahead(source(crisp)), await watching.ahead(source(soft))];
    expect(a!.sharpness).toBeGreaterThan(4 * b!.sharpness);
    expect(hashDistance(a!.look, b!.look)).toBeLessThanOrEqual(10);
    expect(looks).toEqual([a, b]);
    const sizes = await Promise.all(
      ['1280', '400'].map((px) => sharp(join(folder, 'watching/1', `${itemId - 1}-${px}.jpg`)).metadata()),
    );
    expect(sizes.map(({ width, height }) => [width, height])).toEqual([
      [1280, 853],
      [400, 267],
    ]);
  });

  it('what somebody looks at goes before what is made ahead', async () => {
    const busy = open('busy');
    const file = await flag(1);
    // What decodes has begun.
    await Promise.all([busy.made(source(file), 'sheet'), busy.made(source(file), 'sheet'), busy.made(source(file), 'sheet')]);
    const order: string[] = [];
    const ahead = Array.from({ length: 8 }, async (_, i) => {
      await busy.ahead(source(file));
      order.push(`ahead ${i}`);
    });
    const looking = busy.made(source(file), 'closer').then(() => order.push('looking'));
    await Promise.all([...ahead, looking]);
    expect(order.indexOf('looking')).toBeLessThan(5);
  });

  it('colours of an embedded profile become those of the screen', async () => {
    // A red in Display P3 whose numbers, taken for sRGB, would be a duller red (ICC.1:2010; the profile is libvips' own).
    const wide = join(folder, 'wide.jpg');
    const red = { create: { width: 64, height: 64, channels: 3 as const, background: { r: 255, g: 0, b: 0 } } };
    await sharp(red).withIccProfile('p3').jpeg({ quality: 100, chromaSubsampling: '4:4:4' }).toFile(wide);
    const stored = await sharp(wide, { ignoreIcc: true }).raw().toBuffer();
    expect(stored[0]).toBeLessThan(245);
    const shown = await sharp((await previews.made(source(wide), 'closer'))!)
      .raw()
      .toBuffer();
    expect(shown[0]).toBeGreaterThan(250);
    expect(shown[1]).toBeLessThan(12);
  });

  it('a phone’s HEIC is shown (made here by libheif’s own tool)', async () => {
    const png = join(folder, 'phone.png');
    await sharp({ create: { width: 640, height: 480, channels: 3, background: '#c33333' } })
      .png()
      .toFile(png);
    const heic = join(folder, 'IMG_0001.HEIC');
    execFileSync('heif-enc', ['-q', '60', png, '-o', heic], { stdio: 'ignore' });
    const picture = sharp((await previews.made(source(heic), 'sheet'))!);
    expect((await picture.metadata()).width).toBe(400);
    const [r, g] = await picture.raw().toBuffer();
    expect(r! > 180 && g! < 80).toBe(true);
  });

  it('what wants more memory than is given is no picture, and the next one is', async () => {
    // Interlaced (ISO/IEC 15948, 8): it cannot be decoded row by row, all of its 254 MB have to be held.
    const greedy = join(folder, 'greedy.png');
    await sharp({ create: { width: 9_200, height: 9_200, channels: 3, background: '#123456' } })
      .png({ progressive: true, compressionLevel: 1 })
      .toFile(greedy);
    const [narrow, wide] = [new Decoder(250e6), new Decoder()];
    try {
      expect(await narrow.shrink(greedy, 400, 'own')).toBeNull();
      expect(await narrow.shrink(await flag(1), 400, 'own')).not.toBeNull();
      expect(await wide.shrink(greedy, 400, 'own')).not.toBeNull();
    } finally {
      await narrow.close();
      await wide.close();
    }
  });

  it('a drawing, a page or a list under the name of a picture or clip is not opened', async () => {
    const svg = '<svg xmlns="http://www.w3.org/2000/svg" width="90" height="60"><rect width="90" height="60" fill="red"/></svg>';
    expect((await sharp(Buffer.from(svg)).metadata()).width).toBe(90);
    await writeFile(join(folder, 'drawing.jpg'), svg);
    expect(await previews.made(source(join(folder, 'drawing.jpg')), 'sheet')).toBeNull();

    // Lists that name another file of this machine; a bare ffmpeg follows them.
    await writeFile(join(folder, 'private.mp4'), await readFile(own('utc-creation.mp4')));
    const concat = join(folder, 'concat.mp4');
    await writeFile(concat, 'ffconcat version 1.0\nfile private.mp4\n');
    tool('ffmpeg', '-v', 'error', '-nostdin', '-i', concat, '-frames:v', '1', '-f', 'mjpeg', '-y', join(folder, 'seen.jpg'));
    expect((await stat(join(folder, 'seen.jpg'))).size).toBeGreaterThan(0);
    const playlist = join(folder, 'playlist.mp4');
    await writeFile(playlist, '#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\nprivate.mp4\n#EXT-X-ENDLIST\n');
    for (const list of [concat, playlist]) {
      expect(await previews.made(source(list), 'sheet')).toBeNull();
      expect(await previews.wave(source(list))).toBeNull();
      expect(await previews.small(source(list))).toBeNull();
    }
  });

  it('a picture of 60,000 × 60,000 pixels and one that makes the decoder fail are shapes, and nobody waits for them', async () => {
    // A PNG header (ISO/IEC 15948, 11.2.2) that claims so much, with nothing behind it.
    const header = Buffer.from('89504e470d0a1a0a0000000d494844520000ea600000ea600802000000', 'hex');
    const huge = join(folder, 'huge.png');
    await writeFile(huge, Buffer.concat([header, Buffer.alloc(4)]));
    const broken = join(folder, 'broken.jpg');
    const good = await readFile(await flag(1));
    good.fill(0xff, 200, 1200);
    await writeFile(broken, good);
    const began = Date.now();
    expect(await previews.made(source(huge), 'closer')).toBeNull();
    await previews.made(source(broken), 'closer');
    expect(Date.now() - began).toBeLessThan(60_000);
  });

  it('a poster has the size that ffprobe says the clip has, turned or not', async () => {
    const clip = own('utc-creation.mp4');
    const [width, height] = tool(
      'ffprobe',
      '-v',
      'error',
      '-select_streams',
      'v:0',
      '-show_entries',
      'stream=width,height',
      '-of',
      'csv=p=0',
      clip,
    )
      .trim()
      .split(',')
      .map(Number);
    const shown = await sharp((await previews.made(source(clip), 'closer'))!).metadata();
    expect([shown.width, shown.height]).toEqual([width, height]);
  });

  it('a clip without an index has no poster and no small version, and says so at once', async () => {
    const whole = await readFile(own('utc-creation.mp4'));
    const cut = join(folder, 'no-index.mp4');
    // The index (moov, ISO/IEC 14496-12, 8.2.1) is what is taken away.
    const moov = whole.indexOf('moov') - 4;
    await writeFile(cut, whole.subarray(0, moov));
    expect(await previews.made(source(cut), 'sheet')).toBeNull();
    expect(await previews.small(source(cut))).toBeNull();
  });

  it('what a browser cannot play gets a small version that it can', async () => {
    const odd = join(folder, 'odd.avi');
    execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'testsrc=d=1:s=1280x720:r=10', '-c:v', 'mjpeg', '-y', odd]);
    const small = await previews.small(source(odd));
    const [codec, width] = tool('ffprobe', '-v', 'error', '-show_entries', 'stream=codec_name,width', '-of', 'csv=p=0', small!)
      .trim()
      .split(',');
    expect([codec, width]).toEqual(['h264', '854']);
  });

  it('a small version says nothing of where and with what it was taken', async () => {
    const clip = join(folder, 'told.mov');
    const tags = ['location=+59.1234+010.2233/', 'make=Halden', 'model=M4', 'comment=Ines Barrow'].flatMap((tag) => [
      '-metadata',
      tag,
    ]);
    const test = ['-f', 'lavfi', '-i', 'testsrc=d=1:s=64x48:r=10', '-pix_fmt', 'yuv420p'];
    execFileSync('ffmpeg', ['-v', 'error', ...test, ...tags, '-movflags', 'use_metadata_tags', '-y', clip]);
    const told = (path: string) => tool('exiftool', '-a', '-G1', '-s', path);
    expect(told(clip)).toMatch(/59\.1234|Halden/);
    expect(told((await previews.small(source(clip)))!)).not.toMatch(/59\.1|Halden|Barrow/);
  });

  it('what nobody looks at goes after its days; what somebody looked at stays, and comes back when it is asked for', async () => {
    const path = join(folder, 'unused.jpg');
    await sharp({ create: { width: 64, height: 48, channels: 3, background: '#3a7' } })
      .jpeg()
      .toFile(path);
    const kept = new Previews(join(folder, 'unused'), thorough);
    const of = (intakeId: number) => ({ ...source(path), intakeId, keptIn: String(intakeId) });
    for (const intake of [1, 2]) await kept.made(of(intake), 'sheet');
    const longAgo = new Date('2020-01-01T00:00:00Z');
    for (const intake of ['1', '2']) await utimes(join(folder, 'unused', intake), longAgo, longAgo);
    // Another process, that noted nothing yet.
    const later = new Previews(join(folder, 'unused'), thorough);
    expect(await later.made(of(2), 'sheet')).not.toBeNull();
    await new Promise((resolve) => setTimeout(resolve, 50));
    const never = new AbortController().signal;
    expect(await later.removeUnused(new Date('2019-01-01T00:00:00Z'), never)).toBe(0);
    expect(await later.removeUnused(new Date('2025-01-01T00:00:00Z'), never)).toBe(1);
    expect(await readdir(join(folder, 'unused'))).toEqual(['2']);
    expect(await later.made(of(1), 'sheet')).not.toBeNull();
    await Promise.all([kept.close(), later.close()]);
  });

  it('a wave shows where it is loud; a picture has none', async () => {
    const sound = join(folder, 'beep.wav');
    // Silence for a second, then a tone at half of full level, made by ffmpeg.
    execFileSync('ffmpeg', [
      '-v',
      'error',
      '-f',
      'lavfi',
      '-i',
      'sine=f=440:d=1',
      '-af',
      'adelay=1000,volume=volume=4',
      '-y',
      sound,
    ]);
    const wave = (await previews.wave(source(sound)))!;
    expect(wave).toHaveLength(120);
    expect(Math.max(...wave.subarray(0, 55))).toBe(0);
    expect(Math.min(...wave.subarray(65, 115))).toBeGreaterThan(100);
    expect(await previews.wave({ ...source(await flag(1)), kind: 'photo' })).toBeNull();
  });
});
