import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import { KeyGate, ScanListener } from './scanner';

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

describe('the gate before every shortcut', () => {
  const heard: string[] = [];
  const scans: string[] = [];
  const gate = new KeyGate((label) => scans.push(label));
  const capture = (event: KeyboardEvent) => gate.take(event);
  const hear = (event: KeyboardEvent) => heard.push(event.key);
  beforeEach(() => {
    heard.length = scans.length = 0;
    document.addEventListener('keydown', capture, true);
    document.addEventListener('keydown', hear);
  });
  afterEach(() => {
    document.removeEventListener('keydown', capture, true);
    document.removeEventListener('keydown', hear);
  });
  const press = (key: string, target: EventTarget = document.body, more: KeyboardEventInit = {}, at?: number) => {
    const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more });
    // What comes from a device is stamped when it is pressed, however late a busy page hears of it.
    if (at !== undefined) Object.defineProperty(event, 'timeStamp', { value: at });
    return target.dispatchEvent(event);
  };
  const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

  it('no shortcut hears a scan, though its letters are keys', async () => {
    ['H', '-', '0', '1', 'Enter'].forEach((key, nth) => press(key, document.body, {}, 1_000_000 + 5 * nth));
    await wait(80);
    expect({ heard, scans }).toEqual({ heard: [], scans: ['H-01'] });
  });

  it('what a person presses reaches its shortcut, once, a moment later', async () => {
    press('n');
    expect(heard).toEqual([]);
    await wait(80);
    expect({ heard, scans }).toEqual({ heard: ['n'], scans: [] });
  });

  it('arrows, space and chords are not held; a letter before them comes first', async () => {
    press('ArrowRight');
    press(' ');
    press('s', document.body, { ctrlKey: true });
    expect(heard).toEqual(['ArrowRight', ' ', 's']);
    press('n');
    press('ArrowLeft');
    expect(heard).toEqual(['ArrowRight', ' ', 's', 'n', 'ArrowLeft']);
    await wait(60);
    expect(heard).toHaveLength(5);
  });

  it('a word typed right after the slash loses no letter, wherever the cursor was put in between', async () => {
    const box = document.body.appendChild(document.createElement('input'));
    const typed: string[] = [];
    box.addEventListener('input', () => typed.push(box.value));
    const toTheBox = (event: KeyboardEvent) => event.key === '/' && box.focus();
    document.addEventListener('keydown', toTheBox);
    for (const key of ['/', 'm', 'o']) press(key);
    await wait(80);
    document.removeEventListener('keydown', toTheBox);
    expect({ value: box.value, typed, heard }).toEqual({ value: 'mo', typed: ['m', 'mo'], heard: ['/'] });
    box.remove();
  });

  it('where a person writes nothing is held, however fast', async () => {
    const box = document.body.appendChild(document.createElement('input'));
    for (const key of ['H', '-', '0', '1', 'Enter']) press(key, box);
    await wait(60);
    expect({ heard, scans }).toEqual({ heard: ['H', '-', '0', '1', 'Enter'], scans: [] });
    box.remove();
  });
});
