import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { mendName } from '../rule/index.js';
import { readChecksums, writeChecksums } from './index.js';

const HASH = '99aa06d3014798d86001c324468d497f';

describe('a checksum list', () => {
  it('is a hash, two spaces and a name, sorted', () =>
    expect(
      writeChecksums([
        { name: 'b.jpg', hash: HASH },
        { name: 'a b.jpg', hash: HASH },
      ]),
    ).toBe(`${HASH}  a b.jpg\n${HASH}  b.jpg\n`));

  it('what is written is read back, for any name that a rule can give', () => {
    const name = fc.string({ unit: 'grapheme', minLength: 1 }).map((text) => mendName(text));
    const hash = fc.string({ unit: fc.constantFrom('0', '3', '9', 'a', 'c', 'f'), minLength: 32, maxLength: 32 });
    const entries = fc.uniqueArray(fc.record({ name, hash }), { selector: (entry) => entry.name });
    fc.assert(
      fc.property(entries, (some) => {
        const sorted = [...some].sort((a, b) => (a.name < b.name ? -1 : 1));
        expect(readChecksums(writeChecksums(some))).toEqual(sorted);
      }),
    );
  });

  it('what lies below is written with its folders', () => {
    const list = writeChecksums([{ name: 'CLIP/A.MP4', hash: HASH }]);
    expect(list).toBe(`${HASH}  CLIP/A.MP4\n`);
    expect(readChecksums(list)).toEqual([{ name: 'CLIP/A.MP4', hash: HASH }]);
    expect(readChecksums(`${HASH}  ../A.MP4\n`)).toBeNull();
  });

  it.each(['a\nb.jpg', '/b.jpg', 'a//b.jpg', 'a/../b.jpg', './b.jpg', 'a\\b.jpg', ''])('%j cannot stand in one', (name) =>
    expect(() => writeChecksums([{ name, hash: HASH }])).toThrow(RangeError),
  );

  it("a stranger's file is not taken for one", () => {
    expect(readChecksums('shopping list')).toBeNull();
    expect(readChecksums('d41d8cd98f00b204e9800998ecf8427e  a.jpg\nand more')).toBeNull();
    expect(readChecksums('')).toEqual([]);
  });
});
