import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { GENESIS, headLine, linkText, readHeads, type ChainedEvent } from './index.js';

const EVENT: ChainedEvent = {
  ...{ id: 7, at: '2026-04-21T16:42:00.000Z', kind: 'sign-in', intakeId: null, who: 'wren', text: 'Signed in.', data: null },
};

describe('what is hashed for a link', () => {
  it('is one text for one event, however its parts are ordered', () => {
    const turned = Object.fromEntries(Object.entries(EVENT).reverse()) as unknown as ChainedEvent;
    expect(linkText(GENESIS, 1, turned)).toBe(linkText(GENESIS, 1, EVENT));
    expect(linkText(GENESIS, 1, { ...EVENT, data: { b: 1, a: [2] } })).toBe(
      linkText(GENESIS, 1, { ...EVENT, data: { a: [2], b: 1 } }),
    );
  });

  it('is written as RFC 8785 says', () => {
    // Section 3.2.2 and 3.2.3: no blanks, names sorted by UTF-16 code units, numbers as ECMAScript writes them. The
    // example of its section 3.2.2 (from memory), as the data of an event.
    const data = {
      numbers: [Number('333333333.33333329'), 1e30, 4.5, 2e-3, 0.000000000000000000000000001],
      literals: [null, true, false],
    };
    expect(linkText(GENESIS, 1, { ...EVENT, data })).toContain(
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
    ].map((event) => linkText(GENESIS, 1, event));
    texts.push(linkText(GENESIS, 2, EVENT), linkText('1'.repeat(64), 1, EVENT));
    expect(new Set(texts).size).toBe(texts.length);
  });

  it('survives the way through JSON', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (data) => {
        const back = JSON.parse(JSON.stringify({ ...EVENT, data })) as ChainedEvent;
        expect(linkText(GENESIS, 1, back)).toBe(linkText(GENESIS, 1, { ...EVENT, data }));
      }),
    );
  });
});

describe('heads on the drive', () => {
  const hash = createHash('sha256').update('x').digest('hex');
  it('are read back as they were written; remarks are passed over, other lines are counted', () => {
    const head = { at: '2026-04-21T16:42:00.000Z', position: 12, hash };
    expect(readHeads(`# log heads\r\n${headLine(head)}\r\n\r\n`)).toEqual({ heads: [head], odd: 0 });
    expect(readHeads(`${headLine(head)}\nnonsense`)).toEqual({ heads: [head], odd: 1 });
    expect(readHeads('').heads).toEqual([]);
  });
});
