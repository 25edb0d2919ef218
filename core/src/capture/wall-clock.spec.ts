import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { formatOffset, parseOffset, parseWallClock, wallClockAt, wallClockMs, zoneOffsetMinutes } from './index.js';

describe('dates as cameras write them', () => {
  // Forms met in real files; the values are what exiftool 13.59 makes of them.
  it.each([
    ['2026:04:18 09:12:31', '2026-04-18T09:12:31'],
    ['2004/05/09 10:11:12', '2004-05-09T10:11:12'],
    ['2003:08:27:00:09:15', '2003-08-27T00:09:15'],
    ['05.10.2009 11:16', '2009-10-05T11:16:00'],
    ['2008:02:15 16:00', '2008-02-15T16:00:00'],
    ['2024:02:29 23:59:59.5', '2024-02-29T23:59:59.500'],
    ['2026-04-18T09:12:31+01:00', '2026-04-18T09:12:31'],
  ])('%s is %s', (text, expected) => expect(parseWallClock(text)).toBe(expected));

  it.each([
    ['zeros', '0000:00:00 00:00:00'],
    ['blanks with colons', '    :  :     :  :  '],
    ['nothing', ''],
    ['month 13', '2026:13:01 00:00:00'],
    ['30 February', '2026:02:30 00:00:00'],
    ['29 February of a common year', '2025:02:29 00:00:00'],
    ['hour 24', '2026:04:18 24:00:00'],
    ['words', 'yesterday'],
  ])('%s is no date', (_what, text) => expect(parseWallClock(text)).toBeNull());

  it('sub-seconds of their own field are milliseconds, whatever their number of digits', () => {
    expect(parseWallClock('2026:04:18 09:12:31', '5')).toBe('2026-04-18T09:12:31.500');
    expect(parseWallClock('2026:04:18 09:12:31', '123456')).toBe('2026-04-18T09:12:31.123');
    expect(parseWallClock('2026:04:18 09:12:31', '  ')).toBe('2026-04-18T09:12:31');
  });

  it('reads back every moment it writes', () => {
    const moment = fc.date({ min: new Date('0100-01-01T00:00:00Z'), max: new Date('2999-12-31T23:59:59Z'), noInvalidDate: true });
    fc.assert(
      fc.property(moment, fc.integer({ min: -14 * 60, max: 14 * 60 }), (date, offset) => {
        const local = wallClockAt(date, offset);
        expect(parseWallClock(local)).toBe(local);
        expect(wallClockMs(local)).toBe(date.getTime() + offset * 60_000);
      }),
    );
  });
});

describe('offsets', () => {
  it.each([
    ['+02:00', 120],
    ['-0730', -450],
    ['Z', 0],
    ['+5:45', 345],
  ])('%s is %d minutes', (text, minutes) => expect(parseOffset(text)).toBe(minutes));

  it.each(['   :  ', '', '+25:00', '+02:75', '02:00', 'GMT'])('"%s" is no offset', (text) =>
    expect(parseOffset(text)).toBeNull(),
  );

  it('reads back every offset it writes', () => {
    fc.assert(
      fc.property(fc.integer({ min: -14 * 60, max: 14 * 60 }), (minutes) =>
        expect(parseOffset(formatOffset(minutes))).toBe(minutes),
      ),
    );
  });

  // Source: GNU date, coreutils 9.1 with tzdata 2025b. The runtime's own zone data must agree on every line.
  it('zone offsets equal those of GNU date', () => {
    const lines = readFileSync(new URL('../../../tests/fixtures/dates/zone-offsets-gnu-date.tsv', import.meta.url), 'utf8')
      .trim()
      .split('\n');
    expect(lines.length).toBeGreaterThan(500);
    const wrong = lines.filter((line) => {
      const [zone, seconds, iso] = line.split('\t') as [string, string, string];
      const instant = new Date(Number(seconds) * 1000);
      const offset = zoneOffsetMinutes(zone, instant);
      return `${wallClockAt(instant, offset)}${formatOffset(offset)}` !== iso;
    });
    expect(wrong).toEqual([]);
  });

  it('an offset that is kept is what the runtime says at every second, also around a change', () => {
    // Europe/London 2026: 29 March and 25 October at 01:00 UTC (IANA time zone database).
    const asked = (zone: string, ms: number) => {
      const name = new Intl.DateTimeFormat('en-US', { timeZone: zone, timeZoneName: 'longOffset' })
        .formatToParts(ms)
        .find(({ type }) => type === 'timeZoneName')!.value;
      // Local mean times of long ago have seconds, which no offset of ours has.
      return name === 'GMT' ? 0 : (parseOffset(name.slice(3)) ?? 0);
    };
    const changes = ['2026-03-29T01:00:00Z', '2026-10-25T01:00:00Z', '2024-04-06T15:00:00Z', '1975-01-01T00:00:00Z'].map(
      Date.parse,
    );
    fc.assert(
      fc.property(
        fc.constantFrom('Europe/London', 'Australia/Lord_Howe', 'Asia/Kathmandu', 'America/St_Johns'),
        fc.oneof(
          fc
            .tuple(fc.constantFrom(...changes), fc.integer({ min: -4000, max: 4000 }))
            .map(([at, seconds]) => at + seconds * 1000),
          fc.integer({ min: Date.parse('1900-01-01'), max: Date.parse('2090-01-01') }),
        ),
        (zone, ms) => expect(zoneOffsetMinutes(zone, new Date(ms))).toBe(asked(zone, ms)),
      ),
      { numRuns: 400 },
    );
  });
});
