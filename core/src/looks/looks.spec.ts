import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { differenceHash, hashDistance, peaksOf, sharpness, sharpnessBar, similarGroups } from './index.js';

const grey = (width: number, height: number, at: (x: number, y: number) => number) => ({
  width,
  height,
  pixels: Uint8Array.from({ length: width * height }, (_, i) => at(i % width, Math.floor(i / width))),
});

describe('sharpness', () => {
  it('is nothing for an even picture or an even slope: the Laplacian of both is zero', () => {
    expect(sharpness(grey(64, 48, () => 120))).toBe(0);
    expect(sharpness(grey(64, 48, (x) => x * 2))).toBe(0);
  });

  it('is the variance of the Laplacian, worked out by hand', () => {
    // A board of single pixels 0 and 10: at a 10, four neighbours 0: 0 - 40 = -40; at a 0: 40 - 0 = 40. Mean 0, variance 1600.
    expect(sharpness(grey(64, 48, (x, y) => ((x + y) % 2) * 10))).toBeCloseTo(1600, 6);
  });

  it('falls with every blur', () => {
    const edge = (soft: number) => grey(160, 120, (x) => 255 / (1 + Math.exp(-((x - 85) / soft))));
    const measures = [0.3, 1, 3, 6].map((soft) => sharpness(edge(soft)));
    expect([...measures].sort((a, b) => b - a)).toEqual(measures);
  });

  it('counts a small sharp thing before a soft ground', () => {
    const soft = grey(160, 120, (x) => x);
    const bird = grey(160, 120, (x, y) => (x < 20 && y < 20 ? ((x + y) % 2) * 200 : x));
    expect(sharpness(bird)).toBeGreaterThan(100 * (sharpness(soft) + 1));
  });

  it('a picture too small to have a middle has none', () => expect(sharpness(grey(2, 2, () => 1))).toBe(0));

  it('stands on a bar between 0 and 1', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1e6, noNaN: true }), (measure) => {
        const bar = sharpnessBar(measure);
        expect(bar >= 0 && bar <= 1).toBe(true);
      }),
    );
    expect(sharpnessBar(0)).toBe(0);
    expect(sharpnessBar(4095)).toBe(1);
  });
});

describe('difference hash (Krawetz 2013)', () => {
  const rising = Uint8Array.from({ length: 72 }, (_, i) => i % 9);
  const falling = Uint8Array.from({ length: 72 }, (_, i) => 9 - (i % 9));

  it('a row that only gets darker to the right sets every bit, one that gets brighter none', () => {
    expect(differenceHash(rising)).toBe('0000000000000000');
    expect(differenceHash(falling)).toBe('ffffffffffffffff');
    expect(hashDistance('0000000000000000', 'ffffffffffffffff')).toBe(64);
  });

  it('the first bit is the first pair of the first row', () => {
    const one = Uint8Array.from(rising);
    one[0] = 200;
    expect(differenceHash(one)).toBe('8000000000000000');
  });

  it('does not change when the whole picture gets brighter', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 72, maxLength: 72, max: 200 }), fc.integer({ min: 1, max: 55 }), (pixels, more) => {
        expect(differenceHash(pixels.map((p) => p + more))).toBe(differenceHash(pixels));
      }),
    );
  });

  it('distance is symmetric and counts single bits', () => {
    expect(hashDistance('0000000000000001', '0000000000000007')).toBe(2);
    expect(hashDistance('f000000000000000', '0000000000000000')).toBe(4);
  });

  it('needs 9 × 8 pixels', () => expect(() => differenceHash(new Uint8Array(64))).toThrow(RangeError));
});

describe('similar frames', () => {
  const frame = (id: number, seconds: number, look: string | null, sharp: number | null = null) => ({
    id,
    atMs: seconds * 1000,
    look,
    sharpness: sharp,
  });

  it('frames in a row that look alike are one group, and the sharpest of them is named', () => {
    const frames = [
      frame(1, 0, 'ffff0000ffff0000', 40),
      frame(2, 1, 'ffff0000ffff0001', 90),
      frame(3, 2, 'ffff0000ffff0003', 70),
      frame(4, 3, '0000ffff0000ffff', 900),
    ];
    expect(similarGroups(frames)).toEqual([{ ids: [1, 2, 3], sharpest: 2 }]);
  });

  it('the same view an hour later is another moment; what has no picture yet stands between nothing', () => {
    expect(similarGroups([frame(1, 0, 'ffff0000ffff0000'), frame(2, 3600, 'ffff0000ffff0000')])).toEqual([]);
    expect(similarGroups([frame(1, 0, '00'), frame(2, 1, null), frame(3, 2, '00')])[0]?.ids).toEqual([1, 3]);
  });
});

describe('the wave of a recording', () => {
  it('shows the loudest moment of each part, full level as 255', () => {
    expect([...peaksOf([0, 100, 32_768, 0, 16_384, 8192], 3)]).toEqual([1, 255, 128]);
  });

  it('a recording shorter than its bars repeats itself, an empty one is silent', () => {
    expect([...peaksOf([32_768], 3)]).toEqual([255, 255, 255]);
    expect([...peaksOf([], 2)]).toEqual([0, 0]);
  });
});
