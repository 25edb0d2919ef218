import { describe, expect, it } from '@jest/globals';
import type { ItemView } from '@tally/contract';
import fc from 'fast-check';
import type { Tile } from './tiles';
import { aspectOf, layOut, rowsInView, seated, tilesWithin } from './layout';

let id = 0;
const tile = (width: number | null, height: number | null, kind: ItemView['kind'] = 'photo'): Tile => ({
  lead: { id: ++id, width, height, kind, turned: 0 } as ItemView,
  companions: [],
});
const run = (tiles: readonly Tile[]) => ({ items: tiles, fromMs: 0, toMs: 0 });
const sizes = fc.tuple(fc.integer({ min: 1, max: 8000 }), fc.integer({ min: 1, max: 8000 }));
const runs = fc.array(fc.array(sizes, { minLength: 1, maxLength: 60 }), { minLength: 1, maxLength: 5 });

describe('the sheet', () => {
  it('shows every tile once, in order, within its width, with no two on top of each other', () => {
    fc.assert(
      fc.property(runs, fc.integer({ min: 320, max: 1800 }), (groups, width) => {
        const all = groups.map((group) => group.map(([w, h]) => tile(w, h)));
        const layout = layOut(all.map(run), width);
        const placed = layout.rows.flatMap((row) => (row.type === 'tiles' ? row.tiles : []));
        expect(placed.map((one) => one.tile)).toEqual(all.flat());
        expect(placed.map((one) => one.index)).toEqual(placed.map((_, i) => i));
        for (const row of layout.rows) {
          if (row.type !== 'tiles') continue;
          let right = 0;
          for (const one of row.tiles) {
            expect(one.left).toBeGreaterThanOrEqual(right - 0.001);
            right = one.left + one.width;
          }
          expect(right).toBeLessThanOrEqual(width + 0.001);
        }
        let bottom = 0;
        for (const row of layout.rows) {
          expect(row.top).toBeGreaterThanOrEqual(bottom - 0.001);
          bottom = row.top + row.height;
        }
        expect(layout.height).toBeGreaterThanOrEqual(bottom);
      }),
    );
  });

  it('short runs share a row, each under its own head; a long one has rows of its own', () => {
    const short = Array.from({ length: 5 }, () => run([tile(1500, 1000)]));
    const long = run(Array.from({ length: 9 }, () => tile(1500, 1000)));
    const { rows } = layOut([...short, long, run([tile(1500, 1000)])], 780);
    const heads = rows.flatMap((row) => (row.type === 'head' ? [row.heads.length] : []));
    expect(heads).toEqual([3, 2, 1, 1]);
    // Each picture stands below its own head.
    const shared = rows.find((row) => row.type === 'head')!;
    const below = rows.find((row) => row.type === 'tiles')!;
    expect(below.tiles.map(({ left }) => left)).toEqual(shared.heads.map(({ left }) => left));
  });

  it('what is in view is in the page, whatever the scroll; of 10,000 items only a few rows are', () => {
    const layout = layOut([run(Array.from({ length: 10_000 }, () => tile(3000, 2000)))], 780);
    for (const top of [0, 5_000, layout.height / 2, layout.height - 600]) {
      const rows = rowsInView(layout, top, 600);
      const seen = layout.rows.filter((row) => row.top < top + 600 && row.top + row.height > top);
      expect(rows).toEqual(expect.arrayContaining(seen));
      expect(rows.length).toBeLessThan(30);
    }
  });

  it('what has no picture, and what is very wide or very high, still gets a tile of sense', () => {
    expect(aspectOf(tile(null, null, 'other'))).toBe(1.5);
    expect(aspectOf(tile(null, null, 'sound'))).toBe(1.7);
    expect(aspectOf(tile(60_000, 100))).toBe(2.6);
    expect(aspectOf(tile(100, 60_000))).toBe(0.56);
  });
});

describe('seats and rectangles', () => {
  const layout = layOut([run(Array.from({ length: 400 }, () => tile(1500, 1000)))], 900);

  it('each tile in view has a seat of its own, and keeps it while it is in view', () => {
    const first = seated(rowsInView(layout, 500, 600), 128);
    const then = seated(rowsInView(layout, 620, 600), 128);
    expect(new Set(first.map((one) => one.seat)).size).toBe(first.length);
    const kept = then.filter((one) => first.some((other) => other.index === one.index));
    expect(kept.length).toBeGreaterThan(20);
    for (const one of kept) expect(first.find((other) => other.index === one.index)!.seat).toBe(one.seat);
  });

  it('a jump to the end needs few seats that were not there before', () => {
    const first = new Set(seated(rowsInView(layout, 0, 600), 64).map((one) => one.seat));
    const last = seated(rowsInView(layout, layout.height - 600, 600), 64).map((one) => one.seat);
    expect(last.length).toBeLessThanOrEqual(64);
    expect(last.filter((seat) => first.has(seat)).length).toBeGreaterThan(last.length / 3);
  });

  it('a rectangle takes what it touches and nothing else', () => {
    const row = layout.rows.find((one) => one.type === 'tiles')!;
    const [a, b, c] = row.tiles;
    const touched = tilesWithin(layout, { left: a!.left + 5, right: b!.left + 5, top: row.top + 10, bottom: row.top + 20 });
    expect(touched).toEqual([a!.tile, b!.tile]);
    expect(touched).not.toContain(c!.tile);
    expect(tilesWithin(layout, { left: 0, right: 900, top: 0, bottom: 30 })).toEqual([]);
  });
});
