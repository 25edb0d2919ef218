import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  completionsOf,
  faultOfBroader,
  foldText,
  partsOfTyped,
  type SkosWord,
  startsOf,
  triplesToWords,
  withNarrower,
  type Word,
  wordsToTriples,
  wordText,
} from './index.js';

const word = (id: number, text: string, more: Partial<Word> = {}): Word => ({
  ...{ id, broader: [], listed: true, usedAt: null, note: '' },
  labels: [{ language: '', text, preferred: true }],
  ...more,
});

describe('typing words', () => {
  it('neither letter case nor accents nor widths count', () => {
    expect(foldText('  Éclair  À la Carte ')).toBe('eclair a la carte');
    expect(foldText('Ｒｅｅｄ')).toBe('reed');
  });

  it('commas, semicolons and lines part words; one word twice is one', () => {
    expect(partsOfTyped('reeds, planting;Reeds\nmud  flat, ,')).toEqual(['reeds', 'planting', 'mud flat']);
  });

  it('finds a word by the beginning of any of its parts', () => {
    expect(startsOf('Salt-marsh grass')).toEqual(['salt-marsh grass', 'marsh grass', 'grass']);
  });

  it('offers what was used lately first, then the list before free words', () => {
    const words = [
      word(1, 'reed bunting'),
      word(2, 'reeds', { listed: false }),
      word(3, 'reed planting', { usedAt: '2026-04-01T10:00:00.000Z' }),
      word(4, 'heron'),
    ];
    expect(completionsOf(words, 'ree', 9).map(({ id }) => id)).toEqual([3, 1, 2]);
  });

  it('finds it in another language and by a synonym, and says which', () => {
    const labels = [
      { language: '', text: 'common reed', preferred: true },
      { language: 'pt', text: 'caniço', preferred: true },
      { language: '', text: 'phragmites', preferred: false },
    ];
    const words = [word(1, '', { labels })];
    expect(completionsOf(words, 'canic', 9)).toEqual([{ id: 1, text: 'common reed', by: 'caniço' }]);
    expect(completionsOf(words, 'PHRAG', 9)).toEqual([{ id: 1, text: 'common reed', by: 'phragmites' }]);
    expect(completionsOf(words, 'reed', 9)).toEqual([{ id: 1, text: 'common reed', by: null }]);
  });
});

describe('broader and narrower', () => {
  const words = [word(1, 'plant'), word(2, 'grass', { broader: [1] }), word(3, 'cordgrass', { broader: [2] })];
  const broaderOf = (id: number) => words.find((one) => one.id === id)?.broader ?? [];

  it('a word with everything that means less', () => {
    expect([...withNarrower(words, 1)].sort()).toEqual([1, 2, 3]);
    expect([...withNarrower(words, 3)]).toEqual([3]);
  });

  it('a word is never broader than itself, by whatever way', () => {
    expect(faultOfBroader(1, [1], broaderOf)).toBe('broader than itself');
    expect(faultOfBroader(1, [3], broaderOf)).toBe('broader than itself');
    expect(faultOfBroader(3, [1], broaderOf)).toBeNull();
  });

  it('no list that the check let through has a circle (property)', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 0, max: 8 }), fc.integer({ min: 0, max: 8 })), { maxLength: 40 }),
        (pairs) => {
          const above = new Map<number, number[]>();
          for (const [id, broader] of pairs)
            if (!faultOfBroader(id, [broader], (of) => above.get(of) ?? [])) above.set(id, [...(above.get(id) ?? []), broader]);
          for (const id of above.keys()) expect(reaches(above, id, id)).toBe(false);
        },
      ),
    );
  });
});

function reaches(above: ReadonlyMap<number, number[]>, from: number, to: number, seen = new Set<number>()): boolean {
  return (above.get(from) ?? []).some(
    (next) => next === to || (!seen.has(next) && (seen.add(next), reaches(above, next, to, seen))),
  );
}

describe('SKOS (W3C, SKOS Reference, 2009)', () => {
  const scheme = { iri: 'urn:x:words', title: 'Words of the marsh' };
  const plant: SkosWord = {
    iri: 'urn:x:1',
    labels: [{ language: '', text: 'plant', preferred: true }],
    broader: [],
    note: 'what grows',
  };
  const reed: SkosWord = {
    iri: 'urn:x:2',
    labels: [
      { language: 'en', text: 'reed', preferred: true },
      { language: 'pt', text: 'caniço', preferred: true },
      { language: 'en', text: 'Phragmites', preferred: false },
    ],
    broader: ['urn:x:1'],
    note: '',
  };

  it('what is read is what was written', () => {
    expect(triplesToWords(wordsToTriples([plant, reed], scheme))).toEqual({ words: [plant, reed], faults: [] });
  });

  it('S27: narrower is the inverse of broader', () => {
    const triples = wordsToTriples([plant, { ...reed, broader: [] }], scheme);
    const SKOS = 'http://www.w3.org/2004/02/skos/core#';
    const narrower = { subject: 'urn:x:1', predicate: `${SKOS}narrower`, object: { iri: 'urn:x:2' } };
    expect(triplesToWords([...triples, narrower]).words[1]?.broader).toEqual(['urn:x:1']);
  });

  it.each([
    [
      'S14: two preferred names in one language',
      { ...plant, labels: [...plant.labels, { language: '', text: 'herb', preferred: true }] },
      /S14/,
    ],
    [
      'S13: preferred and synonym at once',
      { ...plant, labels: [...plant.labels, { language: '', text: 'plant', preferred: false }] },
      /S13/,
    ],
    ['no preferred name', { ...plant, labels: [] }, /no preferred name/],
    ['under a word that is not there', { ...plant, broader: ['urn:x:9'] }, /not in the list/],
    ['broader than itself', { ...plant, broader: ['urn:x:1'] }, /broader than itself/],
  ])('%s', (_what, bad, words) => {
    expect(
      triplesToWords(wordsToTriples([bad], scheme))
        .faults.map(({ what }) => what)
        .join(),
    ).toMatch(words);
  });

  it('a word is called by its name in the language that is asked for, else in any', () => {
    expect(wordText(reed as never, 'pt')).toBe('caniço');
    expect(wordText(reed as never, 'fr')).toBe('reed');
  });
});
