/** What an item is to the person at the desk. */
export const KINDS = ['photo', 'raw', 'video', 'sound', 'sidecar', 'other'] as const;
export type Kind = (typeof KINDS)[number];

/** Extensions in lower case, without the dot. Common practice, no source; one entry is all it takes to add a format. */
const EXTENSIONS: Readonly<Record<Exclude<Kind, 'other'>, readonly string[]>> = {
  photo: [
    'jpg',
    'jpeg',
    'jpe',
    'heic',
    'heif',
    'hif',
    'avif',
    'png',
    'tif',
    'tiff',
    'webp',
    'gif',
    'bmp',
    'jxl',
    'jp2',
    'psd',
    'mpo',
  ],
  raw: [
    ...['dng', 'raw', 'cr2', 'cr3', 'crw', 'nef', 'nrw', 'arw', 'sr2', 'srf', 'orf', 'rw2', 'rwl', 'raf', 'pef', 'ptx'],
    ...['x3f', 'srw', 'erf', 'mrw', 'kdc', 'dcr', 'mef', 'mos', 'iiq', '3fr', 'fff', 'gpr', 'ari'],
  ],
  video: [
    'mp4',
    'mov',
    'm4v',
    'avi',
    'mts',
    'm2ts',
    'mxf',
    'mpg',
    'mpeg',
    'mkv',
    'webm',
    '3gp',
    '3g2',
    'wmv',
    'insv',
    'lrv',
    'lrf',
    'r3d',
    'braw',
    'crm',
  ],
  sound: ['wav', 'mp3', 'm4a', 'aac', 'flac', 'aif', 'aiff', 'ogg', 'opus', 'wma', 'bwf', 'amr'],
  sidecar: [
    'xmp',
    'xml',
    'thm',
    'scr',
    'rmd',
    'srt',
    'lut',
    'cube',
    'aae',
    'cpi',
    'bim',
    'smi',
    'gpx',
    'pp3',
    'csv',
    'txt',
    'edl',
    'cue',
  ],
};

const KIND_BY_EXTENSION = new Map<string, Kind>(
  Object.entries(EXTENSIONS).flatMap(([kind, extensions]) => extensions.map((ext) => [ext, kind as Kind] as const)),
);

/** The part after the last dot in lower case, or '' when there is none. A leading dot is part of the stem. */
export function extensionOf(name: string): string {
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(dot + 1).toLowerCase() : '';
}

/** The name without its extension. */
export function stemOf(name: string): string {
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(0, dot) : name;
}

export function kindOf(name: string): Kind {
  return KIND_BY_EXTENSION.get(extensionOf(name)) ?? 'other';
}
