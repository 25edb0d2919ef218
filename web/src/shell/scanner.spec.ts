import { describe, expect, it } from '@jest/globals';
import { ScanListener } from './scanner';

/** Types a text, each key so many milliseconds after the one before; answers what was scanned at its end. */
function typed(text: string, gap: number, scan = new ScanListener(), from = 0): string | null {
  let at = from;
  let scanned: string | null = null;
  for (const key of [...Array.from(text), 'Enter']) scanned = scan.key(key, (at += gap));
  return scanned;
}

describe('a hand scanner', () => {
  it('is told by its speed', () => expect(typed('C-014', 8)).toBe('C-014'));
  it('a person who types is none', () => expect(typed('C-014', 120)).toBeNull());
  it('presses Shift for capitals', () => {
    const scan = new ScanListener();
    ['Shift', 'C', '-', '0', '1', '4'].forEach((key, index) => scan.key(key, index * 5));
    expect(scan.key('Enter', 30)).toBe('C-014');
  });
  it('after a person typed something, only the scan counts', () => {
    const scan = new ScanListener();
    scan.key('x', 0);
    expect(typed('C-015', 5, scan, 900)).toBe('C-015');
  });
  it('two scans are two', () => {
    const scan = new ScanListener();
    expect(typed('C-014', 5, scan)).toBe('C-014');
    expect(typed('C-015', 5, scan, 2000)).toBe('C-015');
  });
  it('a quick double Enter is none', () => expect(typed('', 5)).toBeNull());
});
