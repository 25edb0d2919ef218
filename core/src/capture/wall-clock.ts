/**
 * Wall-clock time as a camera writes it: a calendar date and a time of day, without a zone.
 * Reading is lenient, because real cameras are: separators vary, seconds are missing, blanks
 * stand in for digits. What cannot be a date is refused, never guessed.
 */

/** `yyyy-MM-ddTHH:mm:ss[.SSS]`, always a real calendar date, never a zone. */
export type WallClock = string & { readonly __wallClock?: never };

const YEAR_FIRST = /^\s*(\d{4})[:\-/.](\d{1,2})[:\-/.](\d{1,2})(?:[T :]+(\d{1,2}):(\d{1,2})(?::(\d{1,2})(?:[.,](\d+))?)?)?/;
const DAY_FIRST = /^\s*(\d{1,2})[.](\d{1,2})[.](\d{4})(?:[T ]+(\d{1,2}):(\d{1,2})(?::(\d{1,2})(?:[.,](\d+))?)?)?/;

/**
 * Reads an EXIF-like date (EXIF 2.32 section 4.6.5 says `YYYY:MM:DD HH:MM:SS`; cameras also write
 * `2004/05/09 ..`, `2003:08:27:00:09:15`, `05.10.2009 11:16`).
 * @returns null when it is not a date: zeros, blanks, month 13, 30 February.
 */
export function parseWallClock(text: string, subSeconds?: string): WallClock | null {
  const yearFirst = YEAR_FIRST.exec(text);
  const dayFirst = yearFirst ? null : DAY_FIRST.exec(text);
  const match = yearFirst ?? dayFirst;
  if (!match) return null;
  const [year, month, day] = yearFirst ? [match[1], match[2], match[3]].map(Number) : [match[3], match[2], match[1]].map(Number);
  const [hour, minute, second] = [match[4] ?? '0', match[5] ?? '0', match[6] ?? '0'].map(Number);
  if (!isRealMoment(year!, month!, day!, hour!, minute!, second!)) return null;
  const fraction = milliseconds(match[7] ?? subSeconds?.trim());
  const two = (n: number | undefined) => String(n).padStart(2, '0');
  return `${String(year).padStart(4, '0')}-${two(month)}-${two(day)}T${two(hour)}:${two(minute)}:${two(second)}${fraction}`;
}

function isRealMoment(y: number, mo: number, d: number, h: number, mi: number, s: number): boolean {
  if (y < 1 || h > 23 || mi > 59 || s > 59) return false;
  const date = new Date(Date.UTC(2000, mo - 1, d));
  date.setUTCFullYear(y, mo - 1, d);
  return date.getUTCMonth() === mo - 1 && date.getUTCDate() === d;
}

function milliseconds(digits: string | undefined): string {
  if (!digits || !/^\d+$/.test(digits)) return '';
  return `.${digits.slice(0, 3).padEnd(3, '0')}`;
}

const OFFSET = /^\s*(?:(Z)|([+-])(\d{1,2}):?(\d{2}))\s*$/;

/** Minutes east of UTC from `+02:00`, `-0730` or `Z`. Null for blanks, `   :  ` and anything over 14 hours (tzdata has none further). */
export function parseOffset(text: string): number | null {
  const match = OFFSET.exec(text);
  if (!match) return null;
  if (match[1]) return 0;
  const minutes = Number(match[3]) * 60 + Number(match[4]);
  if (Number(match[4]) > 59 || minutes > 14 * 60) return null;
  return match[2] === '-' ? -minutes : minutes;
}

/** `+02:00` from minutes east of UTC. */
export function formatOffset(offsetMinutes: number): string {
  const abs = Math.abs(offsetMinutes);
  const two = (n: number) => String(n).padStart(2, '0');
  return `${offsetMinutes < 0 ? '-' : '+'}${two(Math.floor(abs / 60))}:${two(abs % 60)}`;
}

/** The wall clock read as if it were UTC: good for order, differences and formatting, never an instant. */
export function wallClockMs(local: WallClock): number {
  return Date.parse(`${local}Z`);
}

/** The wall clock that a UTC instant shows at an offset. */
export function wallClockAt(instant: Date, offsetMinutes: number): WallClock {
  return new Date(instant.getTime() + offsetMinutes * 60_000)
    .toISOString()
    .slice(0, -1)
    .replace(/\.000$/, '');
}

/** Making a formatter costs a hundred times what using it does; a house has one zone. */
const formatters = new Map<string, Intl.DateTimeFormat>();

function offsetFormatter(zone: string): Intl.DateTimeFormat {
  const known = formatters.get(zone) ?? new Intl.DateTimeFormat('en-US', { timeZone: zone, timeZoneName: 'longOffset' });
  formatters.set(zone, known);
  return known;
}

/** No zone has changed its offset but on a quarter of an hour since 1973 (IANA time zone database, from memory). */
const QUARTER_MS = 900_000;
const SINCE_MS = Date.UTC(1973, 0, 1);
/** So many quarters are kept: those of the newest cards. */
const MOST_KEPT = 20_000;
const offsets = new Map<string, number>();

/** Offset in minutes of an IANA zone at an instant. @throws RangeError for a zone the runtime does not know. */
export function zoneOffsetMinutes(zone: string, instant: Date): number {
  const ms = instant.getTime();
  if (!(ms > SINCE_MS)) return offsetNow(zone, instant);
  const key = `${zone} ${Math.floor(ms / QUARTER_MS)}`;
  const known = offsets.get(key);
  if (known !== undefined) return known;
  const offset = offsetNow(zone, instant);
  if (offsets.size >= MOST_KEPT) offsets.clear();
  offsets.set(key, offset);
  return offset;
}

function offsetNow(zone: string, instant: Date): number {
  const parts = offsetFormatter(zone).formatToParts(instant);
  const name = parts.find((part) => part.type === 'timeZoneName')?.value ?? 'GMT';
  return name === 'GMT' ? 0 : (parseOffset(name.slice(3)) ?? 0);
}
