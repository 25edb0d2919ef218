import { describe, expect, it } from '@jest/globals';
import { hoursAtRisk, mustHold } from './index.js';

describe('what a place must hold', () => {
  const raw = { kind: 'raw', assignment: 'reed-planting' } as const;
  it.each([
    [{ kinds: null, assignments: null }, true],
    [{ kinds: ['raw', 'photo'] as const, assignments: null }, true],
    [{ kinds: ['video'] as const, assignments: null }, false],
    [{ kinds: null, assignments: ['reed-planting'] }, true],
    [{ kinds: null, assignments: ['open-day'] }, false],
    [{ kinds: ['video'] as const, assignments: ['reed-planting'] }, false],
  ])('%j', (holding, holds) => expect(mustHold(holding, raw)).toBe(holds));
  it('an item of no assignment belongs only where every assignment does', () => {
    const item = { kind: 'photo', assignment: null } as const;
    expect(mustHold({ kinds: null, assignments: ['open-day'] }, item)).toBe(false);
    expect(mustHold({ kinds: null, assignments: null }, item)).toBe(true);
  });
});

describe('hours at risk', () => {
  const now = Date.parse('2026-04-21T16:42:00Z');
  it.each([
    [null, 0],
    ['2026-04-21T16:41:00Z', 1],
    ['2026-04-21T15:42:00Z', 1],
    ['2026-04-21T15:41:59Z', 2],
    // A clock that went back is no reason to say that nothing is at risk.
    ['2026-04-21T17:00:00Z', 1],
  ])('since %s: %i', (oldest, hours) => expect(hoursAtRisk(oldest === null ? null : Date.parse(oldest), now)).toBe(hours));
});
