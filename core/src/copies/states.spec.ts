import { describe, expect, it } from '@jest/globals';
import { COPY_STATES, fastIdentityParts, notchesOf, notchOfCopy, stateOfFiling } from './index.js';

describe('the state of an intake follows its copies', () => {
  it('is tallied only when every copy tallies', () => {
    expect(stateOfFiling(['tallied', 'tallied'])).toBe('tallied');
    for (const state of COPY_STATES.filter((one) => one !== 'tallied'))
      expect(stateOfFiling(['tallied', state])).not.toBe('tallied');
  });

  it('waits while something waits, and only then speaks of trouble', () => {
    expect(stateOfFiling(['tallied', 'differs', 'waiting'])).toBe('filing');
    expect(stateOfFiling(['tallied', 'differs'])).toBe('needs attention');
  });
});

it('every state of a copy has a shape, and only a proven copy is cut', () => {
  expect(COPY_STATES.filter((state) => notchOfCopy(state) === 'cut')).toEqual(['tallied']);
  expect(COPY_STATES.filter((state) => notchOfCopy(state) === 'crossed')).toEqual(['differs', 'missing', 'unreadable']);
});

describe('the notches of an item', () => {
  const item = { taken: true, problem: null, alreadyFiled: null, filedAs: null, copies: [] };
  const places = ['shared', 'second'];

  it('each fate has its shape on both halves', () => {
    expect(notchesOf(item, places)).toEqual({ card: 'cut', copies: ['open', 'open'] });
    expect(notchesOf({ ...item, taken: false }, places).card).toBe('ring');
    expect(notchesOf({ ...item, problem: 'a link' }, places).card).toBe('crossed');
    expect(notchesOf({ ...item, alreadyFiled: { confirmed: true } }, places)).toEqual({
      card: 'double',
      copies: ['double', 'double'],
    });
    // What only looks filed is not: it may yet be filed.
    expect(notchesOf({ ...item, alreadyFiled: { confirmed: false } }, places).copies).toEqual(['open', 'open']);
  });

  it('a copy stands in the row of its place, whatever the order; a place that need not hold it has none', () => {
    const filed = { ...item, filedAs: 'f/1.jpg', copies: [{ place: 'second', state: 'tallied' as const }] };
    expect(notchesOf(filed, places).copies).toEqual(['none', 'cut']);
  });
});

describe('the fast identity', () => {
  it('is both ends of a file, which never overlap; a small file is whole', () => {
    expect(fastIdentityParts(0)).toEqual([[0, 0]]);
    expect(fastIdentityParts(65_536)).toEqual([[0, 65_536]]);
    expect(fastIdentityParts(65_537)).toEqual([
      [0, 65_536],
      [65_536, 65_537],
    ]);
    expect(fastIdentityParts(1_000_000)).toEqual([
      [0, 65_536],
      [934_464, 1_000_000],
    ]);
  });
});
