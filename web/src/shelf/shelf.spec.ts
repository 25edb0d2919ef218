import { describe, expect, it } from '@jest/globals';
import type { FigureView, FoundItem } from '@tally/contract';
import { tilesOf } from '../sheet/tiles';
import { answerOf } from './figures-words';
import { pathHere } from './where-dialog';

const figure = (words: string, items: number, more: Partial<FigureView> = {}): FigureView => ({
  ...{ words, items, bytes: items * 1_000, intakes: 1, selects: 0, late: 0, question: null },
  ...more,
});

describe('the title of a chart', () => {
  it('is the answer', () => {
    const people = [figure('Ines Barrow', 1_204), figure('Priya Lind', 90, { selects: 12 })];
    expect(answerOf({ by: 'contributor', figures: people }, 'items')).toBe('Ines Barrow handed in most: 1,204 items.');
    expect(answerOf({ by: 'contributor', figures: people }, 'selects')).toBe('Priya Lind handed in most: 12 selects.');
    expect(answerOf({ by: 'month', figures: [figure('2025-05', 1)] }, 'items')).toBe('May 2025 brought most: 1 item.');
    expect(answerOf({ by: 'camera', figures: people }, 'late')).toBe('Nothing was filed late.');
    expect(answerOf({ by: 'kind', figures: [] }, 'items')).toBe('There are no items here.');
  });

  it('compares this season with the last', () => {
    const seasons = [figure('2024', 300), figure('2025', 280)];
    expect(answerOf({ by: 'season', figures: seasons }, 'items')).toBe('2025 has 280 items so far, fewer than 2024 (300 items).');
    expect(answerOf({ by: 'season', figures: seasons.slice(1) }, 'bytes')).toBe('2025: 280 kB.');
  });
});

describe('a path', () => {
  it.each([
    ['/Volumes/Shared/', '2025/a b.jpg', '/Volumes/Shared/2025/a b.jpg'],
    ['\\\\bay\\shared', '2025/x.jpg', '\\\\bay\\shared\\2025\\x.jpg'],
    ['S:\\', '2025/x.jpg', 'S:\\2025\\x.jpg'],
    ['/mnt/shared', 'x.jpg', '/mnt/shared/x.jpg'],
  ])('below %s is written as this machine writes it', (called, path, written) => expect(pathHere(called, path)).toBe(written));
});

describe('items of two cards with the same names', () => {
  it('are two tiles, each with its own companions', () => {
    const item = (id: number, object: number, path: string) =>
      ({ id, object, path, leader: 'DCIM/1.JPG', setAside: null }) as unknown as FoundItem;
    const tiles = tilesOf([item(1, 1, 'DCIM/1.JPG'), item(2, 1, 'DCIM/1.DNG'), item(3, 3, 'DCIM/1.JPG')]);
    expect(tiles.map(({ lead, companions }) => [lead.id, companions.map(({ id }) => id)])).toEqual([
      [1, [2]],
      [3, []],
    ]);
  });
});
