import { describe, expect, it } from '@jest/globals';
import { nearKnown } from './index.js';

const at = (id: number, lat: number | null, reachM: number, retired = false) => ({
  ...{ id, lat, lon: lat === null ? null : 0, reachM, retired },
});

describe('known locations', () => {
  // A degree of a great circle of the mean radius is 111,195 m: a thousandth of it 111 m (worked by hand).
  it('are named with what was taken near them, the most first; too far away, retired or nowhere are not', () => {
    const locations = [at(1, 10, 200), at(2, 20, 200), at(3, 30, 100), at(4, 20, 9000, true), at(5, null, 9000)];
    const taken = [10, 20, 20.001, 30.001].map((lat, n) => ({ n, lat, lon: 0 }));
    expect(
      nearKnown(locations, taken).map(({ locationId, taken: all, metres }) => [locationId, all.map(({ n }) => n), metres]),
    ).toEqual([
      [2, [1, 2], expect.closeTo(111.2, 0)],
      [1, [0], 0],
    ]);
  });
});
