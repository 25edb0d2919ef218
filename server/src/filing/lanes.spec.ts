import { describe, expect, it } from '@jest/globals';
import { setTimeout as sleep } from 'node:timers/promises';
import { inLanes } from './lanes.js';

const items = (n: number, bytes = 10) => Array.from({ length: n }, (_, id) => ({ id, bytes }));
const CUT = { items: 3, bytes: 100, lanes: 2 };

/** Runs and notes what each batch held, and how many were under way at once. */
async function worked(of: ReturnType<typeof items>, go: (nth: number) => boolean | Promise<boolean> = () => true) {
  const batches: number[][] = [];
  let [now, most] = [0, 0];
  const run = async (batch: readonly { id: number }[]) => {
    const nth = batches.push(batch.map(({ id }) => id));
    most = Math.max(most, ++now);
    await sleep(5);
    now--;
    return go(nth);
  };
  const failure = await inLanes(of, run, CUT).catch((error: unknown) => (error as Error).message);
  return { batches, most, failure, left: now };
}

describe('work in lanes', () => {
  it('takes every item once, in order, by number and by bytes, two batches at a time', async () => {
    const { batches, most } = await worked([...items(7), { id: 7, bytes: 500 }, { id: 8, bytes: 1 }]);
    expect(batches).toEqual([[0, 1, 2], [3, 4, 5], [6, 7], [8]]);
    expect(most).toBe(2);
  });

  it('after a no, no lane takes another batch', async () => {
    const { batches } = await worked(items(30), (nth) => nth < 2);
    expect(batches.length).toBeLessThanOrEqual(3);
  });

  it('an error is thrown once every lane has come to rest, and nothing more is begun', async () => {
    const { batches, failure, left } = await worked(items(30), async (nth) => {
      if (nth === 1) throw new Error('the database is away');
      await sleep(30);
      return true;
    });
    expect(failure).toBe('the database is away');
    expect(left).toBe(0);
    expect(batches.length).toBeLessThanOrEqual(3);
  });

  it('nothing is no work', async () => expect((await worked([])).batches).toEqual([]));
});
