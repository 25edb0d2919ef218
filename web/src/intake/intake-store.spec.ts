import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting, type TestRequest } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import type { IntakeSummary, ItemView, LiveEvent, PlanView } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { Subject } from 'rxjs';
import { LiveService } from '../api/live.service';
import { Acts } from '../sheet/acts';
import { IntakeStore } from './intake-store';
import { SheetSource } from '../sheet/sheet-source';
import { View } from '../sheet/view';

const item = (id: number, change: Partial<ItemView> = {}): ItemView =>
  ({
    ...{
      id,
      path: `DCIM/${id}.JPG`,
      leader: `DCIM/${id}.JPG`,
      bytes: 1000,
      kind: 'photo',
      taken: true,
      setAside: null,
      problem: null,
      remark: null,
    },
    captured: {
      ...{ local: `2026-04-18T09:0${id}:00`, offsetMinutes: null, source: 'metadata', original: '', doubt: null },
      ...{ camera: `2026-04-18T09:0${id}:00`, shiftSeconds: 0 },
    },
    ...{
      aside: null,
      goneAt: null,
      alreadyFiled: null,
      filedAs: null,
      copies: [],
      contributor: null,
      assignment: null,
      verdict: null,
      turned: 0,
    },
    ...{ make: 'Halden', model: 'M4', serial: '7', look: null, sharpness: null, description: '' },
    ...change,
  }) as ItemView;
const filedAs = (path: string) => ({ filedAs: path, copies: [{ place: 'shared', state: 'tallied' as const, problem: null }] });
const INTAKE = { id: 7, state: 'open', tray: 'in', present: true, stick: [], note: null } as unknown as IntakeSummary;
const PLAN = {
  placements: [],
  folders: [],
  left: [],
  clashes: [],
  otherDays: [],
  numbers: [],
  missing: [],
  unsaid: [],
  doubts: [],
  bytes: 0,
  seal: 'a',
  beside: [],
  obstacles: [],
  tooFull: [],
  room: [{ name: 'Shared drive', freeBytes: 83_200_000_000, afterBytes: 83_195_700_000 }],
} as PlanView;

let http: HttpTestingController;
let store: IntakeStore;
let acts: Acts;
let events: Subject<LiveEvent>;
let warned: string[];
let version: number;
const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
const one = (url: string): TestRequest => http.expectOne((request) => request.url === url);

/** The plan is asked for a moment after what it depends on: however long that is on a busy machine. */
async function planIsAskedFor(): Promise<void> {
  const isAsked = () => {
    let found = false;
    // Nothing matches, so nothing is taken from what waits for an answer.
    http.match(({ url }) => ((found ||= url === '/api/intakes/7/plan'), false));
    return found;
  };
  while (!isAsked()) await wait(5);
}

/** Answers the next question for items; each answer is a newer version. */
const flushItems = (items: ItemView[]) => one('/api/intakes/7/items').flush({ version: ++version, items });

beforeEach(async () => {
  version = 0;
  events = new Subject();
  warned = [];
  TestBed.configureTestingModule({
    providers: [
      IntakeStore,
      { provide: SheetSource, useExisting: IntakeStore },
      View,
      Acts,
      provideHttpClient(),
      provideHttpClientTesting(),
      { provide: MessageService, useValue: { add: ({ summary }: { summary: string }) => warned.push(summary) } },
      { provide: LiveService, useValue: Object.assign(Object.create(LiveService.prototype) as object, { events }) },
    ],
  });
  http = TestBed.inject(HttpTestingController);
  store = TestBed.inject(IntakeStore);
  acts = TestBed.inject(Acts);
  one('/api/places').flush([{ id: 'shared', name: 'Shared drive', required: true }]);
  store.open(7);
  one('/api/intakes/7').flush(INTAKE);
  flushItems([item(1), item(2), item(3, { leader: 'DCIM/2.JPG', kind: 'raw', path: 'DCIM/2.DNG' })]);
  await planIsAskedFor();
});
afterEach(() => {
  TestBed.resetTestingModule();
});

describe('an intake as the page sees it', () => {
  it('companions are one tile', () => {
    expect(store.tiles().map(({ lead, companions }) => [lead.id, companions.map(({ id }) => id)])).toEqual([
      [1, []],
      [2, [3]],
    ]);
  });

  it('leaving a tile shows at once, companions with it, and an older answer does not undo it', () => {
    one('/api/intakes/7/plan').flush(PLAN);
    events.next({ type: 'items', intakeId: 7 });
    acts.take([store.tiles()[1]!], false);
    expect(store.counts()).toMatchObject({ taken: 1, left: 2 });
    const change = one('/api/intakes/7/taken');
    expect(change.request.body).toEqual({ itemIds: [2, 3], taken: false });
    change.flush(INTAKE);
    flushItems([item(1), item(2, { taken: false }), item(3, { leader: 'DCIM/2.JPG', taken: false })]);
    expect(store.counts()).toMatchObject({ taken: 1, left: 2 });
  });

  it('an answer that was asked for while a change was on its way is not shown: it may not know of it', async () => {
    one('/api/intakes/7/plan').flush(PLAN);
    acts.take([store.tiles()[0]!], false);
    const first = one('/api/intakes/7/taken');
    // Somebody else's event, while this is on its way.
    events.next({ type: 'items', intakeId: 7 });
    await wait(260);
    http.expectNone('/api/intakes/7/items');
    first.flush(INTAKE);
    flushItems([item(1, { taken: false })]);
    expect(store.counts()).toMatchObject({ taken: 2, left: 1 });
  });

  it('a change that the server refuses is put right and said', () => {
    one('/api/intakes/7/plan').flush(PLAN);
    acts.take([store.tiles()[0]!], false);
    one('/api/intakes/7/taken').flush({ title: 'No', status: 409, type: 'about:blank' }, { status: 409, statusText: 'Conflict' });
    flushItems([item(1), item(2)]);
    expect(store.counts().left).toBe(0);
    expect(warned).toEqual(['No']);
  });
});

describe('what is done can be undone', () => {
  const answer = (url: string) => one(url).flush(null);
  const tiles = () => store.tiles();
  beforeEach(() => one('/api/intakes/7/plan').flush(PLAN));

  it('take and leave, with only what really changed', () => {
    acts.take([tiles()[0]!], false);
    answer('/api/intakes/7/taken');
    flushItems([item(1, { taken: false })]);
    acts.take(tiles(), false);
    expect(one('/api/intakes/7/taken').request.body).toEqual({ itemIds: [2, 3], taken: false });
    expect(acts.undoWords()).toBe('leave 2');
    acts.undo();
    expect(store.material().map((one) => one.taken)).toEqual([false, true, true]);
    acts.undo();
    expect(store.counts().left).toBe(0);
    expect(acts.undoWords()).toBeNull();
    acts.redo();
    expect(store.material().map((one) => one.taken)).toEqual([false, true, true]);
  });

  it('requests go one after the other, in the order of the acts', () => {
    acts.take([tiles()[0]!], false);
    acts.take([tiles()[0]!], true);
    const first = http.match((request) => request.url.endsWith('/taken'));
    expect(first.map(({ request }) => request.body as unknown)).toEqual([{ itemIds: [1], taken: false }]);
    first[0]!.flush(null);
    expect(one('/api/intakes/7/taken').request.body).toEqual({ itemIds: [1], taken: true });
  });

  it('a verdict said again is taken back; each item gets its own back on undo', () => {
    store.items.update(([a, ...rest]) => [{ ...a!, verdict: 'hold' }, ...rest]);
    acts.verdict(tiles(), 'select');
    expect(store.tiles().map(({ lead }) => lead.verdict)).toEqual(['select', 'select']);
    acts.undo();
    expect(store.tiles().map(({ lead }) => lead.verdict)).toEqual(['hold', null]);
    acts.verdict([tiles()[0]!], 'hold');
    expect(store.tiles()[0]!.lead.verdict).toBeNull();
  });

  it('split: companions go along, and the server is told what was seen', () => {
    const survey = { id: 4, slug: 'tide-survey', title: 'Spring tide survey' };
    acts.split([tiles()[1]!], { assignment: survey }, 'to it');
    expect(one('/api/intakes/7/belongs').request.body).toEqual({ itemIds: [2, 3], assignmentId: 4, wasAssignmentIds: [null] });
    expect(store.isSplit()).toBe(true);
    acts.undo();
    expect(store.isSplit()).toBe(false);
  });

  it('a clock correction moves what that camera took, from its own time, and back', () => {
    store.items.update((items) => items.map((one) => (one.id === 1 ? { ...one, serial: 'other' } : one)));
    acts.correct({ make: 'Halden', model: 'M4', serial: '7', shift: { kind: 'clock', seconds: 3600 } }, 'clock');
    expect(store.tiles().map(({ lead }) => lead.captured.local)).toEqual(['2026-04-18T09:01:00', '2026-04-18T10:02:00']);
    expect(store.tiles()[1]!.lead.captured.camera).toBe('2026-04-18T09:02:00');
    acts.undo();
    expect(store.tiles()[1]!.lead.captured.local).toBe('2026-04-18T09:02:00');
  });

  it('what was filed, given to filing or cleared since is no step to undo any more; what does not depend on it is', () => {
    acts.verdict([tiles()[0]!], 'select');
    acts.take([tiles()[0]!], false);
    expect(acts.undoWords()).toBe('leave 1');
    store.intake.set({ ...INTAKE, state: 'filing' });
    expect(acts.undoWords()).toBe('select');
    store.intake.set({ ...INTAKE, state: 'tallied' });
    expect(acts.undoWords()).toBe('leave 1');
    store.items.update((items) => items.map((one) => (one.id === 1 ? { ...one, goneAt: '2026-04-21T10:00:00Z' } : one)));
    expect(acts.undoWords()).toBe('select');
    acts.undo();
    expect(acts.undoWords()).toBeNull();
  });

  it('what is gone, or on a card that was given back, is not taken, and that is said', () => {
    store.items.update((items) => items.map((one) => ({ ...one, taken: false, goneAt: '2026-04-21T10:00:00Z' })));
    acts.take([tiles()[0]!], true);
    store.items.update((items) => items.map((one) => ({ ...one, goneAt: null })));
    store.intake.set({ ...INTAKE, state: 'closed', tray: 'out' });
    acts.take([tiles()[0]!], true);
    http.expectNone('/api/intakes/7/taken');
    expect(warned).toEqual([
      '1.JPG cannot be taken: it went with the clearing of its card.',
      '1.JPG cannot be taken: its card was given back.',
    ]);
  });

  it('nothing is taken or left of what is filed already', () => {
    store.items.update((items) => items.map((one) => ({ ...one, filedAs: 'f/x.jpg' })));
    acts.take(tiles(), false);
    http.expectNone('/api/intakes/7/taken');
  });
});

it('counts the bytes of what is taken and of what is filed, not of the whole card', () => {
  store.items.set([
    item(1, { bytes: 10, ...filedAs('f/1.jpg') }),
    item(2, { bytes: 30, taken: false }),
    item(3, { bytes: 20 }),
    item(4, { bytes: 5, ...filedAs('f/4.jpg') }),
  ]);
  expect(store.counts()).toMatchObject({ taken: 1, takenBytes: 20, filed: 2, filedBytes: 15, left: 1 });
});

describe('how the sheet is looked at', () => {
  let view: View;
  beforeEach(() => {
    view = TestBed.inject(View);
    store.items.set([
      item(1, { bytes: 10, model: 'M4', path: 'B/1.JPG', leader: 'B/1.JPG' }),
      item(2, { bytes: 30, model: 'Q2', path: 'A/2.JPG', leader: 'A/2.JPG', taken: false }),
      item(3, { bytes: 20, model: 'M4', path: 'A/3.MOV', leader: 'A/3.MOV', kind: 'video' }),
    ]);
  });
  const order = () => view.tiles().map(({ lead }) => lead.id);

  it('by time, name, size and camera', () => {
    expect(order()).toEqual([1, 2, 3]);
    view.order.set('name');
    expect(order()).toEqual([2, 3, 1]);
    expect(view.runs()).toHaveLength(2);
    view.order.set('size');
    expect(order()).toEqual([2, 3, 1]);
    view.order.set('camera');
    expect(order()).toEqual([1, 3, 2]);
  });

  it('by kind, camera, taken or left, and by name', () => {
    const shows = (show: string) => {
      view.show.set(show);
      return order();
    };
    expect(shows('clips')).toEqual([3]);
    expect(shows('left')).toEqual([2]);
    expect(shows('taken')).toEqual([1, 3]);
    view.show.set('everything');
    view.camera.set('Halden M4');
    expect(order()).toEqual([1, 3]);
    view.words.set('3.mov');
    expect(order()).toEqual([3]);
  });

  it('an act is about what was chosen, else about where one is', () => {
    expect(view.subject().map(({ lead }) => lead.id)).toEqual([1]);
    view.choose(view.tiles().slice(1), 'add');
    view.choose([view.tiles()[1]!], 'turn');
    expect(view.subject().map(({ lead }) => lead.id)).toEqual([3]);
    view.chooseNone();
    expect(view.subject().map(({ lead }) => lead.id)).toEqual([1]);
  });

  it('similar frames are one group, and the sharpest of them stands out', () => {
    store.items.update((items) => items.map((one, i) => ({ ...one, look: 'ffff0000ffff0000', sharpness: i === 1 ? 900 : 100 })));
    expect(view.similar().get(1)).toEqual({ ids: [1, 2, 3], sharpest: 2 });
  });
});

describe('credit of items', () => {
  const credit = (change: object) => ({
    ...{ creditLine: null, copyrightNotice: null, termsId: null, locationId: null, words: [], pictured: [], position: null },
    ...change,
  });

  it('shows at once, says what was on screen, and each item gets its own back on undo', () => {
    store.items.update((items) => items.map((one) => (one.id === 1 ? { ...one, credit: credit({ creditLine: 'Old' }) } : one)));
    acts.credit(store.tiles(), { creditLine: 'New', addWords: ['reeds'] }, 'credit');
    expect(store.items().map((one) => one.credit?.creditLine)).toEqual(['New', 'New', 'New']);
    const said = one('/api/credit');
    expect(said.request.body).toEqual({
      creditLine: 'New',
      addWords: ['reeds'],
      itemIds: [1, 2, 3],
      was: { creditLine: ['Old', null] },
    });
    said.flush({ items: 3, following: 0 });
    // As the server has it now: the word has a number.
    const reeds = [{ id: 9, text: 'reeds', has: true }];
    store.items.update((items) => items.map((each) => ({ ...each, credit: credit({ creditLine: 'New', words: reeds }) })));
    acts.undo();
    const back = [one('/api/credit')];
    expect(back[0]!.request.body).toMatchObject({
      creditLine: 'Old',
      removeWordIds: [9],
      itemIds: [1],
      was: { creditLine: ['New'] },
    });
    back[0]!.flush({ items: 1, following: 0 });
    expect(one('/api/credit').request.body).toMatchObject({ creditLine: null, removeWordIds: [9], itemIds: [2, 3] });
  });

  it('who took them is said of filed items too, and undone', () => {
    store.items.update((items) => items.map((each) => ({ ...each, ...filedAs(`F/${each.id}.jpg`) })));
    acts.takenBy([store.tiles()[0]!], { id: 5, code: 'PL', name: 'Priya Lind' });
    const said = one('/api/credit');
    expect(said.request.body).toEqual({ itemIds: [1], contributorId: 5 });
    said.flush({ items: 1, following: 0 });
    expect(store.items()[0]!.contributor?.name).toBe('Priya Lind');
    acts.undo();
    expect(one('/api/credit').request.body).toEqual({ itemIds: [1], contributorId: null });
  });
});

describe('pressing File', () => {
  it('while the plan is being made waits for it, then files it', () => {
    expect(store.planning()).toBe(true);
    store.plan.set(PLAN);
    store.askToFile();
    http.expectNone('/api/intakes/7/file');
    one('/api/intakes/7/plan').flush({ ...PLAN, seal: 'b' });
    expect(one('/api/intakes/7/file').request.body).toEqual({ seal: 'b' });
  });

  it('after a word about an item that the server answers with nothing: the plan is made again, and it files', async () => {
    one('/api/intakes/7/plan').flush(PLAN);
    acts.judge([store.tiles()[0]!], { description: 'herons' }, 'describe');
    store.askToFile();
    expect(store.waitsToFile()).toBe(true);
    one('/api/intakes/7/judged').flush(null);
    // What the server tells of it is what is shown already.
    flushItems([item(1, { description: 'herons' })]);
    await planIsAskedFor();
    one('/api/intakes/7/plan').flush({ ...PLAN, seal: 'd' });
    expect(one('/api/intakes/7/file').request.body).toEqual({ seal: 'd' });
    expect(store.waitsToFile()).toBe(false);
  });

  it('a plan that was made before the last click is not filed, nor shown to differ: the one that holds is waited for', async () => {
    one('/api/intakes/7/plan').flush(PLAN);
    acts.take([store.tiles()[0]!], false);
    one('/api/intakes/7/taken').flush(INTAKE);
    flushItems([item(1, { taken: false })]);
    await planIsAskedFor();
    // This one is on its way while somebody clicks on, and presses File.
    const late = one('/api/intakes/7/plan');
    acts.take([store.tiles()[0]!], true);
    store.askToFile();
    late.flush({ ...PLAN, seal: 'late' });
    http.expectNone('/api/intakes/7/file');
    one('/api/intakes/7/taken').flush(INTAKE);
    flushItems([item(1)]);
    await planIsAskedFor();
    one('/api/intakes/7/plan').flush({ ...PLAN, seal: 'holds' });
    expect(one('/api/intakes/7/file').request.body).toEqual({ seal: 'holds' });
  });

  it('a plan that was asked for while a click was on its way does not count, though nothing was clicked since', async () => {
    one('/api/intakes/7/plan').flush(PLAN);
    acts.take([store.tiles()[0]!], false);
    one('/api/intakes/7/taken').flush(INTAKE);
    flushItems([item(1, { taken: false })]);
    // The next click comes before that plan is asked for, and is not answered yet when it is.
    acts.take([store.tiles()[0]!], true);
    const underway = one('/api/intakes/7/taken');
    await planIsAskedFor();
    store.askToFile();
    one('/api/intakes/7/plan').flush({ ...PLAN, seal: 'too early' });
    http.expectNone('/api/intakes/7/file');
    underway.flush(INTAKE);
    flushItems([item(1)]);
    await planIsAskedFor();
    one('/api/intakes/7/plan').flush({ ...PLAN, seal: 'holds' });
    expect(one('/api/intakes/7/file').request.body).toEqual({ seal: 'holds' });
  });

  it('a verdict on its way while the plan is asked for does not keep File waiting', async () => {
    acts.verdict([store.tiles()[0]!], 'select');
    const judged = one('/api/intakes/7/judged');
    one('/api/intakes/7/plan').flush({ ...PLAN, seal: 'first' });
    events.next({ type: 'intake', intakeId: 7 });
    http.match((request) => request.url === '/api/intakes/7').forEach((request) => request.flush(INTAKE));
    await planIsAskedFor();
    store.askToFile();
    one('/api/intakes/7/plan').flush({ ...PLAN, seal: 'second' });
    http.expectNone('/api/intakes/7/file');
    judged.flush(null);
    flushItems([item(1, { verdict: 'select' })]);
    await planIsAskedFor();
    one('/api/intakes/7/plan').flush({ ...PLAN, seal: 'third' });
    expect(one('/api/intakes/7/file').request.body).toEqual({ seal: 'third' });
  });

  it('when the plan cannot be had, says so and waits no longer', () => {
    one('/api/intakes/7/plan').flush(null, { status: 500, statusText: 'no' });
    store.askToFile();
    expect(warned).toEqual(['First say who took these and what they were shot for, in the sentence above.']);
    expect(store.waitsToFile()).toBe(false);
  });

  it('does not file a plan that nobody could have seen', () => {
    store.plan.set({ ...PLAN, missing: ['assignment'] });
    store.askToFile();
    one('/api/intakes/7/plan').flush(PLAN);
    http.expectNone('/api/intakes/7/file');
    expect(warned).toEqual(['Where everything goes has only just been worked out: look at it, then file.']);
  });

  it('says in words what is missing', () => {
    one('/api/intakes/7/plan').flush({ ...PLAN, missing: ['contributor', 'assignment'] });
    store.askToFile();
    store.items.set([]);
    store.askToFile();
    expect(warned).toEqual([
      'First say who took these and what they were shot for, in the sentence above.',
      'Nothing is taken: take at least one item to file.',
    ]);
  });

  it('a plan that changed in between is kept for a yes, with what differs', () => {
    const placed = (name: string) => ({ itemId: 1, from: 'DCIM/1.JPG', folder: 'f', name, bytes: 1, n: 1, scope: 's' });
    one('/api/intakes/7/plan').flush({ ...PLAN, placements: [placed('0001.jpg')] });
    store.askToFile();
    one('/api/intakes/7/file').flush(
      { outcome: 'changed', plan: { ...PLAN, seal: 'c', placements: [placed('0002.jpg')] } },
      { status: 409, statusText: 'Conflict' },
    );
    expect(store.changes()).toEqual([{ from: 'DCIM/1.JPG', shown: 'f/0001.jpg', now: 'f/0002.jpg' }]);
    store.file();
    expect(one('/api/intakes/7/file').request.body).toEqual({ seal: 'c' });
  });
});

it('progress cuts notches without asking for the items again', () => {
  one('/api/intakes/7/plan').flush(PLAN);
  store.items.set([item(1, { filedAs: 'f/1.jpg', copies: [{ place: 'shared', state: 'waiting', problem: null }] })]);
  expect(store.notches()[0]!.copies).toEqual(['open']);
  const progress = {
    intakeId: 7,
    items: 1,
    itemsDone: 1,
    bytes: 1,
    bytesDone: 1,
    bytesPerSecond: 1,
    msLeft: 0,
    tallied: [1],
    troubled: [],
  };
  events.next({ type: 'progress', progress });
  events.next({ type: 'progress', progress: { ...progress, intakeId: 8, tallied: [2] } });
  expect(store.notches()[0]!.copies).toEqual(['cut']);
});
