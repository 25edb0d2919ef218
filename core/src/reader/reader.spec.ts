import fc from 'fast-check';
import { INTAKE_STATES } from '../copies/index.js';
import { cardInWords, fatFlagsAt, NO_FACTS, pullingOf, volumeHealth, type PullNow } from './index.js';

const IDLE: PullNow = {
  ...{ present: true, handedIn: false, state: 'tallied', readThrough: true, comparing: 0, taken: 0 },
  ...{ letGo: null, letsGo: true, work: null },
};

describe('may a card be pulled?', () => {
  it.each<[string, Partial<PullNow>, string, string | null]>([
    ['nothing needs it, and it is mounted', {}, 'let it go', null],
    ['a plain folder that nothing needs', { letsGo: false }, 'may be pulled', null],
    ['it was let go', { present: false, letGo: 'done' }, 'may be pulled', null],
    ['it was pulled by a hand', { present: false }, 'no card', null],
    ['handed in by browser', { handedIn: true }, 'no card', null],
    ['reading', { readThrough: false }, 'needed', 'it is being read'],
    ['filing', { state: 'filing' }, 'needed', 'it is being filed'],
    ['comparing', { comparing: 3 }, 'needed', '3 are being compared with what is filed'],
    ['clearing', { work: 'clear' }, 'needed', 'it is being cleared'],
    ['restoring', { work: 'restore' }, 'needed', 'files are put back on it'],
    ['one waits', { state: 'open', taken: 1 }, 'needed', '1 taken is not filed'],
    ['filing broke off', { state: 'needs attention' }, 'needed', 'filing is not finished'],
  ])('%s', (_, change, standing, why) => expect(pullingOf({ ...IDLE, ...change })).toMatchObject({ standing, why }));

  it('never while anything is done with it; a person may only go over what waits', () => {
    const now = fc.record({
      ...{ present: fc.boolean(), handedIn: fc.boolean(), state: fc.constantFrom(...INTAKE_STATES), readThrough: fc.boolean() },
      ...{ comparing: fc.nat(2), taken: fc.nat(2), letGo: fc.constantFrom(null, 'asked' as const, 'done' as const) },
      ...{ letsGo: fc.boolean(), work: fc.constantFrom(null, 'clear' as const, 'restore' as const) },
    });
    fc.assert(
      fc.property(now, (card) => {
        const { standing, waits, why } = pullingOf(card);
        const busy = card.work !== null || card.state === 'filing' || !card.readThrough || card.comparing > 0;
        if (card.present && !card.handedIn && busy) expect([standing, waits]).toEqual(['needed', false]);
        if (standing === 'may be pulled' && card.present) expect(card.letsGo).toBe(false);
        expect(why !== null).toBe(standing === 'needed');
      }),
    );
  });
});

describe('what is known of a card', () => {
  it('is said in one line, and what to do apart from it', () => {
    const facts = {
      ...NO_FACTS,
      reader: 'Brackwater 4',
      slot: 'slot 2',
      capacityBytes: 32e9,
      usedBytes: 4.1e9,
      fileSystem: 'exfat',
    };
    expect(cardInWords(facts)).toEqual({ says: 'Brackwater 4, slot 2 · 4.10 GB used of 32.0 GB · exFAT', attention: [] });
    expect(cardInWords(NO_FACTS)).toEqual({ says: '', attention: [] });
    const bad = cardInWords({ ...NO_FACTS, writeProtected: true, health: 'damaged' });
    expect(bad.attention.map((words) => words.split(':')[0])).toEqual([
      'write-protected',
      'its file system says that the medium failed',
    ]);
    expect(cardInWords({ ...NO_FACTS, health: 'dirty' }).attention[0]).toContain('format it in the camera');
  });
});

describe('the flags of a volume', () => {
  const boot = (change: (bytes: Uint8Array) => void) => {
    const bytes = new Uint8Array(512);
    change(bytes);
    return bytes;
  };
  const put = (bytes: Uint8Array, at: number, words: string) => bytes.set(Buffer.from(words, 'latin1'), at);

  // exFAT file system specification, 3.1.13.2 VolumeDirty (bit 1), 3.1.13.3 MediaFailure (bit 2).
  it.each([
    [0, 'clean'],
    [1, 'clean'],
    [2, 'dirty'],
    [4, 'damaged'],
    [6, 'damaged'],
  ] as const)('exFAT, VolumeFlags %i: %s', (flags, health) => {
    const exfat = boot((bytes) => {
      put(bytes, 3, 'EXFAT   ');
      bytes[106] = flags;
    });
    expect(fatFlagsAt(exfat)).toBeNull();
    expect(volumeHealth(exfat, null)).toBe(health);
  });

  // FAT32 File System Specification 1.03: FAT[1], ClnShutBitMask 0x08000000 and HrdErrBitMask 0x04000000; FAT16 0x8000, 0x4000.
  it.each([
    ['FAT32   ', 82, [0xff, 0xff, 0xff, 0x0f], 'clean'],
    ['FAT32   ', 82, [0xff, 0xff, 0xff, 0x07], 'dirty'],
    ['FAT32   ', 82, [0xff, 0xff, 0xff, 0x0b], 'damaged'],
    ['FAT16   ', 54, [0xff, 0xff, 0, 0], 'clean'],
    ['FAT16   ', 54, [0xff, 0x7f, 0, 0], 'dirty'],
    ['FAT16   ', 54, [0xff, 0xbf, 0, 0], 'damaged'],
  ] as const)('%s at %i, FAT[1] %j: %s', (type, at, entry, health) => {
    const fat = boot((bytes) => {
      put(bytes, at, type);
      bytes.set([0x00, 0x02], 11);
      bytes.set([32, 0], 14);
    });
    expect(fatFlagsAt(fat)).toBe(512 * 32 + (type === 'FAT32   ' ? 4 : 2));
    expect(volumeHealth(fat, new Uint8Array(entry))).toBe(health);
  });

  it('says nothing of other file systems, or of less than a sector', () => {
    expect(volumeHealth(new Uint8Array(512), new Uint8Array(4))).toBeNull();
    expect(volumeHealth(new Uint8Array(10), null)).toBeNull();
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 600 }), fc.uint8Array({ maxLength: 4 }), (sector, entry) => {
        expect([null, 'clean', 'dirty', 'damaged']).toContain(volumeHealth(sector, entry));
      }),
    );
  });
});
