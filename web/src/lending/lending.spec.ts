import { beforeEach, describe, expect, it } from '@jest/globals';
import { TestBed } from '@angular/core/testing';
import type { Thing } from '@tally/contract';
import { SessionService } from '../api/session.service';
import { render, SESSION, surroundings, type Wire } from '../testing/render';
import { LendingPage } from './lending-page';
import { loanWords } from '../shared/loan-words';

let wire: Wire;
beforeEach(() => {
  wire = surroundings();
  TestBed.inject(SessionService).check().subscribe();
  wire.one('/api/session').flush(SESSION);
});

const INES = { id: 1, code: 'IB', name: 'Ines Barrow' };
const loan = (change: object) => ({
  ...{ id: 1, to: INES, since: '2026-04-14T17:00:00Z', by: 'wren', due: null, standing: 'out' as const, daysLate: 0, note: '' },
  ...change,
});
const thing = (id: number, change: Partial<Thing>): Thing => ({
  ...{ kind: 'card', id, label: `H-0${id}`, name: '', tray: 'out', loan: null, times: 0 },
  ...change,
});
const THINGS = [
  thing(1, { loan: loan({ due: '2026-04-18', standing: 'overdue', daysLate: 3, note: 'outpost' }) }),
  thing(2, { tray: 'in', times: 2 }),
  thing(3, { kind: 'reader', label: 'R-1', name: 'Two-slot reader', tray: null }),
];

it.each([
  [{ due: '2026-05-02', standing: 'out', daysLate: 0 }, 'due 2 May'],
  [{ due: '2026-04-21', standing: 'due today', daysLate: 0 }, 'due today'],
  [{ due: '2026-04-20', standing: 'overdue', daysLate: 1 }, 'overdue by 1 day'],
  [{ due: null, standing: 'out', daysLate: 0 }, 'lent, no day agreed'],
] as const)('%j: %s', (of, words) => expect(loanWords(of)).toBe(words));

describe('the lending list', () => {
  async function open(inputs: object = {}) {
    const page = await render(LendingPage, { ...inputs });
    wire.one('/api/things').flush({ things: THINGS });
    await page.fixture.whenStable();
    const rows = () => [...page.element.querySelectorAll('tbody tr')].map((row) => row.textContent.replace(/\s+/g, ' ').trim());
    const button = (name: RegExp) =>
      [...page.element.querySelectorAll('button')].find((one) => name.test(one.textContent.trim()));
    const choose = async (label: string) => {
      page.element.querySelector<HTMLInputElement>(`[aria-label="Choose ${label}"]`)!.click();
      await page.fixture.whenStable();
    };
    return { ...page, rows, button, choose };
  }

  it('says what is out and what is overdue, who has it, and where the rest lies', async () => {
    const { text, rows } = await open();
    expect(text()).toContain('1 of 3 out, 1 overdue');
    expect(rows()).toEqual([
      expect.stringMatching(/^H-01 ?card ?Ines Barrow ?14 Apr 2026 18 Apr 2026 overdue by 3 days · outpost never.* back$/),
      expect.stringMatching(/^H-02 ?card ?handed in, waiting 2 times.* lend…$/),
      expect.stringMatching(/^R-1 ?reader, Two-slot reader here never/),
    ]);
  });

  it('finds by any word of the address, a person’s code too', async () => {
    const { rows } = await open({ words: 'ib card' });
    expect(rows()).toHaveLength(1);
  });

  it('lends only what is here, takes back only what is out', async () => {
    const { button, choose, text, fixture } = await open();
    expect(button(/^Lend/)!.disabled).toBe(true);
    expect(button(/^\d+ things? back$/)).toBeUndefined();
    await choose('R-1');
    expect(button(/^Lend 1 thing…/)!.disabled).toBe(false);
    await choose('H-01');
    button(/^1 thing back$/)!.click();
    const asked = wire.http.expectOne('/api/loans/back');
    expect(asked.request.body).toEqual({ things: [{ kind: 'card', id: 1 }], unused: false });
    asked.flush(null);
    wire.one('/api/things').flush({ things: THINGS.slice(1) });
    await fixture.whenStable();
    expect(text()).toContain('0 of 2 out');
  });

  it('a refusal is told in its own words', async () => {
    const { button, choose } = await open();
    await choose('H-01');
    button(/^Back unused$/)!.click();
    wire.http.expectOne('/api/loans/back').flush({ title: 'H-01 is not lent.' }, { status: 409, statusText: 'Conflict' });
    expect(wire.said).toEqual(['H-01 is not lent.']);
  });
});
