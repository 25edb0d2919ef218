import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { cameraName, extensionOf, kindOf, runsOf, setAsideReason, stemOf } from './index.js';

describe('kinds', () => {
  it.each([
    ['HM4_0417.JPG', 'photo'],
    ['IMG_1.HEIC', 'photo'],
    ['CK2_0001.DNG', 'raw'],
    ['A.CR3', 'raw'],
    ['CLIP0031.MP4', 'video'],
    ['TIDE_0007.WAV', 'sound'],
    ['CLIP0031.XML', 'sidecar'],
    ['notes.pages', 'other'],
    ['.jpg', 'other'],
    ['README', 'other'],
  ])('%s is a %s', (name, kind) => expect(kindOf(name)).toBe(kind));

  it('stem and extension make the name again', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', minLength: 1 }), (name) => {
        const ext = extensionOf(name);
        expect(`${stemOf(name)}${stemOf(name) === name ? '' : `.${name.slice(stemOf(name).length + 1)}`}`).toBe(name);
        expect(ext).toBe(ext.toLowerCase());
      }),
    );
  });
});

describe('what is set aside', () => {
  it.each([
    ['.Spotlight-V100/store.db', 'macOS index'],
    ['DCIM/100HALDN/._HM4_0417.JPG', 'macOS companion file'],
    ['.Trashes/501/HM4_0410.JPG', 'wastebasket'],
    ['System Volume Information/WPSettings.dat', 'Windows system folder'],
    ['MISC/INDEX.DAT', 'camera index'],
    ['PRIVATE/HALDN/DATABASE/MEDIA.DB', 'camera index'],
    ['DCIM/.thumbnails/1.jpg', 'thumbnails folder'],
  ])('%s: %s', (path, reason) => expect(setAsideReason(path)).toBe(reason));

  it.each(['DCIM/100HALDN/HM4_0417.JPG', 'CLIPS/CLIP0031.XML', 'Dat/HM4.JPG', 'LOGGER/2026-04-18.DAT', 'tide gauge.db'])(
    '%s is material',
    (path) => expect(setAsideReason(path)).toBeNull(),
  );
});

describe('runs', () => {
  const MINUTE = 60_000;
  const runs = (minutes: readonly number[], groups: readonly string[] = []) =>
    runsOf(
      minutes.map((minute, index) => ({ ms: minute * MINUTE, group: groups[index] ?? String(index) })),
      (item) => item.ms,
      (item) => item.group,
    ).map((run) => run.items.length);

  it('a long pause begins a new run', () => expect(runs([0, 1, 2, 3, 60, 61, 62])).toEqual([4, 3]));

  it('a slow day has longer pauses within a run than a fast one', () => {
    expect(runs([0, 4, 8, 12, 40, 44])).toEqual([6]);
    expect(runs([0, 0.1, 0.2, 0.3, 28, 28.1])).toEqual([4, 2]);
  });

  it('midnight always begins a new run', () => expect(runs([24 * 60 - 1, 24 * 60 + 1])).toEqual([1, 1]));

  it('a slider makes few long runs or many short ones: a step halves or doubles the gap that breaks', () => {
    // One a minute, then pauses of 7, 13 and 25 minutes. The median gap is 1 minute: 8 minutes break, at 0.
    const minutes = [0, 1, 2, 3, 4, 11, 12, 13, 14, 27, 28, 29, 30, 55, 56];
    const lengths = (fineness: -2 | -1 | 0 | 1) =>
      runsOf(minutes, (m) => m * MINUTE, String, fineness).map((run) => run.items.length);
    expect(lengths(1)).toEqual([5, 4, 4, 2]);
    expect(lengths(0)).toEqual([9, 4, 2]);
    expect(lengths(-1)).toEqual([13, 2]);
    expect(lengths(-2)).toEqual([15]);
  });

  it('companions are never split', () => expect(runs([0, 1, 300], ['a', 'b', 'b'])).toEqual([3]));

  it('every item is in exactly one run, in order of time', () => {
    fc.assert(
      fc.property(fc.array(fc.nat({ max: 5_000 })), (minutes) => {
        const found = runsOf(minutes, (minute) => minute * MINUTE, String);
        expect(found.flatMap((run) => run.items)).toEqual([...minutes].sort((a, b) => a - b));
        for (const run of found) expect(run.toMs).toBeGreaterThanOrEqual(run.fromMs);
      }),
    );
  });
});

it.each([
  ['Halden', 'M4', 'Halden M4'],
  ['Plover', 'Plover 3', 'Plover 3'],
  ['PLOVER', 'Plover', 'Plover'],
  ['Plover', 'Ploverette 2', 'Plover Ploverette 2'],
  ['Halden', null, 'Halden'],
  [null, null, ''],
])('a camera of make %s and model %s is called %s', (make, model, name) => expect(cameraName({ make, model })).toBe(name));
