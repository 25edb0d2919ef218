import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { commonPasswords, deedsOf, DEEDS, isCommon, may, passwordFault, ROLES, veiled, withholding } from './index.js';

describe('the table of rights', () => {
  it('gives an administrator everything', () => expect(deedsOf('administrator')).toEqual(Object.keys(DEEDS)));
  it('gives a coordinator the desk, clearing and mends; not people, house and rules', () => {
    const all = deedsOf('coordinator');
    expect(all).toEqual(expect.arrayContaining(['file', 'clear', 'mend', 'invite', 'keep the lists']));
    for (const deed of ['accounts', 'house', 'rules', 'audit', 'forget'] as const) expect(may('coordinator', deed)).toBe(false);
  });
  it('lets a helper read, file and hand over; not clear, not mend', () => {
    expect(deedsOf('helper')).toEqual([
      ...['hand in', 'look', 'arrange', 'fetch', 'see persons', 'see the desk', 'file', 'hand over', 'add'],
    ]);
  });
  it('lets a looker look', () => expect(deedsOf('looker')).toEqual(['hand in', 'look']));
  it('lets whoever hands in hand in', () => expect(deedsOf('hand-in')).toEqual(['hand in']));
  it('is a ladder: who stands higher may all that stands lower', () => {
    ROLES.slice(1).forEach((role, i) => {
      const above = deedsOf(ROLES[i]!);
      expect(deedsOf(role).filter((deed) => !above.includes(deed))).toEqual([]);
    });
  });
});

describe('passwords', () => {
  const common = commonPasswords(['Password', 'q1w2e3r4t5y6', 'salt']);
  it('are twelve characters long, counted as people count', () => {
    expect(passwordFault('elevenchars', common)).toMatch(/at least 12/);
    expect(passwordFault('twelve chars', common)).toBeNull();
    expect(passwordFault('🐚'.repeat(6) + 'marsh', common)).toMatch(/at least 12/);
    expect(passwordFault('reed'.repeat(40), common)).toMatch(/at most 128/);
  });
  it('are none of the common ones, however cased, and none of them over and over', () => {
    for (const bad of ['Q1W2E3R4T5Y6', 'passwordPASSWORD', 'saltsaltsalt', 'aaaaaaaaaaaa', 'abcabcabcabc'])
      expect(passwordFault(bad, common)).toMatch(/everybody tries/);
  });
  it('need no capitals, digits or signs', () => expect(passwordFault('mud and reeds', common)).toBeNull());
  it('a text that repeats is known at any number of times', () => {
    const list = commonPasswords(['heron']);
    fc.assert(fc.property(fc.integer({ min: 1, max: 20 }), (n) => isCommon('heron'.repeat(n), list)));
  });
});

describe('the veil', () => {
  it('takes what is about persons, wherever it stands, and nothing else', () => {
    const answer = {
      items: [{ serial: 'B77', make: 'Halden', credit: { pictured: [{ name: 'Noor Vale' }], creditLine: 'Trust' } }],
      location: { position: { lat: 1, lon: 2 }, name: 'Creek' },
      files: [{ position: 3 }],
      people: [{ name: 'Ines Barrow', cameras: ['Halden M4 no. 7'] }],
      cameras: [{ name: 'Halden M4', items: 3 }],
    };
    expect(veiled(answer)).toEqual({
      items: [{ serial: null, make: 'Halden', credit: { pictured: [], creditLine: 'Trust' } }],
      location: { position: null, name: 'Creek' },
      files: [{ position: 3 }],
      people: [{ name: 'Ines Barrow', cameras: [] }],
      cameras: [{ name: 'Halden M4', items: 3 }],
    });
    expect(answer.items[0]!.serial).toBe('B77');
  });
  it('leaves any answer without such fields as it is', () => {
    fc.assert(fc.property(fc.jsonValue(), (value) => expect(veiled(value)).toEqual(value)));
  });
});

describe('names that are withheld', () => {
  const person = (code: string, given: string, family: string) => ({ code, given, family, name: `${given} ${family}`.trim() });
  const say = withholding([
    ...[
      person('JUA', 'June', 'Aldwin'),
      person('JAR', 'June', 'Aldwin Reed'),
      person('ÅÖ', 'Åsa', 'Öberg'),
      person('WR', 'Wren', ''),
    ],
  ]);

  it.each([
    ['June Aldwin signed in.', 'JUA signed in.'],
    ['Photo: JUNE ALDWIN / Trust', 'Photo: JUA / Trust'],
    ['Aldwin, June: 12 items', 'JUA: 12 items'],
    ['2026/reed-planting_june-aldwin_001.jpg', '2026/reed-planting_JUA_001.jpg'],
    ['June Aldwin Reed and June Aldwin', 'JAR and JUA'],
    ['A\u030asa O\u0308berg', 'ÅÖ'],
    ['In June, Aldwinton was flooded', 'In June, Aldwinton was flooded'],
    ['The first of June. Aldwin Street', 'The first of JUA Street'],
    ['A wren; by Wren', 'A wren; by WR'],
    ['June', 'June'],
  ])('%s', (text, said) => expect(say(text)).toBe(said));

  it('take nothing else away, and leave no name behind (property)', () => {
    const words = fc.constantFrom('June', 'Aldwin', 'june', 'Reed', 'marsh', '12', 'é');
    const texts = fc.array(fc.tuple(words, fc.constantFrom(' ', ', ', '-', '. ', '\n', '/'))).map((list) => list.flat().join(''));
    fc.assert(
      fc.property(texts, (text) => {
        const said = say(text);
        expect(said).not.toMatch(/\bjune[\s,._-]{1,3}aldwin\b/i);
        const others = (of: string) => (of.match(/marsh|12|é|\n|\//g) ?? []).length;
        expect(others(said)).toBeLessThanOrEqual(others(text));
        expect((said.match(/marsh|12|é|\//g) ?? []).length).toBe((text.match(/marsh|12|é|\//g) ?? []).length);
      }),
    );
    expect(withholding([])('June Aldwin')).toBe('June Aldwin');
  });

  it('cost what the text is long, not what people there are', () => {
    const many = withholding(Array.from({ length: 20_000 }, (_, n) => person(`P${n}`, `Pupil${n}`, 'Vale')));
    const text = 'Pupil7 Vale filed 3 of Pupil19999 Vale. '.repeat(2_000);
    expect(many(text)).toBe('P7 filed 3 of P19999. '.repeat(2_000));
  });

  it('are said for texts wherever they stand in an answer', () => {
    expect(veiled({ a: ['June Aldwin', 3], 'June Aldwin': { b: 'by June Aldwin' } }, say)).toEqual({
      a: ['JUA', 3],
      'June Aldwin': { b: 'by JUA' },
    });
  });
});
