import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { receiptFacts, spread, type ReceiptItem } from './index.js';

const item = (id: number, change: Partial<ReceiptItem> = {}): ReceiptItem => ({
  ...{
    id,
    path: `DCIM/${id}.JPG`,
    kind: 'photo',
    bytes: 100,
    captured: `2026-04-18T10:0${id}:00`,
    filedAs: `2026/a_${id}.jpg`,
    left: null,
    terms: 'Free for the house',
    unshown: false,
  },
  copies: [
    { place: 'shared', state: 'tallied', proof: 'read back past the page cache', problem: null },
    { place: 'second', state: 'waiting', proof: null, problem: null },
  ],
  ...change,
});
const places = [
  { id: 'shared', name: 'Shared drive', kind: 'shared drive', device: 'one' },
  { id: 'second', name: 'Second copy', kind: 'second copy', device: null },
];

describe('what a receipt says', () => {
  it('counts by kind, place and folder; first and last by capture time, not by name', () => {
    const facts = receiptFacts(
      [item(3, { captured: '2026-04-18T09:00:00' }), item(1), item(2, { kind: 'raw', bytes: 900, filedAs: '2026/b/2.dng' })],
      places,
    );
    expect(facts.filed).toEqual({ items: 3, bytes: 1100 });
    expect(facts.kinds).toEqual([
      { kind: 'photo', items: 2, bytes: 200 },
      { kind: 'raw', items: 1, bytes: 900 },
    ]);
    expect([facts.first?.id, facts.last?.id]).toEqual([3, 2]);
    expect(facts.folders).toEqual([
      { path: '2026', items: 2 },
      { path: '2026/b', items: 1 },
    ]);
    expect(facts.places).toMatchObject([
      { tallied: 3, waiting: 0, proofs: ['read back past the page cache'] },
      { tallied: 0, waiting: 3, trouble: 0, proofs: [] },
    ]);
  });

  it('says what may be done with what was filed, and how much of it must not be shown', () => {
    const facts = receiptFacts(
      [
        item(1, { terms: 'Ask first' }),
        item(2),
        item(3, { unshown: true }),
        item(4, { filedAs: null, left: 'left', unshown: true }),
      ],
      places,
    );
    expect(facts.terms).toEqual([
      { words: 'Free for the house', items: 2 },
      { words: 'Ask first', items: 1 },
    ]);
    expect(facts.unshown).toBe(1);
  });

  it('says what was left and why, and what does not tally', () => {
    const bad = { place: 'shared', state: 'differs', proof: null, problem: 'the copy on Shared drive differs' } as const;
    const facts = receiptFacts(
      [
        ...[4, 5, 6].map((id) => item(id, { filedAs: null, left: 'left on the card', copies: [] })),
        item(7, { copies: [bad, { ...bad, place: 'second' }] }),
      ],
      places,
    );
    expect(facts.left).toEqual([{ reason: 'left on the card', items: 3, examples: ['DCIM/4.JPG', 'DCIM/5.JPG'] }]);
    expect(facts.problems).toEqual([{ path: 'DCIM/7.JPG', words: 'the copy on Shared drive differs' }]);
    expect(facts.places.map(({ trouble }) => trouble)).toEqual([1, 1]);
  });

  it('of nothing is a receipt of nothing', () =>
    expect(receiptFacts([], places)).toMatchObject({ filed: { items: 0 }, first: null, last: null, left: [] }));
});

describe('some of many', () => {
  it('are spread from the first to the last, each once, in order', () =>
    fc.assert(
      fc.property(fc.nat(500), fc.integer({ min: 1, max: 20 }), (n, most) => {
        const all = Array.from({ length: n }, (_, i) => i);
        const some = spread(all, most);
        expect(some).toHaveLength(Math.min(n, most));
        expect(some).toEqual([...new Set(some)].sort((a, b) => a - b));
        if (n > 0) expect(some[0]).toBe(0);
        if (n > 0 && most > 1) expect(some.at(-1)).toBe(n - 1);
      }),
    ));
});
