import fc from 'fast-check';
import { dayBeginsMs, houseDay, MIDNIGHT } from './index.js';

describe("the house's day", () => {
  it.each([
    ['2026-05-16T20:00:00', '04:00', '2026-05-16'],
    ['2026-05-17T02:30:00', '04:00', '2026-05-16'],
    ['2026-05-17T03:59:59.9', '04:00', '2026-05-16'],
    ['2026-05-17T04:00:00', '04:00', '2026-05-17'],
    // Over the end of a month, of a year, and a leap day.
    ['2026-05-01T00:10:00', '04:00', '2026-04-30'],
    ['2027-01-01T01:00:00', '04:00', '2026-12-31'],
    ['2024-03-01T00:30:00', '00:45', '2024-02-29'],
    ['2026-05-17T00:00:00', MIDNIGHT, '2026-05-17'],
  ])('%s, where it begins at %s, is of %s', (local, begins, day) => expect(houseDay(local, begins)).toBe(day));

  it('is the calendar day of the moment as long before as the day begins later', () => {
    const two = (n: number) => String(n).padStart(2, '0');
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 4_000_000_000 }), fc.nat(12), fc.nat(59), (seconds, hour, minute) => {
        const begins = `${two(hour)}:${two(minute)}`;
        const local = new Date(seconds * 1000).toISOString().slice(0, 19);
        const before = new Date(seconds * 1000 - dayBeginsMs(begins)).toISOString().slice(0, 10);
        expect(houseDay(local, begins)).toBe(before);
      }),
    );
  });
});
