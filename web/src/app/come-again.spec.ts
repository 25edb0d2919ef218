import { describe, expect, it } from '@jest/globals';
import { came, comeAgain } from './come-again';

/** A page whose time runs at once, and where it was sent. */
function page() {
  const kept = new Map<string, string>();
  const sent: string[] = [];
  const sessionStorage = {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => void kept.set(key, value),
  };
  return {
    sent,
    sessionStorage,
    location: { assign: (url: string | URL) => void sent.push(String(url)) },
    setTimeout: (run: () => void) => run(),
  };
}
const failed = (message: string) => ({ error: new TypeError(message), url: '/desk' });
const CHROMIUM = 'Failed to fetch dynamically imported module: http://127.0.0.1:4700/chunk-VGH3FPEP.js';

describe('a page whose files did not come', () => {
  it.each([CHROMIUM, 'error loading dynamically imported module: /chunk-A.js', 'Importing a module script failed.'])(
    '%s',
    (message) => {
      const here = page();
      expect(comeAgain(failed(message), here)).toBe(true);
      expect(here.sent).toEqual(['/desk']);
    },
  );

  it('comes again a few times in a row, and not for ever; what came begins anew', () => {
    const here = page();
    for (let times = 0; times < 9; times++) comeAgain(failed(CHROMIUM), here);
    expect(here.sent).toHaveLength(5);
    came(here);
    expect(comeAgain(failed(CHROMIUM), here)).toBe(true);
  });

  it('another failure is none of its', () => {
    const here = page();
    expect(comeAgain(failed('Cannot read properties of undefined'), here)).toBe(false);
    expect(here.sent).toEqual([]);
  });
});
