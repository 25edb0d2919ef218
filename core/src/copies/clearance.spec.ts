import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { clearanceOfCard, type CardFileNow } from './index.js';

const two = [
  { id: 'shared', name: 'Shared drive', device: 'a' },
  { id: 'second', name: 'Second copy', device: 'b' },
];
const file = (change: Partial<CardFileNow> = {}): CardFileNow => ({
  ...{ path: 'DCIM/1.JPG', bytes: 10, is: 'same', copiesAt: ['shared', 'second'], neededAt: ['shared', 'second'] },
  ...change,
});

describe('the clearance of a card', () => {
  it('a card with one new picture since filing is not safe to clear', () => {
    const { safe, reasons } = clearanceOfCard([file(), file({ path: 'DCIM/2.JPG', is: 'new', copiesAt: null })], two);
    expect(safe).toBe(false);
    expect(reasons).toEqual([{ kind: 'new', words: '1 file is new since the card was read', items: 1, paths: ['DCIM/2.JPG'] }]);
  });

  it('an empty card is never safe: a mount point that its card has left looks the same', () => {
    for (const files of [[], [file({ path: 'MISC/X.DAT', is: 'index', copiesAt: null })]]) {
      const { safe, reasons } = clearanceOfCard(files, two);
      expect([safe, reasons.map(({ kind }) => kind)]).toEqual([false, ['empty']]);
    }
  });

  it('index files of the camera do not count', () =>
    expect(clearanceOfCard([file(), file({ path: 'MISC/X.DAT', is: 'index', copiesAt: null })], two).safe).toBe(true));

  it('one copy short, and the place is named', () =>
    expect(clearanceOfCard([file({ copiesAt: ['shared'] })], two).reasons.map(({ words }) => words)).toEqual([
      '1 file does not tally at Second copy',
    ]));

  it('what only one place must hold still needs a second device', () => {
    const held = file({ neededAt: ['shared'] });
    expect(clearanceOfCard([held], two)).toMatchObject({ safe: true, removable: [held] });
    const alone = clearanceOfCard([{ ...held, copiesAt: ['shared'] }], two);
    expect(alone.safe).toBe(false);
    expect(alone.reasons[0]).toMatchObject({ kind: 'devices', words: '1 file does not stand on two devices' });
  });

  it('nothing is removable where nothing is required', () => expect(clearanceOfCard([file()], []).removable).toEqual([]));

  it('is safe only when every file that counts stands in every place, on two devices, whatever else is true', () => {
    const files = fc.array(
      fc.record({
        path: fc.constant('x'),
        bytes: fc.nat(),
        is: fc.constantFrom('same', 'same', 'same', 'new', 'changed', 'unreadable', 'odd', 'index'),
        copiesAt: fc.option(fc.subarray(['shared', 'second'])),
        neededAt: fc.subarray(['shared', 'second']),
      }),
      { maxLength: 5 },
    );
    const devices = fc.tuple(fc.option(fc.constantFrom('a', 'b')), fc.option(fc.constantFrom('a', 'b')));
    fc.assert(
      fc.property(files, devices, (some, [one, other]) => {
        const required = [
          { ...two[0]!, device: one },
          { ...two[1]!, device: other },
        ];
        const { safe, removable } = clearanceOfCard(some, required);
        const proven = (one: CardFileNow) => one.is === 'same' && one.copiesAt?.length === 2;
        // One place may hold a part only; two copies are needed all the same.
        const wanted =
          some.some((one) => one.is !== 'index') &&
          some.every((one) => one.is === 'index' || proven(one)) &&
          one !== null &&
          other !== null &&
          one !== other;
        expect(safe).toBe(wanted);
        expect(!safe || removable.every(proven)).toBe(true);
      }),
    );
  });
});
