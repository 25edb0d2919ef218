import { describe, expect, it } from '@jest/globals';
import { creditInContext } from './index.js';

const says = (change: object = {}) => ({
  ...{ creditLine: null, copyrightNotice: null, termsId: null, locationId: null, words: [] as { id: number; text: string }[] },
  ...change,
});
const word = (id: number) => ({ id, text: `word ${id}` });
const free = { id: 1, name: 'Free', stance: 'free for the house' as const, sentence: '', web: null, until: null };
const context = {
  slip: says({ words: [word(1)] }),
  house: { ...says({ termsId: 1, copyrightNotice: '© {year} {contributor.name}' }), name: 'The Trust' },
  contributors: [
    {
      ...says({ creditLine: '{contributor.given} / {house}' }),
      id: 7,
      name: 'Ines Barrow',
      given: 'Ines',
      family: 'Barrow',
      code: 'IB',
    },
  ],
  assignments: [{ ...says({ words: [word(2)], locationId: 5 }), id: 9, title: 'Planting', embargoUntil: '2026-05-01' }],
  terms: [free],
  locations: [{ id: 5 }, { id: 6 }],
};

describe('the credit of an item in its intake', () => {
  it('is put together from all who say something, each with who said it', () => {
    const credit = creditInContext({ contributorId: 7, assignmentId: 9, year: '2026', own: null }, context);
    expect(credit).toEqual({
      ...{ creator: 'Ines Barrow', creditLine: 'Ines / The Trust', copyrightNotice: '© 2026 Ines Barrow', terms: free },
      ...{ location: { id: 5 }, embargoUntil: '2026-05-01' },
      words: [1, 2].map((id) => ({ ...word(id), own: false })),
      from: { creditLine: 'contributor', copyrightNotice: 'house', termsId: 'house', locationId: 'assignment' },
    });
  });

  it('an item speaks first, has words of its own, and not the one it was said not to have', () => {
    const own = {
      ...says({ creditLine: 'Mine', locationId: 6 }),
      words: [
        { ...word(3), has: true },
        { ...word(1), has: false },
      ],
    };
    const credit = creditInContext({ contributorId: null, assignmentId: 9, year: '2026', own }, context);
    expect(credit).toMatchObject({ creator: null, creditLine: 'Mine', location: { id: 6 }, from: { creditLine: 'item' } });
    expect(credit.words.map(({ id, own: mine }) => [id, mine]).sort()).toEqual([
      [2, false],
      [3, true],
    ]);
  });
});
