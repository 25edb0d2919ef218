import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, it } from '@jest/globals';
import type { ItemView } from '@tally/contract';
import { IntakeStore } from '../intake/intake-store';
import { INTAKE, item, render, surroundings, type Wire } from '../testing/render';
import { Acts } from './acts';
import { layOut } from './layout';
import { Rail } from './rail';
import { SheetSource } from './sheet-source';
import { tilesOf } from './tiles';
import { View } from './view';
import { ViewBar } from './view-bar';

let wire: Wire;
let store: IntakeStore;
let view: View;
let acts: Acts;
const show = (...items: ItemView[]) => store.items.set(items);

beforeEach(() => {
  wire = surroundings(IntakeStore, { provide: SheetSource, useExisting: IntakeStore }, View, Acts);
  store = TestBed.inject(IntakeStore);
  [view, acts] = [TestBed.inject(View), TestBed.inject(Acts)];
  store.intake.set(INTAKE);
});

describe('the bar above the sheet', () => {
  const buttons = (element: HTMLElement) => [...element.querySelectorAll('button')].map((button) => button.textContent.trim());

  it('speaks of how one looks while nothing is chosen, and of what is chosen once something is', async () => {
    show(item(1), item(2));
    const { element, fixture, text } = await render(ViewBar);
    expect(element.querySelector('input[type=search]')).not.toBeNull();
    expect(buttons(element)).not.toContain('Take');
    view.choose([store.tiles()[0]!]);
    await fixture.whenStable();
    expect(text()).toContain('1 item chosen');
    expect(buttons(element)).toEqual(expect.arrayContaining(['Take', 'Leave', 'Select', 'Reshoot', 'Hold']));
    expect(element.querySelector('[aria-label="Choose none"]')).not.toBeNull();
    expect(element.querySelector('input[type=search]')).toBeNull();
  });

  it('offers to remove from the card only what is proven to stand on the drive, its card here and not being filed', async () => {
    const copies = [{ place: 'shared', state: 'tallied' as const, problem: null }];
    const alreadyFiled = { ...{ path: '2026/a.jpg', intakeId: 3, intakeNumber: '2026-0001', at: null }, confirmed: true };
    const offered = async (...items: ItemView[]) => {
      show(...items);
      view.choose(store.tiles(), 'only');
      return buttons((await render(ViewBar)).element).includes('Remove from the card…');
    };
    expect(await offered(item(1, { filedAs: '2026/b.jpg', copies }), item(2, { alreadyFiled }))).toBe(true);
    expect(await offered(item(1, { filedAs: '2026/b.jpg', copies }), item(2))).toBe(false);
    // What only looks filed is not.
    expect(await offered(item(2, { alreadyFiled: { ...alreadyFiled, confirmed: false } }))).toBe(false);
    store.intake.set({ ...INTAKE, present: false });
    expect(await offered(item(1, { filedAs: '2026/b.jpg', copies }))).toBe(false);
    store.intake.set({ ...INTAKE, state: 'filing' });
    expect(await offered(item(1, { filedAs: '2026/b.jpg', copies }))).toBe(false);
  });

  it('tells how many of each there are, and leaves out what there is none of', async () => {
    show(item(1), item(2, { taken: false }), item(3, { kind: 'video' }));
    const { fixture } = await render(ViewBar);
    const shows = (fixture.componentInstance as unknown as { shows(): { words: string }[] }).shows();
    expect(shows.map(({ words }) => words)).toEqual(['everything, 3', 'pictures, 2', 'clips, 1', 'taken, 2', 'left, 1']);
  });

  it('names what can be undone, and done again', async () => {
    show(item(1), item(2));
    const { fixture, text } = await render(ViewBar);
    acts.take(store.tiles(), false);
    await fixture.whenStable();
    expect(text()).toContain('Undo leave 2');
    acts.undo();
    await fixture.whenStable();
    expect(text()).not.toContain('Undo');
  });
});

describe('acts on many items', () => {
  const judged = () => wire.http.match((request) => request.url.endsWith('/judged'));
  const bodies = () => judged().map(({ request }) => request.body as { itemIds: number[]; turned: number });
  const opened = () => {
    store.open(7);
    wire.http.match(() => true);
  };

  it('turning many is one request for each way they lie, and one step to undo', () => {
    opened();
    show(...[1, 2, 3, 4].map((id) => item(id, { turned: id === 4 ? 3 : 0 })));
    acts.turn(store.tiles(), 1);
    const first = judged();
    expect(first.map(({ request }) => request.body as object)).toEqual([{ itemIds: [1, 2, 3], turned: 1 }]);
    first[0]!.flush(null);
    const second = judged();
    expect(second.map(({ request }) => request.body as object)).toEqual([{ itemIds: [4], turned: 0 }]);
    second[0]!.flush(null);
    expect(store.items().map(({ turned }) => turned)).toEqual([1, 1, 1, 0]);
    acts.undo();
    expect(store.items().map(({ turned }) => turned)).toEqual([0, 0, 0, 3]);
    expect(acts.undoWords()).toBeNull();
    expect(bodies().length).toBeLessThanOrEqual(1);
  });

  it('the two hundred and first step is undone like any other, a reversal too', () => {
    show(item(1), item(2, { taken: false }));
    for (let n = 0; n < 201; n++) acts.verdict(store.tiles(), 'select');
    const before = store.items().map(({ taken }) => taken);
    acts.reverse(store.tiles());
    expect(store.items().map(({ taken }) => taken)).toEqual([false, true]);
    acts.undo();
    expect(store.items().map(({ taken }) => taken)).toEqual(before);
    acts.redo();
    expect(store.items().map(({ taken }) => taken)).toEqual([false, true]);
  });
});

describe('the rail of time', () => {
  const at = (id: number, local: string) => item(id, { captured: { ...item(id).captured, local } });
  const railOf = async (...items: ItemView[]) => {
    show(...items);
    const layout = layOut(view.runs(), 800);
    return { layout, ...(await render(Rail, { layout, from: 0, height: 300 })) };
  };
  const bars = (element: HTMLElement) => element.querySelectorAll('rect.bar').length;

  it('has a bar for every six minutes in which something was shot, and the hours of the day beside them', async () => {
    const { element } = await railOf(at(1, '2026-04-18T09:01:00'), at(2, '2026-04-18T09:02:00'), at(3, '2026-04-18T11:40:00'));
    expect(bars(element)).toBe(2);
    const hours = [...element.querySelectorAll('text')].map((text) => text.textContent.trim());
    expect(hours).toEqual(expect.arrayContaining(['09', '11']));
  });

  it('names the days when there are several, and leaves the nights between them out', async () => {
    const { element } = await railOf(at(1, '2026-04-18T09:01:00'), at(2, '2026-04-20T15:02:00'));
    const words = [...element.querySelectorAll('text')].map((text) => text.textContent.trim());
    expect(words).toEqual(expect.arrayContaining(['18 Apr', '20 Apr']));
    expect(words).not.toContain('19 Apr');
  });

  it('a click goes to the row that was shot nearest to that time', async () => {
    const { element, fixture, layout } = await railOf(at(1, '2026-04-18T09:00:00'), at(2, '2026-04-18T17:00:00'));
    const went: number[] = [];
    fixture.componentInstance.go.subscribe((top) => went.push(top));
    const svg = element.querySelector('svg')!;
    for (const offsetY of [0, 480]) {
      const click = new MouseEvent('click', { bubbles: true });
      Object.defineProperty(click, 'offsetY', { value: offsetY });
      svg.dispatchEvent(click);
    }
    const tops = layout.rows.filter((row) => row.type === 'tiles').map((row) => row.top - 44);
    expect(went).toEqual([tops[0], tops.at(-1)]);
    expect(tilesOf(store.material())).toHaveLength(2);
  });
});
