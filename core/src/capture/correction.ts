import { wallClockMs, type WallClock } from './wall-clock.js';

/** A clock that ran wrong, or one that was right for another time zone. */
export const CORRECTION_KINDS = ['clock', 'zone'] as const;
export type CorrectionKind = (typeof CORRECTION_KINDS)[number];

/** How far a camera's time is moved. */
export interface ClockShift {
  readonly kind: CorrectionKind;
  /** Seconds to add to the camera's time. */
  readonly seconds: number;
}

/** The furthest a clock is moved: from the earliest epoch of a flat battery to today and some years on. */
export const MOST_SHIFT_S = 75 * 366 * 86_400;

/** The shift that makes a picture of this camera time have been taken at that true time. */
export function shiftBetween(cameraLocal: WallClock, trueLocal: WallClock): number {
  return Math.round((wallClockMs(trueLocal) - wallClockMs(cameraLocal)) / 1000);
}

/**
 * Camera time moved by a shift; fractions of a second stay. A wrong zone moves the offset along, so that the instant
 * stays what it was; a wrong clock does not.
 */
export function shiftTime(
  time: { readonly local: WallClock; readonly offsetMinutes: number | null },
  shift: ClockShift,
): { local: WallClock; offsetMinutes: number | null } {
  const fraction = /\.\d+$/.exec(time.local)?.[0] ?? '';
  const whole = wallClockMs(time.local.slice(0, 19)) + shift.seconds * 1000;
  const local = new Date(whole).toISOString().slice(0, 19) + fraction;
  const moved = time.offsetMinutes !== null && shift.kind === 'zone';
  return { local, offsetMinutes: moved ? time.offsetMinutes + Math.round(shift.seconds / 60) : time.offsetMinutes };
}

/** A shift in words: `58 min 12 s later`, `365 days earlier`. */
export function shiftInWords(seconds: number): string {
  if (seconds === 0) return 'no shift';
  let rest = Math.abs(seconds);
  const parts: string[] = [];
  for (const [unit, size] of [
    ['days', 86_400],
    ['h', 3600],
    ['min', 60],
    ['s', 1],
  ] as const) {
    const n = Math.floor(rest / size);
    rest -= n * size;
    if (n) parts.push(`${n} ${unit === 'days' && n === 1 ? 'day' : unit}`);
  }
  return `${parts.join(' ')} ${seconds > 0 ? 'later' : 'earlier'}`;
}
