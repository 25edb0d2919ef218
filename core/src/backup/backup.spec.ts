import { describe, expect, it } from '@jest/globals';
import { addDays, format } from 'date-fns';
import fc from 'fast-check';
import { isOtherWeek, toThin } from './index.js';

const KEEP = { days: 3, weeks: 2, months: 2 };
const at = (local: string) => ({ name: `made-${local}`, local });

describe('which backups are kept', () => {
  it('of each of the last days, weeks and months the newest', () => {
    const all = [
      ...['2026-01-31T02:00:00', '2026-02-27T02:00:00', '2026-02-28T02:00:00'],
      // A Saturday, a Sunday, and the Monday on which the next week begins (ISO 8601).
      ...['2026-03-07T02:00:00', '2026-03-08T02:00:00', '2026-03-09T02:00:00', '2026-03-10T02:00:00', '2026-03-10T14:00:00'],
    ];
    const gone = toThin(all.map(at), KEEP);
    // Days: 10th (its newest), 9th, 8th. Weeks: that of the 10th, and that of the 8th. Months: March, and February’s last.
    expect(gone).toEqual(
      ['2026-01-31T02:00:00', '2026-02-27T02:00:00', '2026-03-07T02:00:00', '2026-03-10T02:00:00'].map((one) => `made-${one}`),
    );
  });

  it('counts days on which one was made: who was away for a year loses none', () => {
    expect(toThin(['2024-05-01T02:00:00', '2024-05-02T02:00:00', '2026-03-10T02:00:00'].map(at), KEEP)).toEqual([]);
    expect(toThin([], KEEP)).toEqual([]);
  });

  it('knows the weeks of the turn of a year: 2026-12-31 and 2027-01-01 are of one (ISO 8601, week 53)', () => {
    const keep = { days: 0, weeks: 9, months: 0 };
    expect(toThin([at('2026-12-31T02:00:00'), at('2027-01-01T02:00:00')], keep)).toEqual(['made-2026-12-31T02:00:00']);
  });

  it('made and thinned every night it comes to rest: never more than days, weeks and months together, the newest among them (property)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 500 }), fc.integer({ min: 0, max: 8 }), (nights, days) => {
        const keep = { days, weeks: 4, months: 6 };
        let stand: { name: string; local: string }[] = [];
        for (let night = 0; night < nights; night++) {
          stand.push(at(format(addDays(new Date(2026, 0, 1, 2), night), "yyyy-MM-dd'T'HH:mm:ss")));
          const gone = new Set(toThin(stand, keep));
          stand = stand.filter(({ name }) => !gone.has(name));
        }
        expect(stand.length).toBeLessThanOrEqual(Math.max(1, days + 4 + 6));
        expect(stand.at(-1)!.local.slice(0, 10)).toBe(format(addDays(new Date(2026, 0, 1), nights - 1), 'yyyy-MM-dd'));
        // A month ago is still there.
        if (nights > 70) expect(stand[0]!.local < format(addDays(new Date(2026, 0, 1), nights - 40), 'yyyy-MM-dd')).toBe(true);
      }),
      { numRuns: 20 },
    );
  });
});

it('a week goes from Monday to Sunday', () => {
  expect(isOtherWeek('2026-03-08T23:59:59', '2026-03-09T00:00:00')).toBe(true);
  expect(isOtherWeek('2026-03-09T00:00:00', '2026-03-15T23:59:59')).toBe(false);
  expect(isOtherWeek('2026-12-31T02:00:00', '2027-01-01T02:00:00')).toBe(false);
});
