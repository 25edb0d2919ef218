import { captureTime, parseWallClock, type CaptureFields } from '@tally/core/capture';
import { type ClipSays, NOTHING_SAID, saysNothing } from '@tally/core/footage';
import type { Embedded } from '@tally/core/credit';
import { ExifTool, exiftoolPath } from 'exiftool-vendored';
import { readFile, rm, writeFile, mkdir, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { endsWithUs } from '../aside/limited.js';
import { embeddedOf } from './embedded.js';
import { cleanSerial, cleanText, positiveInteger, type Metadata } from './metadata.js';
import { withSafePath } from './safe-path.js';

/** Tags asked for, in all groups. */
const TAGS = [
  ...[
    'DateTimeOriginal',
    'CreateDate',
    'ModifyDate',
    'MediaCreateDate',
    'CreationDate',
    'CreationTime',
    'DateCreated',
    'DateTimeDigitized',
  ],
  ...['SubSecTimeOriginal', 'SubSecTimeDigitized', 'SubSecTime', 'OffsetTimeOriginal', 'OffsetTimeDigitized', 'OffsetTime'],
  ...[
    'Make',
    'Model',
    'SerialNumber',
    'BodySerialNumber',
    'InternalSerialNumber',
    'DeviceSerialNo',
    'DeviceManufacturer',
    'DeviceModelName',
  ],
  ...[
    'ImageWidth',
    'ImageHeight',
    'ExifImageWidth',
    'ExifImageHeight',
    'Duration',
    'Orientation',
    ...['Description', 'Scene', 'Take', 'ReelName', 'CaptureGammaEquation'],
    ...['Subject', 'Keywords', 'Headline', 'Creator', 'By-line', 'Artist', 'Credit', 'Rights', 'CopyrightNotice', 'Copyright'],
    ...['UsageTerms', 'Caption-Abstract', 'ImageDescription', 'Sub-location', 'Location', 'City', 'State', 'Province-State'],
    ...['Country', 'Country-PrimaryLocationName', 'GPSLatitude', 'GPSLongitude'],
    'FileType',
    'Error',
    'Warning',
  ],
];
const ARGUMENTS = ['-json', '-G1', '-a', '-fast', '-n', '-charset', 'filename=utf8', ...TAGS.map((tag) => `-${tag}`)];

/** Tags of an exposure or clip, and what people call them. */
const DETAILS: readonly (readonly [tag: string, name: string])[] = [
  ['ExposureTime', 'Exposure time'],
  ['FNumber', 'Aperture'],
  ['ISO', 'Sensitivity'],
  ['FocalLength', 'Focal length'],
  ['LensModel', 'Lens'],
  ['ExposureCompensation', 'Exposure compensation'],
  ['Flash', 'Flash'],
  ['WhiteBalance', 'White balance'],
  ['VideoFrameRate', 'Frames a second'],
  ['CompressorName', 'Compression'],
  ['AudioSampleRate', 'Sound sample rate'],
  ['ProfileDescription', 'Colour profile'],
];

/** Exiftool, kept open in two processes: reads what the fast reader cannot. */
export class ThoroughReader {
  private tool: ExifTool | null = null;
  private readonly pidFile: string;
  private begun: Promise<ExifTool> | null = null;
  private pids = '';

  /** @param runDir folder in which this process notes its helpers, so that the next can end them if this one is killed. */
  constructor(runDir: string) {
    this.pidFile = join(runDir, `exiftool-of-${process.pid}`);
  }

  async read(path: Buffer, fileTime: Date, houseZone: string): Promise<Metadata & { fileType: string | null }> {
    const tool = await this.ready();
    const tags = await withSafePath(path, (safe): Promise<Readonly<Record<string, unknown>>> =>
      tool.readRaw(safe, { readArgs: ARGUMENTS }),
    );
    await this.notePids(tool);
    return { ...metadataOf(tags, fileTime, houseZone), fileType: cleanText(tags['File:FileType']) };
  }

  /** What the camera wrote about an exposure, as people say it. */
  async details(path: Buffer): Promise<{ name: string; value: string }[]> {
    const tool = await this.ready();
    const tags = await withSafePath(path, (safe): Promise<Readonly<Record<string, unknown>>> =>
      tool.readRaw(safe, {
        readArgs: ['-json', '-fast', '-charset', 'filename=utf8', ...DETAILS.map(([tag]) => `-${tag}`)],
      }),
    ).catch((): Readonly<Record<string, unknown>> => ({}));
    return DETAILS.flatMap(([tag, name]) => {
      const value = cleanText(tags[tag])?.slice(0, 120);
      return value ? [{ name, value }] : [];
    });
  }

  /** The picture embedded in a file under the first of these tags that it has. */
  async embedded(path: Buffer, tags: readonly string[]): Promise<Buffer | null> {
    const tool = await this.ready();
    return withSafePath(path, async (safe) => {
      for (const tag of tags) {
        const picture = await tool.extractBinaryTagToBuffer(tag as 'PreviewImage', safe).catch(() => null);
        if (picture && picture.length > 200) return picture;
      }
      return null;
    });
  }

  async close(): Promise<void> {
    await this.tool?.end(true).catch(() => undefined);
    await rm(this.pidFile, { force: true });
  }

  private ready(): Promise<ExifTool> {
    return (this.begun ??= this.begin());
  }

  private async begin(): Promise<ExifTool> {
    await this.endOrphans();
    const { command, before } = endsWithUs(await exiftoolPath());
    return (this.tool = new ExifTool({
      ...{ maxProcs: 2, taskTimeoutMillis: 20_000, maxTasksPerProcess: 2_000, exiftoolPath: command },
      exiftoolArgs: [...before, '-stay_open', 'True', '-@', '-'],
    }));
  }

  private async notePids(tool: ExifTool): Promise<void> {
    const pids = tool.pids.join(' ');
    if (pids === this.pids) return;
    this.pids = pids;
    await mkdir(join(this.pidFile, '..'), { recursive: true });
    await writeFile(this.pidFile, pids);
  }

  /** Where nothing binds them to us, a kept-open exiftool outlives a parent that was killed: end those whose parent's note is all that is left of it. */
  private async endOrphans(): Promise<void> {
    const folder = join(this.pidFile, '..');
    const notes = await readdir(folder).catch(() => []);
    for (const note of notes) {
      const parent = Number(/^exiftool-of-(\d+)$/.exec(note)?.[1]);
      if (!parent || parent === process.pid || isAlive(parent)) continue;
      const pids = (await readFile(join(folder, note), 'utf8').catch(() => '')).split(' ').map(Number).filter(Boolean);
      for (const pid of pids) {
        const command = await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => '');
        if (command.includes('exiftool') && command.includes('stay_open')) process.kill(pid);
      }
      await rm(join(folder, note), { force: true });
    }
  }
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    return false;
  }
}

/** Scene, take and curve as recorders and cameras write them: iXML, the description of a `bext` chunk, the camera's XML. */
function recordedAs(first: (...names: string[]) => string | null): ClipSays | null {
  const description = first('Description') ?? '';
  const inDescription = (name: string) =>
    new RegExp(`(?:^|[\\s;,])[a-z]?${name}=([^\\s;,]+)`, 'i').exec(description)?.[1] ?? null;
  const clip: ClipSays = {
    ...NOTHING_SAID,
    scene: (first('IXMLScene', 'Scene') ?? inDescription('scene'))?.slice(0, 60) ?? null,
    take: (first('IXMLTake', 'Take') ?? inDescription('take'))?.slice(0, 60) ?? null,
    reel: first('IXMLTape', 'ReelName')?.slice(0, 60) ?? null,
    gamma: first('CaptureGammaEquation', 'GammaCurve', 'LogCurve')?.slice(0, 60) ?? null,
  };
  return saysNothing(clip) ? null : clip;
}

/** IIM as exiftool names it, where that differs. */
const IIM_NAMES: Readonly<Record<string, string>> = {
  ...{ Caption: 'Caption-Abstract', Byline: 'By-line', Location: 'Sub-location', State: 'Province-State' },
  Country: 'Country-PrimaryLocationName',
};

/** Description, words, creator, rights and position, by group. */
function comesWith(tags: Readonly<Record<string, unknown>>): Embedded | null {
  const inGroup = (group: RegExp, tag: string) =>
    Object.entries(tags).find(([key]) => key.endsWith(`:${tag}`) && group.test(key.split(':')[0]!))?.[1];
  const position = (tag: string) => inGroup(/^Composite$/, tag) ?? inGroup(/^(XMP-exif|Keys|UserData|ItemList)$/, tag);
  return embeddedOf(
    (name) => inGroup(/^XMP/, name),
    (name) => inGroup(/^IPTC/, IIM_NAMES[name] ?? name),
    (name) =>
      name === 'latitude' ? position('GPSLatitude') : name === 'longitude' ? position('GPSLongitude') : inGroup(/^IFD0$/, name),
    cleanText(tags['IFD0:Make']),
  );
}

/** Turns tags named `Group:Tag` into metadata. */
export function metadataOf(tags: Readonly<Record<string, unknown>>, fileTime: Date, houseZone: string): Metadata {
  const all = (name: string, not = /^$/): string[] =>
    Object.entries(tags).flatMap(([key, value]) => {
      const [group, tag] = key.split(':');
      const text = cleanText(value);
      return tag === name && text !== null && !not.test(group!) ? [text] : [];
    });
  const one = (key: string) => cleanText(tags[key]) ?? undefined;
  const first = (...names: string[]) => names.flatMap((name) => all(name))[0] ?? null;

  const exifDate = (key: string, subSeconds: string, offset: string): CaptureFields['exifDates'] => {
    const text = one(key);
    return text ? [{ text, subSeconds: one(`ExifIFD:${subSeconds}`), offset: one(`ExifIFD:${offset}`) }] : [];
  };
  // Dates of other groups named DateTimeOriginal are the camera's own too (raw containers, RIFF); text ones come last.
  const otherOriginals = all('DateTimeOriginal', /^(ExifIFD|XMP.*|IPTC|System)$/);
  const withOffset = /[+-]\d{2}:?\d{2}\s*$|Z\s*$/;
  const phoneDates = [...all('CreationDate'), ...otherOriginals].filter((text) => withOffset.test(text));
  const xmpDates = Object.entries(tags).filter(([key]) =>
    /^XMP.*:(DateTimeOriginal|DateTimeDigitized|CreateDate|DateCreated)$/.test(key),
  );
  const fields: CaptureFields = {
    exifDates: [
      ...exifDate('ExifIFD:DateTimeOriginal', 'SubSecTimeOriginal', 'OffsetTimeOriginal'),
      ...exifDate('ExifIFD:CreateDate', 'SubSecTimeDigitized', 'OffsetTimeDigitized'),
    ],
    datesWithOffset: phoneDates,
    localDates: [
      ...otherOriginals.filter((text) => !withOffset.test(text)),
      ...all('CreationTime'),
      ...xmpDates.map(([, value]) => cleanText(value) ?? ''),
      ...(one('QuickTime:CreateDate') ? [] : all('ModifyDate', /^(System|XMP.*|QuickTime|Track\d*|PDF)$/)),
    ],
    containerUtc: [one('QuickTime:CreateDate'), ...all('MediaCreateDate')].find((text) => text && parseWallClock(text)),
    fileTime,
  };
  const duration = Number(first('Duration') ?? Number.NaN);
  const error = first('Error');
  return {
    captured: captureTime(fields, houseZone),
    // A colour profile has a maker of devices, too: it says nothing of the camera.
    make: one('IFD0:Make') ?? first('Make') ?? all('DeviceManufacturer', /^ICC/)[0] ?? null,
    model: one('IFD0:Model') ?? first('Model', 'DeviceModelName'),
    serial: cleanSerial(first('SerialNumber', 'BodySerialNumber', 'DeviceSerialNo')),
    width: positiveInteger(one('File:ImageWidth') ?? first('ImageWidth', 'ExifImageWidth')),
    height: positiveInteger(one('File:ImageHeight') ?? first('ImageHeight', 'ExifImageHeight')),
    durationMs: Number.isFinite(duration) && duration > 0 ? Math.min(2 ** 31 - 1, Math.round(duration * 1000)) : null,
    orientation: positiveInteger(one('IFD0:Orientation') ?? first('Orientation')),
    clip: recordedAs(first),
    embedded: comesWith(tags),
    remark: error ? `cannot be understood: ${error}` : null,
  };
}
