import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { erasing, eventText, GENESIS, headLine, linkText, readHeads, type ChainedEvent } from './index.js';

const EVENT: ChainedEvent = {
  ...{ id: 7, at: '2026-04-21T16:42:00.000Z', kind: 'sign-in', intakeId: null, who: 'wren', text: 'Signed in.', data: null },
};

describe('what is hashed for a link', () => {
  it('is one text for one event, however its parts are ordered', () => {
    const turned = Object.fromEntries(Object.entries(EVENT).reverse()) as unknown as ChainedEvent;
    expect(eventText(turned)).toBe(eventText(EVENT));
    expect(eventText({ ...EVENT, data: { b: 1, a: [2] } })).toBe(eventText({ ...EVENT, data: { a: [2], b: 1 } }));
  });

  it('is written as RFC 8785 says', () => {
    // Section 3.2.2 and 3.2.3: no blanks, names sorted by UTF-16 code units, numbers as ECMAScript writes them. The
    // example of its section 3.2.2 (from memory), as the data of an event.
    const data = {
      numbers: [Number('333333333.33333329'), 1e30, 4.5, 2e-3, 0.000000000000000000000000001],
      literals: [null, true, false],
    };
    expect(eventText({ ...EVENT, data })).toContain(
      '"data":{"literals":[null,true,false],"numbers":[333333333.3333333,1e+30,4.5,0.002,1e-27]}',
    );
  });

  it('changes with every part', () => {
    const texts = [
      ...[EVENT, { ...EVENT, id: 8 }, { ...EVENT, at: '2026-04-21T16:42:00.001Z' }, { ...EVENT, kind: 'account' }],
      ...[
        { ...EVENT, who: null },
        { ...EVENT, text: 'Signed in' },
        { ...EVENT, data: 0 },
        { ...EVENT, intakeId: 1 },
      ],
    ].map(eventText);
    expect(new Set(texts).size).toBe(texts.length);
    const [one, other] = [GENESIS, '1'.repeat(64)];
    const links = [linkText(one, 1, other), linkText(one, 2, other), linkText(other, 1, other), linkText(one, 1, one)];
    expect(new Set(links).size).toBe(links.length);
  });

  it('survives the way through JSON', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (data) => {
        const back = JSON.parse(JSON.stringify({ ...EVENT, data })) as ChainedEvent;
        expect(eventText(back)).toBe(eventText({ ...EVENT, data }));
      }),
    );
  });
});

describe('a name that is erased from what was told', () => {
  const gone = erasing({
    id: 7,
    as: 'Contributor 7',
    names: ['Ines Barrow', 'Ines Sorrel'],
    lines: ['ines@barrow.example', 'quay'],
  });
  const told = (text: string, data: unknown = null, kind = 'slip', who: string | null = 'wren') =>
    gone({ kind, who, text, data });

  it('leaves the rest of the sentence, whoever told it and whatever came with it', () => {
    expect(told('Filed for Ines Barrow, as INES SORREL was called.')?.text).toBe(
      'Filed for Contributor 7, as Contributor 7 was called.',
    );
    expect(told('Card given back.', { to: ['Ines Barrow', 3], mail: 'ines@barrow.example' })).toEqual({
      ...{ kind: 'slip', who: 'wren', text: 'Card given back.' },
      data: { to: ['Contributor 7', 3], mail: 'erased' },
    });
    expect(told('Handed in.', null, 'handed in', 'Ines Barrow')?.who).toBe('Contributor 7');
    // Too short to be anybody’s: it stands in other words.
    expect(told('By the quay, with Ines and a barrow.')).toBeNull();
  });

  it('of their own record only that it was corrected; somebody else’s is left alone', () => {
    const own = told('Ines Barrow: phone from “1” to “2”.', { id: 7, before: { phone: '1' } }, 'contributor');
    expect(own).toEqual({ kind: 'contributor', who: 'wren', text: 'Contributor 7 was corrected.', data: null });
    expect(gone(own!)).toBeNull();
    expect(told('Two are one.', { id: 9, into: 7, before: { name: 'I. B.' } }, 'contributor')?.data).toBeNull();
    expect(told('Mateo Sorrel: phone from “1” to “2”.', { id: 17, before: { phone: '1' } }, 'contributor')).toBeNull();
  });

  it('is erased once and for all (property)', () => {
    const words = fc.constantFrom('Ines', 'Barrow', 'Sorrel', ' ', ' ', ', ', 'ines@barrow.example', 'filed', '7');
    fc.assert(
      fc.property(fc.array(words, { maxLength: 12 }), (list) => {
        const after = told(list.join(''));
        if (after) expect(gone(after)).toBeNull();
      }),
    );
  });
});

describe('heads on the drive', () => {
  const hash = createHash('sha256').update('x').digest('hex');
  it('are read back as they were written; remarks are passed over, other lines are counted', () => {
    const head = { at: '2026-04-21T16:42:00.000Z', position: 12, hash, epoch: 2 };
    expect(readHeads(`# log heads\r\n${headLine(head)}\r\n\r\n`)).toEqual({ heads: [head], odd: 0 });
    expect(readHeads(`${headLine(head)}\nnonsense`)).toEqual({ heads: [head], odd: 1 });
    const older = { ...head, epoch: null };
    expect(readHeads(headLine(older)).heads).toEqual([older]);
    expect(readHeads('').heads).toEqual([]);
  });
});
