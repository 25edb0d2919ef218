import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { distanceInWords, distanceM, nearest, positionAt, readGpx } from './index.js';

describe('distances over the great circle', () => {
  // On a sphere of the mean radius one minute of arc is 6371008.8 × π / 10800 = 1853.25 m (by hand); the international
  // nautical mile of 1852 m (BIPM, SI Brochure, 8th ed., table 8) was meant to be just that.
  it('one minute of latitude is a nautical mile, to a tenth of a percent', () => {
    const metres = distanceM({ lat: 45, lon: 0 }, { lat: 45 + 1 / 60, lon: 0 });
    expect(metres).toBeCloseTo((6_371_008.7714 * Math.PI) / 10_800, 3);
    expect(Math.abs(metres / 1852 - 1)).toBeLessThan(0.001);
  });

  // Worked by hand: a quarter of the circumference, and along the 60th parallel over the pole's side.
  it('a quarter of the way round, and half of it', () => {
    expect(distanceM({ lat: 0, lon: 0 }, { lat: 90, lon: 0 })).toBeCloseTo((6_371_008.7714 * Math.PI) / 2, 3);
    expect(distanceM({ lat: 0, lon: 0 }, { lat: 0, lon: 180 })).toBeCloseTo(6_371_008.7714 * Math.PI, 3);
    // cos c = sin²60° + cos²60° · cos 180° = 3/4 − 1/4 = 1/2, so c = 60°.
    expect(distanceM({ lat: 60, lon: -90 }, { lat: 60, lon: 90 })).toBeCloseTo((6_371_008.7714 * Math.PI) / 3, 3);
  });

  // Ed Williams, "Aviation Formulary", worked example LAX–JFK: 0.623585 radians (from memory).
  it('from Los Angeles to New York as the Aviation Formulary works it', () => {
    const metres = distanceM({ lat: 33 + 57 / 60, lon: -(118 + 24 / 60) }, { lat: 40 + 38 / 60, lon: -(73 + 47 / 60) });
    expect(metres / 6_371_008.7714).toBeCloseTo(0.623585, 5);
  });

  it('is the same both ways and never negative (property)', () => {
    const place = fc.record({
      lat: fc.double({ min: -90, max: 90, noNaN: true }),
      lon: fc.double({ min: -180, max: 180, noNaN: true }),
    });
    fc.assert(
      fc.property(place, place, (a, b) => {
        expect(distanceM(a, b)).toBeCloseTo(distanceM(b, a), 3);
        expect(distanceM(a, b)).toBeGreaterThanOrEqual(0);
      }),
    );
  });

  it('the nearest location within its own reach', () => {
    const reach = { id: 1, position: { lat: 50, lon: 0 }, reachM: 500 };
    const jetty = { id: 2, position: { lat: 50.001, lon: 0 }, reachM: 50 };
    expect(nearest([reach, jetty], { lat: 50.0009, lon: 0 })?.location.id).toBe(2);
    expect(nearest([reach, jetty], { lat: 50.002, lon: 0 })?.location.id).toBe(1);
    expect(nearest([reach, jetty], { lat: 51, lon: 0 })).toBeNull();
    expect([distanceInWords(234), distanceInWords(1_430), distanceInWords(23_400)]).toEqual(['230 m', '1.4 km', '23 km']);
  });
});

describe('tracks (GPX 1.1)', () => {
  const gpx = (points: string) =>
    `<?xml version="1.0"?><gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>${points}</trkseg></trk></gpx>`;
  const point = (lat: number, lon: number, time: string) => `<trkpt lat="${lat}" lon="${lon}"><time>${time}</time></trkpt>`;
  const track = readGpx(
    gpx(point(50, 1, '2026-04-18T09:00:00Z') + point(50.01, 1.02, '2026-04-18T09:04:00Z') + point(51, 2, '2026-04-18T10:00:00Z')),
  );
  const at = (time: string) => positionAt(track as never, Date.parse(time));

  it('between two points in proportion to time', () => {
    expect(at('2026-04-18T09:01:00Z')).toEqual({ lat: expect.closeTo(50.0025, 9), lon: expect.closeTo(1.005, 9) });
    expect(at('2026-04-18T09:04:00Z')).toEqual({ lat: 50.01, lon: 1.02 });
  });

  it('says nothing in a gap, long before or long after', () => {
    expect([at('2026-04-18T09:30:00Z'), at('2026-04-18T08:50:00Z'), at('2026-04-18T10:10:00Z')]).toEqual([null, null, null]);
    expect(at('2026-04-18T10:01:00Z')).toEqual({ lat: 51, lon: 2 });
  });

  it('takes the short way over the 180th meridian', () => {
    const over = readGpx(gpx(point(0, 179.9, '2026-04-18T09:00:00Z') + point(0, -179.9, '2026-04-18T09:02:00Z')));
    expect(Math.abs(positionAt(over as never, Date.parse('2026-04-18T09:01:00Z'))!.lon)).toBeCloseTo(180, 6);
  });

  it.each([
    ['', /no XML/],
    ['<gpx', /no XML/],
    ['<html></html>', /no <gpx>/],
    [gpx('<trkpt lat="50" lon="1"/>'), /no point with a time/],
    [gpx(point(0, 0, '2026-04-18T09:00:00Z')), /no point with a time/],
  ])('%j is answered in words', (text, words) => expect(readGpx(text)).toMatch(words));
});
