import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, it } from '@jest/globals';
import type { RevisionView, RuleMaterial } from '@tally/contract';
import { DEFAULT_RULE } from '@tally/core/rule';
import { Subject } from 'rxjs';
import { render, surroundings, type Wire } from '../testing/render';
import { Draft } from './draft';
import { LineEditor } from './line-editor';
import { TrialRunner } from './trial-runner';
import { tryRule, type TriedOrFault } from './trying';

const MATERIAL: RuleMaterial = {
  intake: { id: 7, number: '2026-0412', card: 'C-014', receivedAt: '2026-04-21T16:42:00.000Z' },
  items: ['1.JPG', '1.DNG', '2.JPG'].map((name, index) => ({
    ...{ id: index + 1, path: `A/${name}`, bytes: 10, kind: name.endsWith('DNG') ? ('raw' as const) : ('photo' as const) },
    captured: `2026-04-18T09:0${index}:00`,
    camera: { make: 'Halden', model: 'M4' },
    leader: `A/${name.replace('DNG', 'JPG')}`,
    ...{ objectRole: 'leader' as const, part: null, parts: null, structure: 'dcf' as const, structureRoot: null },
    ...{ taken: false, setAside: null, aside: null, goneAt: null, alreadyFiled: 'somewhere', problem: null, filedAs: null },
    ...{ contributor: null, assignment: null, description: null, role: null, profile: null },
  })),
  slip: {
    contributor: { code: 'IB', name: 'Ines Barrow' },
    assignment: null,
    ...{ cardLabel: 'C-014', received: '2026-04-21T17:42:00', filed: '2026-04-21T17:58:00', intake: '2026-0412' },
  },
  folders: ['2026/2026-04/2026-04-11_bird-count'],
  known: {
    contributors: [{ code: 'IB', name: 'Ines Barrow' }],
    assignments: [
      { slug: 'reed-planting', title: 'Reed planting day', code: null, from: '2026-04-18', to: '2026-04-18', place: null },
    ],
    cameras: [],
    labels: ['C-014'],
  },
  sharePrefix: '',
};

describe('trying a rule on a card', () => {
  const tried = (rule: { folderLine: string; fileLine: string }, other: typeof rule | null = null) => {
    const outcome = tryRule(MATERIAL, rule, other);
    if (!outcome.ok) throw new Error(outcome.fault.error.message);
    return outcome.tried;
  };

  it('names every item as if it were new, with what the slip does not say yet made up from what is known', () => {
    const { names, folders, longest } = tried(DEFAULT_RULE);
    expect(names.map(({ from, to }) => [from, to.split('/').at(-1)])).toEqual([
      ['A/1.DNG', '20260418_IB_0001.dng'],
      ['A/1.JPG', '20260418_IB_0001.jpg'],
      ['A/2.JPG', '20260418_IB_0002.jpg'],
    ]);
    expect(folders).toEqual([{ path: '2026/2026-04/2026-04-18_reed-planting', isNew: true, items: 3, asOnCard: false }]);
    expect(longest).toBe('2026/2026-04/2026-04-18_reed-planting/20260418_IB_0001.dng');
  });

  it('a folder that stands there already is not new, nor are the parents of one', () => {
    expect(tried({ folderLine: '{captured:yyyy}/{captured:yyyy-MM}', fileLine: '{n}' }).folders[0]!.isNew).toBe(false);
  });

  it('counts what gets another name and what moves, against another rule', () => {
    const other = { ...DEFAULT_RULE, fileLine: '{captured:yyyyMMdd}_{contributor.code}_{n:000}' };
    expect(tried(other, DEFAULT_RULE)).toMatchObject({ compared: true, renamed: 3, moved: 0 });
    expect(tried(DEFAULT_RULE).compared).toBe(false);
    expect(tried({ ...DEFAULT_RULE, folderLine: '{captured:yyyy}' }, DEFAULT_RULE)).toMatchObject({ renamed: 0, moved: 3 });
  });

  it('a line that cannot be read is a fault with its place', () =>
    expect(tryRule(MATERIAL, { folderLine: 'a', fileLine: '{nn}' }, null)).toMatchObject({
      ok: false,
      fault: { line: 'file', error: { span: { from: 1, to: 3 }, meant: 'n' } },
    }));
});

describe('the rule that is being written', () => {
  const REVISION: RevisionView = {
    ...{ revision: 1, rule: { ...DEFAULT_RULE, kinds: {}, settings: {} }, note: 'first', who: null },
    ...{ at: '2026-01-05T09:00:00.000Z', warnings: [], intakes: 3 },
  };
  let wire: Wire;
  let draft: Draft;
  let asked: unknown[][];
  beforeEach(async () => {
    asked = [];
    const runner = {
      outcomes: new Subject<TriedOrFault>(),
      use: () => undefined,
      try: (...ask: unknown[]) => void asked.push(ask),
    };
    wire = surroundings({ provide: TrialRunner, useValue: runner }, Draft);
    draft = TestBed.inject(Draft);
    const opened = draft.open();
    wire.one('/api/rules').flush({ revisions: [REVISION] });
    wire.one('/api/rules/material').flush(MATERIAL);
    await opened;
    TestBed.tick();
  });

  it('is tried at once and whenever it changes; pieces and text are the same line', () => {
    expect(asked).toHaveLength(1);
    draft.insert('fileLine', '{kind}', 0);
    TestBed.tick();
    expect(asked).toHaveLength(2);
    expect(draft.lines().fileLine).toBe('{kind}{captured:yyyyMMdd}_{contributor.code}_{n:0000}');
    draft.move('fileLine', 0, 5);
    expect(draft.lines().fileLine).toBe('{captured:yyyyMMdd}_{contributor.code}_{n:0000}{kind}');
    draft.replace('fileLine', 5, '[_{kind:lower}]');
    expect(draft.lines().fileLine).toBe('{captured:yyyyMMdd}_{contributor.code}_{n:0000}[_{kind:lower}]');
    draft.replace('fileLine', 5, '');
    expect(draft.isChanged()).toBe(false);
  });

  it('what is typed into a line in a row is undone in one step; a field still goes into a line that cannot be read', () => {
    const before = draft.lines().fileLine;
    for (const text of ['{', '{n', '{n}']) draft.setLine('fileLine', text, true);
    draft.undo();
    expect(draft.lines().fileLine).toBe(before);
    draft.setLine('fileLine', 'x]', true);
    draft.insert('fileLine', '{n}');
    expect(draft.lines().fileLine).toBe('x]{n}');
  });

  it('a fault in another kind, or in a setting, is a fault of the rule', () => {
    draft.kind.set('video');
    draft.setLine('fileLine', '{nn}');
    draft.kind.set(null);
    expect(draft.fault()).toMatchObject({ line: 'file', kind: 'video' });
    draft.undo();
    draft.setSettings({ season: { startMonth: 9, label: '' } });
    expect(draft.fault()).toMatchObject({ line: 'settings' });
  });

  it('an unchanged rule is compared with an old revision, and never with itself', () => {
    const old = { ...REVISION, rule: { ...REVISION.rule, fileLine: '{n:000}' } };
    draft.revisions.set([{ ...REVISION, revision: 2 }, old]);
    draft.comparedWith.set(2);
    expect(draft.other()).toBeNull();
    draft.comparedWith.set(1);
    expect(draft.other()?.revision).toBe(1);
  });

  it('saying a default aloud is no change; undo goes back step by step', () => {
    draft.setSettings({ missing: 'unknown' });
    expect(draft.isChanged()).toBe(false);
    draft.setSettings({ missing: 'nobody' });
    expect(draft.isChanged()).toBe(true);
    draft.undo();
    expect(draft.isChanged()).toBe(false);
  });

  it('lines of a kind are its own until it follows the general ones again', () => {
    draft.kind.set('video');
    expect(draft.lines().folderLine).toBe(DEFAULT_RULE.folderLine);
    draft.setLine('folderLine', 'Video/{captured:yyyy}');
    expect(draft.rule()).toMatchObject({
      folderLine: DEFAULT_RULE.folderLine,
      kinds: { video: { folderLine: 'Video/{captured:yyyy}' } },
    });
    draft.dropKind('video');
    expect(draft.isChanged()).toBe(false);
  });

  it('is saved with why, and over which revision', async () => {
    draft.setLine('fileLine', '{n:000}');
    const saved = draft.save('shorter');
    const request = wire.one('/api/rules');
    expect(request.request.body).toMatchObject({ note: 'shorter', from: 1, rule: { fileLine: '{n:000}' } });
    request.flush({ revision: 2 });
    await Promise.resolve();
    wire.http.expectOne('/api/rules').flush({ revisions: [{ ...REVISION, revision: 2, rule: draft.rule() }, REVISION] });
    expect(await saved).toBe(2);
    expect(draft.isChanged()).toBe(false);
  });

  it('while a line cannot be read its last pieces stay, the place is marked, and what was meant is one click away', async () => {
    const { element, fixture } = await render(LineEditor, { line: 'fileLine', title: 'File line' });
    expect(element.querySelectorAll('.piece')).toHaveLength(5);
    draft.setLine('fileLine', '{captured}_{orginal}');
    await fixture.whenStable();
    expect(element.querySelector('.mark b')?.textContent).toBe('orginal');
    expect(element.querySelectorAll('.piece')).toHaveLength(5);
    element.querySelector<HTMLButtonElement>('.fault button')!.click();
    await fixture.whenStable();
    expect(draft.lines().fileLine).toBe('{captured}_{original}');
    expect(element.querySelectorAll('.piece')).toHaveLength(3);
  });
});
