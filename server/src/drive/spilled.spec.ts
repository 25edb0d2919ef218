import { describe, expect, it } from '@jest/globals';
import { readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { Spilled } from './spilled.js';

const all = async <T>(list: Spilled<T>) => {
  const parts: (readonly T[])[] = [];
  for await (const part of list.parts()) parts.push(part);
  return parts;
};
const left = () => readdirSync(tmpdir()).filter((name) => name.startsWith('tally-look-'));

describe('a list that is longer than memory', () => {
  it('comes back in its order, as often as it is asked, and leaves nothing behind', async () => {
    const before = left();
    const list = new Spilled<{ path: string; n: number }>(10);
    const given = Array.from({ length: 37 }, (_, n) => ({ path: `a "ü" \u{1f986}/${String(n)}\n`, n }));
    for (let from = 0; from < given.length; from += 4) await list.add(given.slice(from, from + 4));
    // Nothing of it has a name while it is in use.
    expect(left()).toEqual(before);
    for (let times = 0; times < 2; times++) {
      const parts = await all(list);
      expect(parts.flat()).toEqual(given);
      expect(Math.max(...parts.map((part) => part.length))).toBeLessThan(14);
      expect(parts.length).toBeGreaterThan(2);
    }
    await list.end();
  });

  it('a short one touches no disk', async () => {
    const list = new Spilled<number>(10);
    expect(await all(list)).toEqual([]);
    await list.add([1, 2, 3]);
    expect(await all(list)).toEqual([[1, 2, 3]]);
    await list.end();
  });
});
