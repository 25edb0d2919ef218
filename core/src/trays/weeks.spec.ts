import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { mondayOf, weeksOf } from './index.js';

describe('weeks', () => {
  // ISO 8601: the week begins on Monday; 2026-04-18 is a Saturday (by the proleptic Gregorian calendar, by hand).
  it('begin on Monday', () => {
    expect([mondayOf('2026-04-18'), mondayOf('2026-04-20'), mondayOf('2026-01-01')]).toEqual([
      '2026-04-13',
      '2026-04-20',
      '2025-12-29',
    ]);
  });

  it('a thing that lasts over the end of a week goes on in the next', () => {
    const [one, two] = weeksOf([{ from: '2026-04-18', to: '2026-04-21' }], '2026-04-15', 2);
    expect(one!.tapes).toMatchObject([{ first: 5, days: 2, before: false, after: true }]);
    expect(two!.tapes).toMatchObject([{ first: 0, days: 2, before: true, after: false }]);
  });

  it('no two tapes of a week lie over each other, and none is lost (property)', () => {
    const day = fc.integer({ min: 0, max: 27 }).map((n) => `2026-04-${String(n + 1).padStart(2, '0')}`);
    const thing = fc.tuple(day, day).map(([a, b]) => (a < b ? { from: a, to: b } : { from: b, to: a }));
    fc.assert(
      fc.property(fc.array(thing, { maxLength: 12 }), (things) => {
        const weeks = weeksOf(things, '2026-04-01', 5);
        for (const { tapes } of weeks)
          for (const a of tapes)
            for (const b of tapes)
              if (a !== b && a.line === b.line) expect(a.first + a.days <= b.first || b.first + b.days <= a.first).toBe(true);
        const shown = weeks.flatMap(({ tapes }) => tapes).reduce((sum, { days }) => sum + days, 0);
        const lasting = things.reduce((sum, { from, to }) => sum + (Date.parse(to) - Date.parse(from)) / 86_400_000 + 1, 0);
        expect(shown).toBe(lasting);
      }),
    );
  });
});
