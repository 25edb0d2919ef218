import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { readTrueTime, shiftBetween, shiftInWords, shiftTime, wallClockMs } from './index.js';

const at = (local: string, offsetMinutes: number | null = null) => ({ local, offsetMinutes });

describe('putting a clock right', () => {
  it('one picture of the station clock gives the shift for the camera', () => {
    expect(shiftBetween('2026-04-18T13:02:10', '2026-04-18T14:00:22')).toBe(58 * 60 + 12);
    expect(shiftBetween('2000-01-01T00:12:00', '2026-04-18T09:12:00')).toBeGreaterThan(26 * 365 * 86_400);
  });

  it('moves over midnight, month ends and leap days', () => {
    expect(shiftTime(at('2024-02-28T23:30:00'), { kind: 'clock', seconds: 3600 }).local).toBe('2024-02-29T00:30:00');
    expect(shiftTime(at('2026-01-01T00:00:00.250'), { kind: 'clock', seconds: -1 }).local).toBe('2025-12-31T23:59:59.250');
  });

  it('a wrong zone keeps the instant, a wrong clock keeps the offset', () => {
    expect(shiftTime(at('2026-04-18T12:00:00', 60), { kind: 'zone', seconds: 3600 })).toEqual(at('2026-04-18T13:00:00', 120));
    expect(shiftTime(at('2026-04-18T12:00:00', 60), { kind: 'clock', seconds: 3600 })).toEqual(at('2026-04-18T13:00:00', 60));
    expect(shiftTime(at('2026-04-18T12:00:00'), { kind: 'zone', seconds: 3600 }).offsetMinutes).toBeNull();
  });

  it('what the shift between two times is, moves the one onto the other', () => {
    const moment = fc.date({ min: new Date('1970-01-01'), max: new Date('2090-01-01'), noInvalidDate: true });
    fc.assert(
      fc.property(moment, moment, (a, b) => {
        const [from, to] = [a, b].map((date) => date.toISOString().slice(0, 19)) as [string, string];
        const moved = shiftTime(at(from), { kind: 'clock', seconds: shiftBetween(from, to) });
        expect(wallClockMs(moved.local)).toBe(wallClockMs(to));
      }),
    );
  });

  it('says a shift in words', () => {
    expect(shiftInWords(58 * 60 + 12)).toBe('58 min 12 s later');
    expect(shiftInWords(-(86_400 + 3600))).toBe('1 day 1 h earlier');
    expect(shiftInWords(0)).toBe('no shift');
  });

  it('reads the true time as people type it', () => {
    const camera = '2026-04-18T13:02:10';
    expect(readTrueTime('14:05', camera)).toBe('2026-04-18T14:05:00');
    expect(readTrueTime(' 2026-04-19 7:05:30 ', camera)).toBe('2026-04-19T07:05:30');
    expect(readTrueTime('19.04.2026 07:05', camera)).toBe('2026-04-19T07:05:00');
    expect(readTrueTime('19 April 2026 6:05', camera)).toBe('2026-04-19T06:05:00');
    expect(readTrueTime('19/04/2026 06:05', camera)).toBe('2026-04-19T06:05:00');
    expect(readTrueTime('April 19, 2026 6:05 pm', camera)).toBe('2026-04-19T18:05:00');
    expect(readTrueTime('noon', camera)).toBe('2026-04-18T12:00:00');
    // Figures alone are read as the house writes them.
    expect(readTrueTime('03/04/2026 06:05', camera)).toBe('2026-04-03T06:05:00');
    expect(readTrueTime('03/04/2026 06:05', camera, 'month first')).toBe('2026-03-04T06:05:00');
    for (const wrong of ['', '25:00', 'at the pier', '2026-04-19', '14:5', '2026-02-30 10:00'])
      expect(readTrueTime(wrong, camera)).toBeNull();
  });
});
