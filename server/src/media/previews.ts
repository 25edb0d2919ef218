import type { Kind } from '@tally/core/card';
import exifr from 'exifr';
import { lstat, mkdir, mkdtemp, open, readdir, readFile, rm, stat } from 'node:fs/promises';
import { cpus, tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import pLimit from 'p-limit';
import PQueue from 'p-queue';
import { makeSmallVersion, poster, wave } from './clips.js';
import { runLimited } from './run-limited.js';
import { Decoder } from './decoder.js';
import type { Look } from './pixels.js';
import { HEAD_BYTES } from './jpeg-head.js';
import { keep, readKept } from './kept.js';
import { withSafePath } from './safe-path.js';
import type { ThoroughReader } from './thorough.js';
import { removeUnused, Used } from './unused.js';

/** Long sides in pixels: for the sheet, and for looking closer on a small desk screen. */
export const PREVIEW_SIZES = { sheet: 400, closer: 1280 } as const;
export type PreviewSize = keyof typeof PREVIEW_SIZES;
export type PreviewSizes = Readonly<Record<PreviewSize, number>>;

/** What is looked at now goes before what will be; both before what is made ahead. */
export const URGENCY = { looking: 2, next: 1, ahead: 0 } as const;

/** Long side of the largest picture that is handed to a browser. */
const MOST_PX = 12_000;

export interface PreviewSource {
  readonly itemId: number;
  readonly intakeId: number;
  /** What the folder of its intake's pictures is called: the intake's id that no other house draws. */
  readonly keptIn: string;
  readonly path: Buffer;
  readonly kind: Kind;
  readonly orientation: number | null;
}

interface Made {
  readonly picture: Buffer | null;
  readonly look: Look | null;
}

/** Pictures of items: embedded ones at once, made ones kept in the data folder. Null means: draw a shape. */
export class Previews {
  private readonly lanes = new PQueue({ concurrency: Math.max(2, cpus().length) });
  /** What is made ahead leaves one core to the rest. */
  private readonly aheadLanes = pLimit(Math.max(1, cpus().length - 1));
  private readonly underway = new Map<string, Promise<Made>>();
  private readonly decoder = new Decoder();
  private readonly used = new Used();

  /** @param onLook told what each larger preview showed, when it is made. */
  constructor(
    private readonly folder: string,
    private readonly thorough: ThoroughReader,
    private readonly sizes: PreviewSizes = PREVIEW_SIZES,
    private readonly onLook: (source: PreviewSource, look: Look | null) => void = () => undefined,
  ) {}

  /** The quickest picture there is for the sheet: a made one that was kept, else the embedded one. */
  async quick(source: PreviewSource): Promise<Buffer | null> {
    const kept = await this.kept(source, 'sheet');
    if (kept) return kept.length ? kept : null;
    return (await this.embedded(source)) ?? this.made(source, 'sheet');
  }

  /** The small picture that the camera put into the file, upright. */
  async embedded(source: PreviewSource): Promise<Buffer | null> {
    if (source.kind !== 'photo' || !(await isThere(source.path))) return null;
    const handle = await open(source.path, 'r');
    try {
      const head = Buffer.allocUnsafe(HEAD_BYTES);
      const { bytesRead } = await handle.read(head, 0, HEAD_BYTES, 0);
      const thumbnail = await exifr.thumbnail(head.subarray(0, bytesRead)).catch(() => undefined);
      if (!thumbnail) return null;
      const picture = Buffer.from(thumbnail);
      return source.orientation && source.orientation > 1
        ? await this.decoder.shrink(picture, this.sizes.sheet, { own: false, else: source.orientation })
        : picture;
    } catch {
      return null;
    } finally {
      await handle.close();
    }
  }

  /** A preview of a size, from the cache or made now, never twice at once. @throws AbortError when nobody waits any more. */
  async made(
    source: PreviewSource,
    size: PreviewSize,
    { priority = URGENCY.looking, signal }: { priority?: number; signal?: AbortSignal } = {},
  ): Promise<Buffer | null> {
    const kept = await this.kept(source, size);
    if (kept) return kept.length ? kept : null;
    return (await this.once(source, size, priority, signal)).picture;
  }

  /** Keeps a picture that was made elsewhere, as if it had been made here. */
  keepMade(source: PreviewSource, size: PreviewSize, picture: Buffer): Promise<void> {
    return keep(this.fileOf(source, size), picture);
  }

  /** Makes both sizes from one decoding, ahead of anybody's looking. @returns what it showed; null without a picture. */
  ahead(source: PreviewSource): Promise<Look | null> {
    return this.aheadLanes(() => this.makeAhead(source));
  }

  private async makeAhead(source: PreviewSource): Promise<Look | null> {
    if (source.kind === 'sound') {
      await this.lanes.add(() => this.wave(source), { priority: URGENCY.ahead });
      return null;
    }
    return (await this.once(source, 'closer', URGENCY.ahead)).look;
  }

  /** All pixels as a JPEG, for files that no browser shows; not kept. */
  async full(source: PreviewSource): Promise<Buffer | null> {
    if (!(await isThere(source.path))) return null;
    return this.lanes.add(() => this.render(source, MOST_PX), { priority: URGENCY.looking }) as Promise<Buffer | null>;
  }

  /** The media type of a picture that every browser shows by itself; null for others and for what only claims to be one. */
  async typeForBrowsers(source: PreviewSource): Promise<string | null> {
    const format = await withSafePath(source.path, (path) => this.decoder.formatOf(path));
    return format && ['jpeg', 'png', 'webp', 'gif'].includes(format) ? `image/${format}` : null;
  }

  /** What the camera wrote about an exposure, in words. */
  async details(source: PreviewSource): Promise<{ name: string; value: string }[]> {
    return (await isThere(source.path)) ? this.thorough.details(source.path) : [];
  }

  /** The wave of a sound or clip, made once and kept. */
  async wave(source: PreviewSource): Promise<Uint8Array | null> {
    const file = this.fileOf(source, 'wave');
    const kept = await this.kept(source, 'wave');
    if (kept) return kept.length ? kept : null;
    if (!(await isThere(source.path))) return null;
    const made = await wave(source.path);
    await keep(file, made && Buffer.from(made));
    return made;
  }

  /** Path of a small version that every browser plays and that says nothing but what it shows, made when it is first asked for. */
  async small(source: PreviewSource): Promise<string | null> {
    const file = this.fileOf(source, 'small');
    this.used.note(dirname(file));
    const size = await stat(file).then(
      (stats) => stats.size,
      () => -1,
    );
    if (size >= 0) return size ? file : null;
    if (!(await isThere(source.path))) return null;
    const temporary = `${file}.${process.pid}.part`;
    await mkdir(dirname(file), { recursive: true });
    const done = await this.lanes.add(() => makeSmallVersion(source.path, source.kind === 'video', temporary), {
      priority: URGENCY.next,
    });
    await keep(file, done ? await readFile(temporary) : null);
    await rm(temporary, { force: true });
    return done ? file : null;
  }

  /** Grey and small, for paper. */
  forPaper(picture: Buffer, pixels: number): Promise<Buffer | null> {
    return this.decoder.grey(picture, pixels);
  }

  /** Removes what was made of intakes that nobody looked at since a moment. @returns how many intakes' were removed */
  removeUnused(since: Date, signal: AbortSignal): Promise<number> {
    return removeUnused(this.folder, since, signal);
  }

  /** What was made and kept: somebody looks at it. */
  private kept(source: PreviewSource, what: PreviewSize | 'wave'): Promise<Buffer | null> {
    const file = this.fileOf(source, what);
    this.used.note(dirname(file));
    return readKept(file);
  }

  /** Ends what decodes. */
  close(): Promise<void> {
    return this.decoder.close();
  }

  private fileOf({ keptIn, itemId }: PreviewSource, what: PreviewSize | 'wave' | 'small'): string {
    const name =
      what === 'wave' ? `${itemId}.wave` : what === 'small' ? `${itemId}-bare.mp4` : `${itemId}-${this.sizes[what]}.jpg`;
    return join(this.folder, keptIn, name);
  }

  private once(source: PreviewSource, size: PreviewSize, priority: number, signal?: AbortSignal): Promise<Made> {
    const file = this.fileOf(source, size);
    const running = this.underway.get(file);
    if (running) return running;
    const making = this.lanes
      .add(() => this.make(source, size), { priority, ...(signal ? { signal } : {}) })
      .finally(() => this.underway.delete(file)) as Promise<Made>;
    this.underway.set(file, making);
    return making;
  }

  private async make(source: PreviewSource, size: PreviewSize): Promise<Made> {
    // A card that is away is no reason to remember that there is no picture.
    if (!(await isThere(source.path))) return { picture: null, look: null };
    if (size === 'sheet') {
      const picture = await this.render(source, this.sizes.sheet);
      await keep(this.fileOf(source, 'sheet'), picture);
      return { picture, look: null };
    }
    // One decoding gives both sizes, and what there is to say about the picture.
    const both = await this.bothSizes(source);
    const [picture, look] = [both?.closer ?? null, both?.look ?? null];
    await Promise.all([keep(this.fileOf(source, 'closer'), picture), keep(this.fileOf(source, 'sheet'), both?.sheet ?? null)]);
    this.onLook(source, look);
    return { picture, look };
  }

  private async bothSizes(source: PreviewSource): Promise<Awaited<ReturnType<Decoder['bothSizes']>>> {
    const isPicture = source.kind === 'photo' || source.kind === 'raw';
    if (source.kind === 'photo') {
      const direct = await withSafePath(source.path, (path) => this.decoder.bothSizes(path, this.sizes, 'own', true));
      if (direct) return direct;
    }
    // What could not be decoded is not tried again: it may have cost all the time and memory there is.
    const picture =
      source.kind === 'photo' ? await this.otherwise(source, this.sizes.closer) : await this.render(source, this.sizes.closer);
    return picture && this.decoder.bothSizes(picture, this.sizes, 'own', isPicture);
  }

  private async render(source: PreviewSource, pixels: number): Promise<Buffer | null> {
    if (source.kind === 'video') return poster(source.path, pixels);
    if (source.kind === 'raw') return this.fromEmbedded(source, pixels);
    if (source.kind !== 'photo') return null;
    const direct = await withSafePath(source.path, (path) => this.decoder.shrink(path, pixels, 'own'));
    return direct ?? this.otherwise(source, pixels);
  }

  /** A photo that is no picture as it stands. */
  private async otherwise(source: PreviewSource, pixels: number): Promise<Buffer | null> {
    return (await this.fromHeic(source.path, pixels)) ?? this.fromEmbedded(source, pixels);
  }

  private async fromEmbedded(source: PreviewSource, pixels: number): Promise<Buffer | null> {
    const picture = await this.thorough.embedded(source.path, ['JpgFromRaw', 'PreviewImage', 'OtherImage', 'ThumbnailImage']);
    return picture && this.decoder.shrink(picture, pixels, { own: true, else: source.orientation ?? 1 });
  }

  /** HEVC pictures (HEIC) are beyond sharp's own decoder: libheif's tool turns them, upright, into a JPEG. */
  private async fromHeic(path: Buffer, pixels: number): Promise<Buffer | null> {
    const handle = await open(path, 'r').catch(() => null);
    const head = Buffer.alloc(12);
    await handle?.read(head, 0, 12, 0);
    await handle?.close();
    if (head.toString('latin1', 4, 8) !== 'ftyp') return null;
    const folder = await mkdtemp(join(tmpdir(), 'tally-heic-'));
    try {
      await withSafePath(path, (safe) =>
        runLimited('heif-convert', ['-q', '92', safe, join(folder, 'picture.jpg')], { timeout: 30_000 }),
      );
      // A file with several pictures gives several: the first is the one it shows.
      const first = (await readdir(folder)).filter((name) => name.endsWith('.jpg')).sort()[0];
      return first ? await this.decoder.shrink(join(folder, first), pixels, 'own') : null;
    } catch {
      return null;
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }
}

/** Does a file stand there now? A link is none: it could point at anything on this machine. */
export async function isThere(path: Buffer): Promise<boolean> {
  return lstat(path as unknown as string).then(
    (stats) => stats.isFile(),
    () => false,
  );
}
