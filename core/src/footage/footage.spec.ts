import fc from 'fast-check';
import { clipInWords, colourInWords, NOTHING_SAID, profileOf, proposedProfile, saysNothing, timecodeAt } from './index.js';

describe('timecode (SMPTE ST 12-1, from memory)', () => {
  it.each([
    [0, 25, false, '00:00:00:00'],
    [24, 25, false, '00:00:00:24'],
    [25, 25, false, '00:00:01:00'],
    [90_000, 25, false, '01:00:00:00'],
    // Worked examples of drop-frame counting: the labels ;00 and ;01 are left out each minute, but not each tenth.
    [1799, 30, true, '00:00:59;29'],
    [1800, 30, true, '00:01:00;02'],
    [17_981, 30, true, '00:09:59;29'],
    [17_982, 30, true, '00:10:00;00'],
    [107_892, 30, true, '01:00:00;00'],
    [3600, 60, true, '00:01:00;04'],
    // After a day it begins again.
    [25 * 86_400, 25, false, '00:00:00:00'],
  ] as const)('frame %i at %i is %s %s', (frame, rate, drop, written) => expect(timecodeAt(frame, rate, drop)).toBe(written));

  it('drop-frame labels follow one another and never name a dropped frame', () =>
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2_589_406 }), (frame) => {
        const [here, next] = [timecodeAt(frame, 30, true), timecodeAt(frame + 1, 30, true)];
        expect(here < next).toBe(true);
        const [, minutes, seconds, frames] = here.split(/[:;]/).map(Number);
        expect(seconds === 0 && frames! < 2 && minutes! % 10 !== 0).toBe(false);
      }),
    ));
});

describe('colour (ITU-T H.273, tables 2 and 3, from memory)', () => {
  it.each([
    [1, 1, 'BT.709', null],
    [9, 18, 'HLG in BT.2020', 'HLG'],
    [9, 16, 'PQ in BT.2020', 'PQ'],
    [12, 13, 'sRGB in P3 (D65)', null],
    [9, 9, 'logarithmic, 100 to 1 in BT.2020', 'log'],
    [2, 2, null, null],
    [null, 77, 'transfer 77', null],
  ] as const)('primaries %s, transfer %s', (primaries, transfer, words, profile) => {
    expect(colourInWords({ primaries, transfer, gamma: null })).toBe(words);
    expect(proposedProfile({ transfer, gamma: null })).toBe(profile);
  });

  it('what somebody said comes before what the clip says', () => {
    expect(profileOf('', { transfer: 18, gamma: null })).toBe('HLG');
    expect(profileOf('flat-2', { transfer: 18, gamma: null })).toBe('flat-2');
    expect(profileOf('none', { transfer: 18, gamma: null })).toBeNull();
    expect(profileOf(null, null)).toBeNull();
  });

  it("the camera's own word comes first, and an ordinary one proposes nothing", () => {
    expect(colourInWords({ primaries: 9, transfer: 1, gamma: 'flat-2' })).toBe('flat-2 in BT.2020');
    expect(proposedProfile({ transfer: 1, gamma: 'flat-2' })).toBe('flat-2');
    for (const gamma of ['Rec.709', 'rec709', 'Standard']) expect(proposedProfile({ transfer: 18, gamma })).toBeNull();
  });
});

describe('what a clip says', () => {
  it('is told row by row, and nothing of what it does not say', () => {
    expect(clipInWords(NOTHING_SAID)).toEqual([]);
    expect(saysNothing(NOTHING_SAID)).toBe(true);
    const clip = {
      ...NOTHING_SAID,
      timecode: '10:02:11:00',
      frameRate: 30_000 / 1001,
      tracks: 2,
      channels: 4,
      sampleRate: 48_000,
    };
    expect(clipInWords({ ...clip, scene: '12A', take: '3' })).toEqual([
      { name: 'Timecode', value: '10:02:11:00' },
      { name: 'Frames a second', value: '29.97' },
      { name: 'Scene', value: '12A' },
      { name: 'Take', value: '3' },
      { name: 'Sound', value: '4 channels on 2 tracks, 48 kHz' },
    ]);
    expect(saysNothing(clip)).toBe(false);
  });
});
