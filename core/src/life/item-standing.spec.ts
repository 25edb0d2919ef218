import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { COPY_STATES } from '../copies/index.js';
import { TRAYS } from '../trays/index.js';
import { ASIDE_REASONS, standingInWords, standingOfItem, whyNotTaken, type StandingItem } from './index.js';

const ITEM: StandingItem = {
  ...{ taken: true, problem: null, aside: null, goneAt: null, alreadyFiled: null, filedAs: null },
  copies: [],
};
const DESK = { tray: 'on the desk' } as const;
const OUT = { tray: 'out' } as const;
const says = (item: Partial<StandingItem>, card: Parameters<typeof standingInWords>[1] = DESK) =>
  standingInWords({ ...ITEM, ...item }, card);

describe('where an item stands', () => {
  it('what was left is said as it is now: on the card, gone with the clearing, or given back with it', () => {
    const left = { taken: false };
    expect(says(left)).toBe('left, still on the card');
    expect(says({ ...left, goneAt: '2026-04-18T10:00:00Z' })).toBe('left, and gone with the clearing');
    expect(says(left, OUT)).toBe('left; it was on the card when it was given back');
    expect(says({ ...left, goneAt: '2026-04-18T10:00:00Z' }, OUT)).toBe('left, and gone with the clearing');
  });

  it('a promised name is not a filed file', () => {
    const promised = { filedAs: '2026/A_0001.jpg' };
    const copy = (state: StandingItem['copies'][number]['state'], problem: string | null = null) => ({ state, problem });
    expect(says({ ...promised, copies: [copy('waiting'), copy('waiting')] })).toBe('being filed as 2026/A_0001.jpg');
    expect(says({ ...promised, copies: [copy('unreadable', 'cannot be read (ENOENT)'), copy('waiting')] })).toBe(
      'not filed: cannot be read (ENOENT)',
    );
    expect(says({ ...promised, copies: [copy('tallied'), copy('waiting')] })).toBe('filed as 2026/A_0001.jpg');
  });

  it.each(ASIDE_REASONS)('what was set aside says why: %s', (aside) => {
    expect(says({ aside, taken: false })).toBe(`set aside: ${aside}`);
    expect(whyNotTaken({ ...ITEM, aside, taken: false }, DESK)).toBeNull();
  });

  it('nothing is said to be filed of which no copy tallies, and nothing to be on the card that is gone', () => {
    const item = fc.record<StandingItem>({
      taken: fc.boolean(),
      problem: fc.constantFrom(null, 'a symbolic link'),
      aside: fc.constantFrom(null, ...ASIDE_REASONS),
      goneAt: fc.constantFrom(null, '2026-04-18T10:00:00Z'),
      alreadyFiled: fc.constantFrom(null, { path: 'a', confirmed: true }, { path: 'a', confirmed: false }),
      filedAs: fc.constantFrom(null, '2026/A_0001.jpg'),
      copies: fc.array(fc.record({ state: fc.constantFrom(...COPY_STATES), problem: fc.constant(null) }), { maxLength: 3 }),
    });
    fc.assert(
      fc.property(item, fc.constantFrom(...TRAYS), (one, tray) => {
        const words = standingInWords(one, { tray });
        const whole = one.filedAs !== null && one.copies.some(({ state }) => state === 'tallied');
        expect(words.startsWith('filed as')).toBe(whole);
        if (one.goneAt !== null) expect(words).not.toContain('still on the card');
        if (tray === 'out') expect(words).not.toContain('still on the card');
        // What can be taken is neither filed nor gone.
        if (whyNotTaken(one, { tray }) === null) {
          expect(one.goneAt).toBeNull();
          expect(['filed', 'being filed', 'not filed', 'left and gone', 'left and out']).not.toContain(
            standingOfItem(one, { tray }),
          );
        }
      }),
    );
  });
});
