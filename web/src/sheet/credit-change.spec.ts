import { describe, expect, it } from '@jest/globals';
import type { IntakeCredit, ItemCreditView } from '@tally/contract';
import fc from 'fast-check';
import { INTAKE, item } from '../testing/render';
import { credited, NO_CREDIT, wayBack } from './credit-change';
import { creditOfItem, whoSays } from './credit-of-item';

const word = (id: number) => ({ id, text: `word ${id}` });
const credit = fc.record({
  creditLine: fc.constantFrom(null, 'A', 'B'),
  copyrightNotice: fc.constantFrom(null, '© A'),
  termsId: fc.constantFrom(null, 1, 2),
  locationId: fc.constantFrom(null, 5),
  words: fc.subarray([1, 2, 3]).map((ids) => ids.map((id) => ({ ...word(id), has: true }))),
  pictured: fc
    .subarray([1, 2])
    .map((ids) => ids.map((id) => ({ id, name: `P${id}`, consent: 'ask' as const, until: null, purpose: '' }))),
  // No change of credit moves it.
  position: fc.constant({ lat: 38.7, lon: -9.1 }),
});
/** Without the numbers of what is new. */
const plain = ({ words, pictured, ...lines }: ItemCreditView) => ({
  ...lines,
  words: words.map(({ text }) => text).sort(),
  pictured: pictured.map(({ name }) => name).sort(),
});

describe('a change of credit', () => {
  it('the way from one credit to another leads there (property)', () => {
    fc.assert(fc.property(credit, credit, (now, then) => expect(plain(credited(now, wayBack(now, then)))).toEqual(plain(then))));
  });

  it('and is nothing when they are the same (property)', () => {
    fc.assert(fc.property(credit, (one) => expect(wayBack(one, one)).toEqual({})));
  });

  it('a word that is there already is not there twice, however it is typed', () => {
    const has = { ...NO_CREDIT, words: [{ ...word(1), has: true }] };
    expect(credited(has, { addWords: ['WORD 1', 'word 2'] }).words.map(({ text }) => text)).toEqual(['word 1', 'word 2']);
  });
});

const said = { creditLine: null, copyrightNotice: null, termsId: null, locationId: null, words: [] };
const CONTEXT: IntakeCredit = {
  slip: { ...said, locationId: 5, words: [word(1)] },
  answeredBy: { locationId: { id: 3, name: 'Fridays', belongs: 'card' } },
  house: { name: 'Ostrel Bay', ...said, creditLine: '{contributor.name} / {house}' },
  contributors: [{ id: 1, name: 'Ines Barrow', given: '', family: '', code: 'IB', ...said, termsId: 2 }],
  assignments: [],
  terms: [{ id: 2, name: 'Ask', stance: 'ask first', sentence: '', web: null, until: null, retired: false, revision: 1 }],
  locations: [
    ...[
      {
        id: 5,
        name: 'Mallow Reach',
        part: '',
        town: '',
        region: '',
        country: '',
        lat: null,
        lon: null,
        reachM: 1000,
        retired: false,
        revision: 1,
      },
    ],
  ],
  near: [],
  following: 0,
  behind: [],
};

describe('the credit of an item', () => {
  it('is put together from all who say something, and who said what is told', () => {
    const one = creditOfItem(item(7), INTAKE, CONTEXT, '2026-04-21');
    expect(one).toMatchObject({
      creditLine: 'Ines Barrow / Ostrel Bay',
      standing: { mark: 'ask' },
      location: { name: 'Mallow Reach' },
    });
    expect(one.words).toEqual([{ id: 1, text: 'word 1', own: false }]);
    expect(whoSays(one.from.termsId)).toBe('from the contributor');
    expect(whoSays(one.from.locationId, CONTEXT.answeredBy['locationId'])).toBe('by the habit “Fridays”');
  });

  it('what an item says itself comes first, and a word taken from it is not its', () => {
    const own = {
      ...NO_CREDIT,
      creditLine: 'Mine',
      words: [
        { ...word(1), has: false },
        { ...word(2), has: true },
      ],
    };
    const one = creditOfItem(item(7, { credit: own }), INTAKE, CONTEXT, '2026-04-21');
    expect([one.creditLine, one.words.map(({ text }) => text)]).toEqual(['Mine', ['word 2']]);
  });
});
