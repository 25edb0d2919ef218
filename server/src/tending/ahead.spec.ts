import { describe, expect, it } from '@jest/globals';
import { ahead } from './ahead.js';

const yes = () => Promise.resolve(true);

describe('working ahead', () => {
  it('prepares the next while one is used, and no more than that', async () => {
    const said: string[] = [];
    const prepare = (n: number) => {
      said.push(`prepare ${n}`);
      return Promise.resolve(n * 10);
    };
    const use = async (n: number, ready: number) => {
      await Promise.resolve();
      said.push(`use ${n}: ${ready}`);
    };
    expect(await ahead([1, 2, 3], yes, prepare, use)).toBe(true);
    expect(said).toEqual(['prepare 1', 'prepare 2', 'use 1: 10', 'prepare 3', 'use 2: 20', 'use 3: 30']);
    expect(await ahead([], yes, prepare, use)).toBe(true);
  });

  it('told to stop, it uses nothing more, and what was prepared in vain harms nobody', async () => {
    const used: number[] = [];
    let asked = 0;
    const mayGoOn = () => Promise.resolve(++asked < 2);
    const prepare = (n: number) => (n === 2 ? Promise.reject(new Error('the drive went')) : Promise.resolve(n));
    const use = (n: number) => Promise.resolve(void used.push(n));
    expect(await ahead([1, 2, 3], mayGoOn, prepare, use)).toBe(false);
    expect(used).toEqual([1]);
  });

  it('what could not be prepared is told where it would have been used', async () => {
    const used: number[] = [];
    const prepare = (n: number) => (n === 2 ? Promise.reject(new Error('the drive went')) : Promise.resolve(n));
    const use = (n: number) => Promise.resolve(void used.push(n));
    await expect(ahead([1, 2, 3], yes, prepare, use)).rejects.toThrow('the drive went');
    expect(used).toEqual([1]);
  });
});
