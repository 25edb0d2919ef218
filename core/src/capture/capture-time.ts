import {
  formatOffset,
  parseOffset,
  parseWallClock,
  wallClockAt,
  wallClockMs,
  zoneOffsetMinutes,
  type WallClock,
} from './wall-clock.js';

/** Where a capture time comes from, in order of trust. */
export const CAPTURE_SOURCES = ['metadata with offset', 'metadata', 'container', 'file time'] as const;
export type CaptureSource = (typeof CAPTURE_SOURCES)[number];

export interface CaptureTime {
  /** Local capture time, `yyyy-MM-ddTHH:mm:ss[.SSS]`. */
  readonly local: WallClock;
  /** Minutes east of UTC where the file says so or its standard does; null when nobody knows. */
  readonly offsetMinutes: number | null;
  readonly source: CaptureSource;
  /** The text as it stood in the file, never changed. */
  readonly original: string;
}

/** Date fields as a metadata reader hands them over: text, untouched. */
export interface CaptureFields {
  /** EXIF DateTimeOriginal (0x9003), then DateTimeDigitized (0x9004), then DateTime (0x0132): first that is a date. */
  readonly exifDates: readonly { readonly text: string; readonly subSeconds?: string; readonly offset?: string }[];
  /** Dates of the container that carry their own offset (a phone's `CreationDate`). */
  readonly datesWithOffset?: readonly string[];
  /** QuickTime/MP4 creation time: UTC by ISO/IEC 14496-12 section 8.2.2 (some cameras write local time all the same). */
  readonly containerUtc?: string;
  /** Local dates without zone in other containers: broadcast-WAV origination (EBU Tech 3285), RIFF, IPTC, sidecars. */
  readonly localDates?: readonly string[];
  /** Modification time of the file as the file system tells it. */
  readonly fileTime: Date;
}

const TRAILING_OFFSET = /(Z|[+-]\d{2}:?\d{2})\s*$/;

/**
 * Decides when an item was captured: metadata with offset, metadata without, the container's UTC, the file's time.
 * @param houseZone IANA name; UTC times are shown as local time of this zone.
 */
export function captureTime(fields: CaptureFields, houseZone: string): CaptureTime {
  for (const date of fields.exifDates) {
    const inline = TRAILING_OFFSET.exec(date.text)?.[1];
    const local = parseWallClock(date.text, date.subSeconds);
    if (!local) continue;
    const offset = parseOffset(date.offset ?? inline ?? '');
    return { local, offsetMinutes: offset, source: offset === null ? 'metadata' : 'metadata with offset', original: date.text };
  }
  for (const text of fields.datesWithOffset ?? []) {
    const local = parseWallClock(text);
    const offset = parseOffset(TRAILING_OFFSET.exec(text)?.[1] ?? '');
    if (local && offset !== null) return { local, offsetMinutes: offset, source: 'metadata with offset', original: text };
  }
  for (const text of fields.localDates ?? []) {
    const local = parseWallClock(text);
    if (local) return { local, offsetMinutes: null, source: 'metadata', original: text };
  }
  const utc = fields.containerUtc ? parseWallClock(fields.containerUtc) : null;
  if (utc) return { ...localInZone(new Date(`${utc}Z`), houseZone), source: 'container', original: fields.containerUtc! };
  return { ...localInZone(fields.fileTime, houseZone), source: 'file time', original: fields.fileTime.toISOString() };
}

function localInZone(instant: Date, zone: string): Pick<CaptureTime, 'local' | 'offsetMinutes'> {
  const offsetMinutes = zoneOffsetMinutes(zone, instant);
  return { local: wallClockAt(instant, offsetMinutes), offsetMinutes };
}

/** ISO 8601 with the offset if it is known, without if it is not. */
export function isoCaptureTime(time: Pick<CaptureTime, 'local' | 'offsetMinutes'>): string {
  return time.offsetMinutes === null ? time.local : `${time.local}${formatOffset(time.offsetMinutes)}`;
}

export type DateDoubt = 'camera epoch' | 'in the future' | 'no date in the file';

/** The same as a person says it. */
export function doubtInWords(doubt: string): string {
  switch (doubt as DateDoubt) {
    case 'camera epoch':
      return 'the camera’s clock was never set';
    case 'in the future':
      return 'dated in the future';
    case 'no date in the file':
      return 'no date in the file: the file’s own time stands for it';
    default:
      return doubt;
  }
}

/** Years in which a clock without power starts again. Common practice, no source. */
export const EPOCH_DAYS: readonly string[] = ['1970-01-01', '1980-01-01', '1999-12-31', '2000-01-01', '2001-01-01'];

/** Why a capture time should not be believed as it is, or null. `nowLocal` is the house's wall clock now. */
export function dateDoubt(time: Pick<CaptureTime, 'local' | 'source'>, nowLocal: WallClock): DateDoubt | null {
  if (EPOCH_DAYS.includes(time.local.slice(0, 10))) return 'camera epoch';
  if (wallClockMs(time.local) > wallClockMs(nowLocal) + 24 * 3_600_000) return 'in the future';
  if (time.source === 'file time') return 'no date in the file';
  return null;
}
