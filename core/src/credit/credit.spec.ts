import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  answersFor,
  BELONGINGS,
  consentOf,
  consentOfAll,
  creditOf,
  faultOfCreditLine,
  fillCreditLine,
  type Habit,
  LEVELS,
  LICENCES,
  licenceAt,
  NOTHING_SAID,
  type Pictured,
  type Terms,
  termsStanding,
} from './index.js';

const ines = { name: 'Ines Barrow', given: 'Ines', family: 'Barrow', code: 'IB' };
const facts = { contributor: ines, house: 'Ostrel Bay', assignment: 'Reed planting day', year: '2026' };

describe('credit lines', () => {
  it('are filled with who, what and when', () => {
    expect(fillCreditLine('{contributor.name} / {house}', facts)).toBe('Ines Barrow / Ostrel Bay');
    expect(fillCreditLine('© {year} {contributor.family}, {assignment.title}', facts)).toBe('© 2026 Barrow, Reed planting day');
  });

  it('leave out what nobody knows, with what only joined it', () => {
    expect(fillCreditLine('{contributor.name} / {house}', { ...facts, contributor: null })).toBe('Ostrel Bay');
    expect(fillCreditLine('{house} / {contributor.name}', { ...facts, contributor: null })).toBe('Ostrel Bay');
    expect(fillCreditLine('{contributor.name} / {assignment.title} / {house}', { ...facts, assignment: null })).toBe(
      'Ines Barrow / Ostrel Bay',
    );
  });

  it('say which fields there are when one is unknown', () => {
    expect(faultOfCreditLine('{contributor.name}')).toBeNull();
    expect(faultOfCreditLine('{photographer}')).toMatch(/no field \{photographer\}.*\{house\}/);
    expect(faultOfCreditLine('Ines {')).toMatch(/brace/);
  });
});

describe('who says what of an item', () => {
  const said = (creditLine: string | null, termsId: number | null, wordIds: number[]) => ({
    ...NOTHING_SAID,
    creditLine,
    termsId,
    wordIds,
  });

  it('item before slip before assignment before contributor before house', () => {
    const levels = {
      house: said('House', 1, []),
      contributor: said('Them', null, []),
      assignment: said(null, 3, [7]),
      slip: said(null, null, [8]),
    };
    const credit = creditOf(levels, facts);
    expect([credit.creditLine, credit.from.creditLine]).toEqual(['Them', 'contributor']);
    expect([credit.termsId, credit.from.termsId]).toEqual([3, 'assignment']);
    expect(creditOf({ ...levels, item: said('Mine', 9, []) }, facts)).toMatchObject({ creditLine: 'Mine', termsId: 9 });
  });

  it('words add up, without those that the item was said not to have', () => {
    const levels = { item: said(null, null, [1]), slip: said(null, null, [2, 3]), assignment: said(null, null, [3, 4]) };
    expect(creditOf(levels, facts, [3]).wordIds).toEqual([1, 2, 4]);
  });

  it('the nearest that says anything wins, whatever the others say (property)', () => {
    const level = fc.record({ termsId: fc.option(fc.integer({ min: 1, max: 5 })) });
    fc.assert(
      fc.property(fc.array(level, { minLength: 5, maxLength: 5 }), (five) => {
        const levels = Object.fromEntries(LEVELS.map((name, i) => [name, { ...NOTHING_SAID, termsId: five[i]!.termsId }]));
        expect(creditOf(levels, facts).termsId).toBe(five.find(({ termsId }) => termsId !== null)?.termsId ?? null);
      }),
    );
  });
});

describe('terms on a day', () => {
  const terms: Terms = {
    id: 1,
    name: 'Free for the house',
    stance: 'free for the house',
    sentence: '',
    web: null,
    until: '2026-06-30',
  };

  it('hold to the end of their last day, then it is to be asked', () => {
    expect(termsStanding(terms, '2026-06-30')).toMatchObject({ mark: 'none', words: 'Free for the house until 2026-06-30' });
    expect(termsStanding(terms, '2026-07-01')).toMatchObject({ mark: 'ask', stance: 'ask first' });
    expect(termsStanding(null, '2026-07-01').mark).toBe('ask');
  });

  it('an embargo forbids until its day is over; what must not be shown stays so', () => {
    expect(termsStanding(terms, '2026-05-01', '2026-05-01')).toMatchObject({
      mark: 'no',
      words: expect.stringMatching(/^not before 2026-05-01/),
    });
    expect(termsStanding(terms, '2026-05-02', '2026-05-01').mark).toBe('none');
    expect(termsStanding({ ...terms, stance: 'not to be shown' }, '2026-05-02').mark).toBe('no');
  });

  // creativecommons.org: the addresses under which the licences are published, and how people copy them (from memory).
  it('open licences are known by their addresses, however they are copied', () => {
    expect(licenceAt('http://creativecommons.org/licenses/by-sa/4.0/deed.pt')).toBe('CC BY-SA 4.0');
    expect(licenceAt('https://creativecommons.org/licenses/by/4.0/legalcode')).toBe('CC BY 4.0');
    expect(licenceAt('https://creativecommons.org/licenses/by/4.0')).toBe('CC BY 4.0');
    expect(licenceAt('https://example.org/licence')).toBeNull();
    for (const { name, web } of LICENCES) expect(licenceAt(web)).toBe(name);
  });
});

describe('consent on a day', () => {
  const person: Pictured = { id: 1, name: 'Tomas Reed', consent: 'yes', until: '2026-06-30', purpose: 'newsletter' };

  it('a yes that has run out is a question again; a no stays a no', () => {
    expect(consentOf(person, '2026-06-30')).toMatchObject({ consent: 'yes' });
    expect(consentOf(person, '2026-07-01')).toMatchObject({ consent: 'ask' });
    expect(consentOf({ ...person, consent: 'no' }, '2026-01-01')).toEqual({
      consent: 'no',
      words: 'Tomas Reed must not be shown',
    });
  });

  it('one no is a no for the picture', () => {
    const others: Pictured[] = [
      person,
      { ...person, id: 2, name: 'Ana Lind', consent: 'no' },
      { ...person, id: 3, consent: 'ask' },
    ];
    expect(consentOfAll(others, '2026-05-01')).toEqual({ consent: 'no', words: 'Ana Lind must not be shown' });
    expect(consentOfAll([], '2026-05-01')).toBeNull();
  });
});

describe('habits', () => {
  const habit = (id: number, belongs: Habit['belongs'], of: Habit['of'], answers: Habit['answers']): Habit => ({
    id,
    name: `h${id}`,
    belongs,
    of,
    answers,
  });
  const slip = { cardId: 5, reader: 'left', contributorId: null, assignmentId: null };

  it('the nearest wins, field by field, and says where it came from', () => {
    const given = answersFor(
      [
        habit(1, 'house', null, { termsId: 1, creditLine: 'House' }),
        habit(2, 'card', 5, { termsId: 2 }),
        habit(3, 'card', 6, { termsId: 3 }),
      ],
      slip,
    );
    expect(given.termsId).toEqual({ value: 2, habit: { id: 2, name: 'h2', belongs: 'card' } });
    expect(given.creditLine?.habit.belongs).toBe('house');
  });

  it('a card says whose it is, and that brings in what they always say', () => {
    const given = answersFor(
      [
        habit(1, 'card', 5, { contributorId: 9 }),
        habit(2, 'contributor', 9, { wordIds: [4], assignmentId: 3 }),
        habit(3, 'assignment', 3, { locationId: 8 }),
      ],
      slip,
    );
    expect([given.contributorId?.value, given.wordIds?.value, given.locationId?.value]).toEqual([9, [4], 8]);
  });

  it('never answers over what a person said', () => {
    const given = answersFor([habit(1, 'card', 5, { contributorId: 9 }), habit(2, 'contributor', 9, { locationId: 1 })], {
      ...slip,
      contributorId: 7,
    });
    expect(given).toEqual({});
  });

  it('ends, whatever habits there are, and answers once a field (property)', () => {
    const one = fc.record({
      belongs: fc.constantFrom(...BELONGINGS),
      of: fc.integer({ min: 1, max: 3 }),
      contributorId: fc.option(fc.integer({ min: 1, max: 3 }), { nil: undefined }),
      assignmentId: fc.option(fc.integer({ min: 1, max: 3 }), { nil: undefined }),
      termsId: fc.option(fc.integer({ min: 1, max: 3 }), { nil: undefined }),
    });
    fc.assert(
      fc.property(fc.array(one, { maxLength: 12 }), (some) => {
        const habits = some.map(({ belongs, of, ...answers }, i) => habit(i + 1, belongs, of, answers));
        const given = answersFor(habits, { cardId: 1, reader: null, contributorId: null, assignmentId: null });
        for (const [field, answer] of Object.entries(given)) {
          const by = habits.find(({ id }) => id === answer.habit.id)!;
          expect(by.answers[field as 'termsId']).toBe(answer.value);
        }
      }),
    );
  });
});
