import type { CaptureTime } from '@tally/core/capture';
import type { Embedded } from '@tally/core/credit';
import type { Kind } from '@tally/core/card';
import type { ClipSays } from '@tally/core/footage';

/** What a file says of itself. */
export interface Metadata {
  readonly captured: CaptureTime;
  readonly make: string | null;
  readonly model: string | null;
  readonly serial: string | null;
  readonly width: number | null;
  readonly height: number | null;
  readonly durationMs: number | null;
  /** EXIF orientation, 1 to 8. */
  readonly orientation: number | null;
  /** What a clip or recording says of itself beyond that. */
  readonly clip: ClipSays | null;
  /** Description, words, creator, rights and position that come with it; null: nothing. */
  readonly embedded: Embedded | null;
  /** What is odd about the file; it can be filed all the same. */
  readonly remark: string | null;
}

export interface FileToRead {
  /** Absolute path, as bytes. */
  readonly path: Buffer;
  readonly kind: Kind;
  readonly bytes: number;
  readonly modifiedAt: Date;
}

/** A reader of metadata: the door to the native tools. */
export interface MetadataReader {
  read(file: FileToRead): Promise<Metadata & { readonly quickHash: Buffer | null }>;
  close(): Promise<void>;
}

export const NOTHING_READ = {
  make: null,
  model: null,
  serial: null,
  width: null,
  height: null,
  durationMs: null,
  orientation: null,
  clip: null,
  embedded: null,
} as const;

// eslint-disable-next-line no-control-regex -- control characters are what is taken out
const CONTROLS = /[\u0000-\u001f\u007f-\u009f]+/g;

/** A field's text in one line, without the padding that cameras put around it; null when nothing is left. */
export function cleanText(value: unknown): string | null {
  if (typeof value !== 'string' && typeof value !== 'number') return null;
  const text = (String(value).split('\0')[0] ?? '').replace(CONTROLS, ' ').trim();
  return text === '' ? null : text;
}

/** Serial numbers that tell nothing: zeros, and texts that stand for "none". Common practice, no source. */
export function cleanSerial(value: unknown): string | null {
  const text = cleanText(value);
  return text === null || /^(0+|n\/?a|none|unknown|-+)$/i.test(text) ? null : text;
}

export function positiveInteger(value: unknown): number | null {
  const number = Number(value);
  return Number.isFinite(number) && number >= 1 && number < 2 ** 31 ? Math.round(number) : null;
}
