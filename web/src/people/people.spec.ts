import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, it } from '@jest/globals';
import type { Assignment, ImportAnswer, WordView } from '@tally/contract';
import { SessionService } from '../api/session.service';
import { render, SESSION, surroundings, type Wire } from '../testing/render';
import { AssignmentsList } from './assignments-list';
import { CalendarOf } from './calendar-of';
import { HouseList } from './house-list';
import { LIST_KINDS } from './list-fields';
import { ImportDialog } from './import-dialog';
import { withoutGaps } from './months';
import { WordsList } from './words-list';

let wire: Wire;
beforeEach(() => {
  wire = surroundings();
  TestBed.inject(SessionService).check().subscribe();
  wire.one('/api/session').flush(SESSION);
});

const assignment = (change: Partial<Assignment>): Assignment => ({
  ...{ id: 1, slug: 'reeds', code: '', title: 'Reed planting', from: '2026-04-18', to: '2026-04-18', place: 'Reach' },
  ...{ expectedCards: 3, receivedCards: 1, expected: [{ id: 4, name: 'Ines Barrow', handedIn: false }], retired: false },
  ...change,
});

describe('the calendar of assignments', () => {
  it('shows a square for each card expected, filled when it came, and what is over and missing', async () => {
    const { fixture, element } = await render(CalendarOf, {});
    const asked = wire.one('/api/assignments');
    // The weeks in view, and no others.
    expect([asked.request.params.get('from'), asked.request.params.get('to')]).toEqual(['2026-03-30', '2026-05-25']);
    asked.flush({
      assignments: [assignment({}), assignment({ id: 2, title: 'To come', from: '2026-05-02', to: '2026-05-05' })],
      next: null,
    });
    await fixture.whenStable();
    const [tape] = element.querySelectorAll('a.tape');
    expect(tape!.getAttribute('aria-label')).toBe('Reed planting, 18 Apr 2026 · Reach · missing: 2 cards: Ines Barrow');
    expect([tape!.querySelectorAll('.square').length, tape!.querySelectorAll('.square.full').length]).toEqual([3, 1]);
    expect(tape!.classList.contains('late')).toBe(true);
    // Over a weekend: a tape in each of its weeks, and not late yet.
    const coming = [...element.querySelectorAll('a.tape')].filter((one) => one.textContent.includes('To come'));
    expect(coming.map((one) => one.classList.contains('late'))).toEqual([false, false]);
  });
});

describe('the list of assignments', () => {
  it('goes on from the last one when somebody scrolls near the end, and begins anew with other words', async () => {
    const { fixture } = await render(AssignmentsList, { sought: '' });
    const list = fixture.componentInstance as unknown as {
      rows(): Assignment[];
      scrolled(event: { first: number; rows: number }): void;
    };
    const page = (from: number, count: number) => Array.from({ length: count }, (_, i) => assignment({ id: from - i }));
    wire.one('/api/assignments').flush({ assignments: page(300, 100), next: 201 });
    list.scrolled({ first: 0, rows: 20 });
    wire.http.expectNone('/api/assignments');
    list.scrolled({ first: 75, rows: 20 });
    const more = wire.one('/api/assignments');
    expect(more.request.params.get('after')).toBe('201');
    more.flush({ assignments: page(200, 40), next: null });
    expect(list.rows()).toHaveLength(140);
    // Something came in meanwhile: the same rows as they are now, and whoever scrolled on stays there.
    wire.events.next({ type: 'people' });
    await new Promise((resolve) => setTimeout(resolve, 300));
    const again = wire.one('/api/assignments');
    expect(again.request.params.get('limit')).toBe('140');
    again.flush({ assignments: [assignment({ id: 301, title: 'New' }), ...page(300, 139)], next: 162 });
    expect([list.rows()[0]!.title, list.rows().length]).toEqual(['New', 140]);
    fixture.componentRef.setInput('sought', 'reed');
    await fixture.whenStable();
    const anew = wire.one('/api/assignments');
    expect([anew.request.params.get('typed'), anew.request.params.get('after')]).toEqual(['reed', null]);
    anew.flush({ assignments: page(9, 1), next: null });
    expect(list.rows().map(({ id }) => id)).toEqual([9]);
  });
});

describe('a list of the house', () => {
  it('who must not be shown stands out, and is found by any word', async () => {
    const { fixture, element } = await render(HouseList, { list: 'pictured' });
    const person = { until: null, purpose: '', notes: '', retired: false, revision: 1, items: 2 };
    wire.one('/api/lists/pictured').flush([
      { id: 1, name: 'Corin Reeve', consent: 'no', ...person },
      { id: 2, name: 'Tilda Marsh', consent: 'yes', ...person },
    ]);
    await fixture.whenStable();
    // Rows of a virtual table are not laid out here: what it is given is.
    const rows = () => (fixture.componentInstance as unknown as { rows(): { name: string }[] }).rows().map(({ name }) => name);
    expect(rows()).toEqual(['Corin Reeve', 'Tilda Marsh']);
    fixture.componentRef.setInput('sought', 'marsh YES');
    expect(rows()).toEqual(['Tilda Marsh']);
    expect(element.textContent).toContain('May be shown');
  });

  it('a yes that ran out is a question again, and terms that ran out are to be asked about', () => {
    const cell = (list: 'pictured' | 'terms', said: object, today: string) => {
      const entry = { id: 1, name: 'One', retired: false, revision: 1, ...said };
      const { columns, marked } = LIST_KINDS[list];
      return [columns[1]!.of(entry, today), marked!(entry, today)];
    };
    const yes = { consent: 'yes', until: '2026-03-31' };
    expect(cell('pictured', yes, '2026-03-31')).toEqual(['yes', false]);
    expect(cell('pictured', yes, '2026-04-01')).toEqual(['ended: ask', true]);
    // A no stays one.
    expect(cell('pictured', { ...yes, consent: 'no' }, '2026-04-01')).toEqual(['no', true]);
    const terms = { stance: 'free for the house', until: '2026-06-30' };
    expect(cell('terms', terms, '2026-06-30')).toEqual(['free for the house', false]);
    expect(cell('terms', terms, '2026-07-01')).toEqual(['ended: ask first', true]);
    expect(cell('terms', { stance: 'not to be shown', until: null }, '2026-07-01')).toEqual(['not to be shown', true]);
  });
});

describe('taking a list in', () => {
  const answer = (change: Partial<ImportAnswer>): ImportAnswer => ({
    ...{ read: 'UTF-8, parted by commas', added: 1, changed: 0, same: 0, faults: [], applied: false },
    lines: [{ line: 2, key: 'ANR', does: 'add', words: 'new' }],
    ...change,
  });
  const choose = (file: File) => {
    const input = document.querySelector<HTMLInputElement>('input[type=file]')!;
    Object.defineProperty(input, 'files', { value: [file], configurable: true });
    input.dispatchEvent(new Event('change'));
  };

  it('shows what is wrong by line, and takes nothing in until it is right', async () => {
    const { fixture } = await render(ImportDialog, { what: 'people', words: 'contributors' });
    await fixture.whenStable();
    choose(new File(['x'], 'pupils.csv'));
    wire.one('/api/import/people').flush(answer({ faults: [{ line: 4, what: 'has the code “ANR” of line 2 again' }] }));
    await fixture.whenStable();
    expect(document.body.textContent).toContain('Line 4 has the code “ANR” of line 2 again');
    choose(new File(['x'], 'pupils.csv'));
    const second = wire.one('/api/import/people');
    expect(second.request.params.get('apply')).toBe('no');
    second.flush(answer({}));
    await fixture.whenStable();
    expect(document.body.textContent).toMatch(/Read as UTF-8, parted by commas: 1 new/);
    [...document.querySelectorAll('button')].find((button) => button.textContent.includes('Take in 1'))!.click();
    expect(wire.one('/api/import/people').request.params.get('apply')).toBe('yes');
  });
});

describe('the words of the house', () => {
  it('are fetched a page at a time, and an older answer does not replace a newer', async () => {
    const word = (id: number, text: string): WordView => ({
      ...{ id, iri: null, labels: [{ language: '', text, preferred: true }], broader: [], narrower: [], listed: true, note: '' },
      ...{ usedAt: null, retired: false, revision: 1 },
    });
    const { fixture, text } = await render(WordsList, { sought: '' });
    const first = wire.one('/api/words/list');
    fixture.componentRef.setInput('sought', 'her');
    await fixture.whenStable();
    const second = wire.one('/api/words/list');
    expect(second.request.params.get('typed')).toBe('her');
    second.flush({ words: [word(2, 'heron')], next: 'heron 2' });
    first.flush({ words: [word(1, 'alder')], next: null });
    await fixture.whenStable();
    expect(text()).toContain('heron');
    expect(text()).not.toContain('alder');
    expect(text()).toContain('More words');
  });
});

it('months without anything stand empty in the chart', () => {
  expect(
    withoutGaps([
      { month: '2025-11', items: 3 },
      { month: '2026-02', items: 1 },
    ]),
  ).toEqual([
    ...[
      { month: '2025-11', items: 3 },
      { month: '2025-12', items: 0 },
      { month: '2026-01', items: 0 },
      { month: '2026-02', items: 1 },
    ],
  ]);
});
