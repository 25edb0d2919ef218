import { describe, expect, it } from '@jest/globals';
import type { ItemView } from '@tally/contract';
import fc from 'fast-check';
import { tilesKept, tilesOf } from './tiles';

const item = (id: number, leader: number, setAside: boolean, taken: boolean) =>
  ({ id, path: `${id}.JPG`, leader: `${leader}.JPG`, setAside: setAside ? 'camera index' : null, taken }) as ItemView;

/** What happens to a list: items say something else, belong elsewhere, are set aside, come and go. */
const CHANGE = fc.record({
  what: fc.constantFrom('taken', 'leader', 'aside', 'more', 'fewer'),
  at: fc.nat(30),
  to: fc.nat(30),
});

describe('tiles that are kept', () => {
  it('are what tiles made anew are, whatever changes, and stay the same where nothing did', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(8), { maxLength: 30 }), fc.array(CHANGE, { maxLength: 30 }), (leaders, changes) => {
        const kept = tilesKept();
        let items = leaders.map((leader, id) => item(id, leader, id % 7 === 3, true));
        let before = kept(items);
        for (const { what, at, to } of changes) {
          const one = items[at % Math.max(1, items.length)];
          const become = (change: Partial<ItemView>) => items.map((other) => (other === one ? { ...one, ...change } : other));
          if (what === 'taken' && one) items = become({ taken: !one.taken });
          if (what === 'leader' && one) items = become({ leader: `${to % 9}.JPG` });
          if (what === 'aside' && one) items = become({ setAside: one.setAside ? null : 'camera index' });
          if (what === 'more') items = [...items, item(items.length, to % 9, false, true)];
          if (what === 'fewer') items = items.slice(0, -1);
          const now = kept(items);
          expect(now).toEqual(tilesOf(items));
          if (what === 'taken' && one) {
            const others = now.filter((tile, index) => tile !== before[index]);
            expect(others.length).toBeLessThanOrEqual(1);
          }
          before = now;
        }
      }),
    );
  });
});
