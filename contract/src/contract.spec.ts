import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  Code,
  CreditChange,
  FileRequest,
  Id,
  line,
  LiveEvent,
  LogQuery,
  NewAssignment,
  NewContributor,
  NewHabit,
  NewLocation,
  NewPictured,
  NewTerms,
  LIST_CHANGE,
  SlipChange,
  Slug,
  TakeChange,
  WordSaid,
} from './index.js';

const faultsOf = (result: { success: boolean; error?: { issues: { path: PropertyKey[] }[] } | undefined }) =>
  result.success ? [] : result.error!.issues.map((issue) => issue.path.join('.'));

describe('at the door', () => {
  it('a code is upper case, whatever was typed', () => {
    expect(Code.parse(' ib ')).toBe('IB');
    for (const wrong of ['I', 'IBXYZ', 'I B', 'Ö1', '../', '']) expect(Code.safeParse(wrong).success).toBe(false);
  });

  it('a slug is legal in any folder name', () => {
    expect(Slug.parse(' reed-planting ')).toBe('reed-planting');
    for (const wrong of ['Reed', 'reed planting', '-reed', 'reed-', 'reed--planting', 'a'.repeat(61), 'reed/planting', '..'])
      expect(Slug.safeParse(wrong).success).toBe(false);
  });

  it('a line of text is trimmed, composed, and holds no control characters', () => {
    expect(line(20).parse('  cafe\u0301 ')).toBe('café');
    for (const wrong of ['   ', 'a\nb', 'a\u0000b', 'x'.repeat(21)]) expect(line(20).safeParse(wrong).success).toBe(false);
  });

  it('whatever passes as a line can stand in one row of a table', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 30 }), (text) => {
        const parsed = line(60).safeParse(text);
        // eslint-disable-next-line no-control-regex -- control characters are what must not be there
        if (parsed.success) expect(parsed.data).not.toMatch(/[\u0000-\u001f\u007f]/);
      }),
    );
  });

  it('ids are positive and fit the database', () => {
    expect(Id.parse('12')).toBe(12);
    for (const wrong of ['0', '-1', '1.5', 'x', '2147483648', '', null]) expect(Id.safeParse(wrong).success).toBe(false);
  });

  it('what nobody asked for is refused, not ignored', () => {
    expect(faultsOf(NewContributor.safeParse({ name: 'A', code: 'AB', role: 'administrator' }))).toEqual(['']);
    expect(SlipChange.safeParse({ state: 'tallied' }).success).toBe(false);
    expect(FileRequest.safeParse({ seal: 'x', force: true }).success).toBe(false);
  });

  it('an assignment does not end before it begins', () => {
    const assignment = { title: 'Reed planting day', slug: 'reed-planting', from: '2026-04-18', to: '2026-04-18' };
    expect(NewAssignment.parse(assignment)).toMatchObject({ place: '', expectedCards: 1, expectedContributorIds: [] });
    expect(faultsOf(NewAssignment.safeParse({ ...assignment, to: '2026-04-17' }))).toEqual(['to']);
    expect(faultsOf(NewAssignment.safeParse({ ...assignment, from: '2026-02-30' }))).toContain('from');
  });

  it('taking needs at least one item and a bounded number of them', () => {
    expect(TakeChange.safeParse({ itemIds: [], taken: true }).success).toBe(false);
    expect(TakeChange.safeParse({ itemIds: [1], taken: 'yes' }).success).toBe(false);
    expect(TakeChange.safeParse({ itemIds: Array.from({ length: 100_001 }, (_, i) => i + 1), taken: true }).success).toBe(false);
  });

  it('a query of the log is read from an address: texts become numbers and yes or no', () => {
    expect(LogQuery.parse({ words: ' ines ', limit: '20', descending: 'false' })).toMatchObject({
      words: 'ines',
      limit: 20,
      descending: false,
      order: 'received',
      offset: 0,
    });
    for (const wrong of [{ order: 'password' }, { limit: '0' }, { state: 'lost' }, { from: 'yesterday' }, { nothing: '1' }])
      expect(LogQuery.safeParse(wrong).success).toBe(false);
  });

  it('a live event of an unknown kind is none', () => {
    expect(LiveEvent.safeParse({ type: 'desk' }).success).toBe(true);
    expect(LiveEvent.safeParse({ type: 'intake' }).success).toBe(false);
    expect(LiveEvent.safeParse({ type: 'reboot' }).success).toBe(false);
  });
});

describe('what is said of credit', () => {
  const change = (more: object) => faultsOf(CreditChange.safeParse({ itemIds: [1], ...more }));

  it('lines hold no line breaks, no controls, nothing that turns the direction, and are no novels', () => {
    for (const bad of ['two\nlines', 'bell\u0007', 'gpj.\u202ebad', 'x'.repeat(60_000)]) {
      expect(change({ creditLine: bad })).toEqual(['creditLine']);
      expect(change({ addWords: [bad] })).toEqual(['addWords.0']);
      expect(faultsOf(NewPictured.safeParse({ name: bad }))).toEqual(['name']);
      expect(faultsOf(NewTerms.safeParse({ name: bad, stance: 'ask first' }))).toEqual(['name']);
    }
    // Writing from right to left is writing.
    expect(change({ creditLine: 'אינס ברו', addWords: ['قصب'] })).toEqual([]);
  });

  it('a description may have lines, and keeps them', () => {
    expect(CreditChange.parse({ itemIds: [1], description: ' one\r\ntwo ' }).description).toBe('one\ntwo');
    expect(change({ description: 'a\u0000b' })).toEqual(['description']);
  });

  it('nor was anything seen that no database holds', () => {
    expect(change({ creditLine: null, was: { creditLine: [null, 'a\u0000b'] } })).toEqual(['was.creditLine.1']);
  });

  it('says something, of somebody, with fields that there are', () => {
    expect(change({})).toHaveLength(1);
    expect(change({ creditLine: '{photographer}' })).toEqual(['creditLine']);
    expect(change({ creditLine: '{contributor.name} / {house}' })).toEqual([]);
  });

  it('a country is one of ISO 3166-1, a licence an address, a day a day', () => {
    expect(NewLocation.parse({ name: 'Reach', country: ' pt ' }).country).toBe('PT');
    expect(faultsOf(NewLocation.safeParse({ name: 'Reach', country: 'UK' }))).toEqual(['country']);
    expect(faultsOf(NewLocation.safeParse({ name: 'Reach', lat: 91 }))).toEqual(['lat']);
    const terms = { name: 'Open', stance: 'open licence' };
    expect(faultsOf(NewTerms.safeParse({ ...terms, web: 'javascript:alert(1)' }))).toEqual(['web']);
    expect(faultsOf(NewTerms.safeParse({ ...terms, until: '2026-02-30' }))).toEqual(['until']);
    expect(faultsOf(NewHabit.safeParse({ name: 'h', belongs: 'everybody', answers: {} }))).toEqual(['belongs']);
  });

  it('a correction leaves alone what it does not name', () => {
    expect(LIST_CHANGE.pictured.parse({ consent: 'no' })).toEqual({ consent: 'no' });
    expect(LIST_CHANGE.locations.parse({ retired: true })).toEqual({ retired: true });
  });

  it('a word goes by one name in each language', () => {
    const label = (text: string, language: string, preferred: boolean) => ({ text, language, preferred });
    expect(WordSaid.safeParse({ labels: [label('reed', '', true), label('caniço', 'PT', true)] }).success).toBe(true);
    expect(faultsOf(WordSaid.safeParse({ labels: [label('reed', '', false)] }))).toEqual(['labels']);
    expect(faultsOf(WordSaid.safeParse({ labels: [label('reed', '', true), label('rush', '', true)] }))).toEqual(['labels']);
    expect(faultsOf(WordSaid.safeParse({ labels: [label('reed', 'not a language', true)] }))).toEqual(['labels.0.language']);
  });
});
