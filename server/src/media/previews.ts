import type { Kind } from '@tally/core/card';
import exifr from 'exifr';
import { execFile } from 'node:child_process';
import { lstat, mkdir, open, rename, writeFile } from 'node:fs/promises';
import { cpus } from 'node:os';
import { dirname, join } from 'node:path';
import { promisify } from 'node:util';
import pLimit from 'p-limit';
import sharp, { type Sharp } from 'sharp';
import { HEAD_BYTES } from './jpeg-head.js';
import { withSafePath } from './safe-path.js';
import type { ThoroughReader } from './thorough.js';

const execute = promisify(execFile);

/** Long sides in pixels of made previews: for the sheet, and for looking closer on a small desk screen. */
export const PREVIEW_SIZES = { sheet: 400, closer: 1280 } as const;
export type PreviewSize = keyof typeof PREVIEW_SIZES;

export interface PreviewSource {
  readonly itemId: number;
  readonly intakeId: number;
  readonly path: Buffer;
  readonly kind: Kind;
  readonly orientation: number | null;
}

/** Pictures of items: embedded ones at once, made ones kept in the data folder. Null means: draw a shape. */
export class Previews {
  private readonly lanes = pLimit(Math.max(2, cpus().length));
  private readonly underway = new Map<string, Promise<Buffer | null>>();

  constructor(
    private readonly folder: string,
    private readonly thorough: ThoroughReader,
  ) {}

  /** The small picture that the camera put into the file, upright. */
  async embedded(source: PreviewSource): Promise<Buffer | null> {
    if (source.kind === 'raw') return this.made(source, 'sheet');
    if (source.kind !== 'photo' || !(await isThere(source.path))) return null;
    const handle = await open(source.path, 'r');
    try {
      const head = Buffer.allocUnsafe(HEAD_BYTES);
      const { bytesRead } = await handle.read(head, 0, HEAD_BYTES, 0);
      const thumbnail = await exifr.thumbnail(head.subarray(0, bytesRead)).catch(() => undefined);
      if (!thumbnail) return null;
      const picture = Buffer.from(thumbnail);
      return source.orientation && source.orientation > 1
        ? await upright(sharp(picture), source.orientation).jpeg().toBuffer()
        : picture;
    } catch {
      return null;
    } finally {
      await handle.close();
    }
  }

  /** A preview of a size, from the cache or made now, never twice at once. */
  async made(source: PreviewSource, size: PreviewSize): Promise<Buffer | null> {
    const file = join(this.folder, String(source.intakeId), `${source.itemId}-${PREVIEW_SIZES[size]}.jpg`);
    const kept = await readKept(file);
    if (kept) return kept.length ? kept : null;
    const running = this.underway.get(file);
    if (running) return running;
    const making = this.lanes(() => this.make(source, PREVIEW_SIZES[size], file)).finally(() => this.underway.delete(file));
    this.underway.set(file, making);
    return making;
  }

  private async make(source: PreviewSource, pixels: number, file: string): Promise<Buffer | null> {
    // A card that is away is no reason to remember that there is no picture.
    if (!(await isThere(source.path))) return null;
    const picture = await this.render(source, pixels);
    await mkdir(dirname(file), { recursive: true });
    const temporary = `${file}.${process.pid}.part`;
    // An empty file says that there is no picture, so that nobody tries again.
    await writeFile(temporary, picture ?? Buffer.alloc(0));
    await rename(temporary, file);
    return picture;
  }

  private async render(source: PreviewSource, pixels: number): Promise<Buffer | null> {
    if (source.kind === 'video') return poster(source.path, pixels);
    if (source.kind === 'raw') return this.fromEmbedded(source, pixels);
    if (source.kind !== 'photo') return null;
    const direct = await withSafePath(source.path, (path) => shrink(sharp(path, { failOn: 'none' }).rotate(), pixels)).catch(
      () => null,
    );
    return direct ?? this.fromEmbedded(source, pixels);
  }

  private async fromEmbedded(source: PreviewSource, pixels: number): Promise<Buffer | null> {
    const picture = await this.thorough.embedded(source.path, ['JpgFromRaw', 'PreviewImage', 'OtherImage', 'ThumbnailImage']);
    if (!picture) return null;
    try {
      const own = (await sharp(picture).metadata()).orientation;
      const image = own && own > 1 ? sharp(picture).rotate() : upright(sharp(picture), source.orientation ?? 1);
      return await shrink(image, pixels);
    } catch {
      return null;
    }
  }
}

const shrink = (image: Sharp, pixels: number): Promise<Buffer> =>
  image.resize({ width: pixels, height: pixels, fit: 'inside', withoutEnlargement: true }).jpeg({ quality: 80 }).toBuffer();

/** Turns a picture upright by EXIF orientation (CIPA DC-008, tag 0x0112). */
export function upright(image: Sharp, orientation: number): Sharp {
  // sharp mirrors before it turns.
  const degrees = [0, 0, 0, 180, 180, 270, 90, 90, 270][orientation] ?? 0;
  const mirrored = [2, 4, 5, 7].includes(orientation) ? image.flop() : image;
  return mirrored.rotate(degrees);
}

async function readKept(file: string): Promise<Buffer | null> {
  try {
    const handle = await open(file, 'r');
    try {
      return await handle.readFile();
    } finally {
      await handle.close();
    }
  } catch {
    return null;
  }
}

/** A frame one second into a clip, or the first one of a shorter clip. Seeking before opening keeps it quick. */
async function poster(path: Buffer, pixels: number): Promise<Buffer | null> {
  return withSafePath(path, async (safe) => {
    for (const at of ['1', '0']) {
      const scale = `scale='min(${pixels},iw)':'min(${pixels},ih)':force_original_aspect_ratio=decrease`;
      const args = [
        '-v',
        'error',
        '-nostdin',
        '-ss',
        at,
        '-i',
        `file:${safe}`,
        '-frames:v',
        '1',
        '-vf',
        scale,
        '-f',
        'mjpeg',
        '-q:v',
        '4',
        'pipe:1',
      ];
      try {
        const { stdout } = await execute('ffmpeg', args, { encoding: 'buffer', maxBuffer: 1 << 24, timeout: 20_000 });
        if (stdout.length) return stdout;
      } catch {
        // Not readable at this point of time: try the start, then draw a shape.
      }
    }
    return null;
  });
}

/** Does a file stand there now? A link is none: it could point at anything on this machine. */
export async function isThere(path: Buffer): Promise<boolean> {
  return lstat(path as unknown as string).then(
    (stats) => stats.isFile(),
    () => false,
  );
}
