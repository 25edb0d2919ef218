import { describe, expect, it } from '@jest/globals';
import { intakeTold, newestFirst, type RecordFound } from './told.js';

interface Said {
  readonly writtenAt: string | null;
  readonly items: readonly { readonly name: string; readonly from: string; readonly as?: string }[];
}
const found = (
  placeId: string,
  folder: string,
  writtenAt: string | null,
  names: readonly string[],
  proven = true,
): RecordFound<Said> => ({
  placeId,
  folder,
  proven,
  record: { writtenAt, items: names.map((name) => ({ name, from: name, as: placeId })) },
});
const [OLD, NEW] = ['2026-04-20T10:00:00.000Z', '2026-04-21T10:00:00.000Z'];
const toldOf = (...all: RecordFound<Said>[]) => intakeTold<Said['items'][number], Said>(all);

describe('which record counts', () => {
  it('a proven one before one that is not, then the newer, then the first place; none is newer than one without a moment', () => {
    const all = [found('a', 'x', NEW, [], false), found('b', 'x', null, []), found('c', 'x', OLD, []), found('d', 'x', OLD, [])];
    expect(newestFirst(all).map(({ placeId }) => placeId)).toEqual(['c', 'd', 'b', 'a']);
  });

  it('of each folder its own: what stands at which place is as that place says', () => {
    const told = toldOf(found('a', 'x', NEW, ['1', '2']), found('b', 'x', OLD, ['1', '2']), found('a', 'y', OLD, ['3']));
    expect(
      told.items.map(({ folder, item, at }) => [folder, item.name, at.map(({ placeId, item: { as } }) => `${placeId} ${as}`)]),
    ).toEqual([
      ['x', '1', ['a a', 'b b']],
      ['x', '2', ['a a', 'b b']],
      ['y', '3', ['a a']],
    ]);
    expect(told.differences).toEqual([]);
  });
});

describe('places that differ', () => {
  it('what only an older record names is no more, and is told', () => {
    const told = toldOf(found('a', 'x', NEW, ['1']), found('b', 'x', OLD, ['1', 'gone']));
    expect(told.items.map(({ item }) => item.name)).toEqual(['1']);
    expect(told.differences).toEqual([{ placeId: 'b', folder: 'x', name: 'gone', what: 'is no more' }]);
  });

  it('what an older record does not name yet stands where the newer says, at that place alone', () => {
    const told = toldOf(found('a', 'x', NEW, ['1', 'fresh']), found('b', 'x', OLD, ['1']));
    expect(told.items.map(({ item, at }) => [item.name, at.length])).toEqual([
      ['1', 2],
      ['fresh', 1],
    ]);
    expect(told.differences).toEqual([{ placeId: 'b', folder: 'x', name: 'fresh', what: 'is not recorded' }]);
  });

  it('what went to another folder while a place was away stands where the newer record says', () => {
    const told = toldOf(found('b', 'old', OLD, ['1']), found('a', 'new', NEW, ['1']));
    expect(told.items.map(({ folder, at }) => [folder, at.map(({ placeId }) => placeId)])).toEqual([['new', ['a']]]);
    expect(told.differences).toEqual([{ placeId: 'b', folder: 'old', name: '1', what: 'stands elsewhere' }]);
  });

  it('of two in one folder of a place only one counts, and nothing is twice', () => {
    const told = toldOf(found('a', 'x', OLD, ['1']), found('a', 'x', NEW, ['1', '2']));
    expect(told.items.map(({ item, at }) => [item.name, at.length])).toEqual([
      ['1', 1],
      ['2', 1],
    ]);
    expect(told.differences).toEqual([]);
  });

  it('a card of a hundred thousand files at three places is told in one go', () => {
    const names = Array.from({ length: 100_000 }, (_, n) => `file ${n}`);
    const told = toldOf(...['a', 'b', 'c'].map((place) => found(place, 'x', OLD, names)));
    expect(told.items).toHaveLength(100_000);
  });
});
