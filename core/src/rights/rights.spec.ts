import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { commonPasswords, deedsOf, DEEDS, isCommon, may, passwordFault, ROLES, veiled } from './index.js';

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
