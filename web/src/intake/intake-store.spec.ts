import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting, type TestRequest } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import type { IntakeSummary, ItemView, LiveEvent, PlanView } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { Subject } from 'rxjs';
import { LiveService } from '../api/live.service';
import { IntakeStore } from './intake-store';

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
    captured: { local: `2026-04-18T09:0${id}:00`, offsetMinutes: null, source: 'metadata', original: '', doubt: null },
    ...{ alreadyFiled: null, filedAs: null, copies: [] },
    ...change,
  }) as ItemView;
const INTAKE = { id: 7, state: 'open', tray: 'in', present: true, stick: [], note: null } as unknown as IntakeSummary;
const PLAN = {
  placements: [],
  folders: [],
  left: [],
  clashes: [],
  numbers: [],
  missing: [],
  bytes: 0,
  seal: 'a',
  beside: [],
  obstacles: [],
} as PlanView;

let http: HttpTestingController;
let store: IntakeStore;
let events: Subject<LiveEvent>;
let warned: string[];
const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
const one = (url: string): TestRequest => http.expectOne((request) => request.url === url);

beforeEach(async () => {
  events = new Subject();
  warned = [];
  TestBed.configureTestingModule({
    providers: [
      IntakeStore,
      provideHttpClient(),
      provideHttpClientTesting(),
      { provide: MessageService, useValue: { add: ({ summary }: { summary: string }) => warned.push(summary) } },
      { provide: LiveService, useValue: { events } },
    ],
  });
  http = TestBed.inject(HttpTestingController);
  store = TestBed.inject(IntakeStore);
  one('/api/places').flush([{ id: 'shared', name: 'Shared drive', required: true }]);
  store.open(7);
  one('/api/intakes/7').flush(INTAKE);
  one('/api/intakes/7/items').flush([item(1), item(2), item(3, { leader: 'DCIM/2.JPG', kind: 'raw', path: 'DCIM/2.DNG' })]);
  await wait(80);
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
    store.take([store.tiles()[1]!], false);
    expect(store.counts()).toMatchObject({ taken: 1, left: 2 });
    const change = one('/api/intakes/7/taken');
    expect(change.request.body).toEqual({ itemIds: [2, 3], taken: false });
    change.flush(INTAKE);
    one('/api/intakes/7/items').flush([item(1), item(2, { taken: false }), item(3, { leader: 'DCIM/2.JPG', taken: false })]);
    expect(store.counts()).toMatchObject({ taken: 1, left: 2 });
  });

  it('a change that the server refuses is put right and said', () => {
    one('/api/intakes/7/plan').flush(PLAN);
    store.take([store.tiles()[0]!], false);
    one('/api/intakes/7/taken').flush({ title: 'No', status: 409, type: 'about:blank' }, { status: 409, statusText: 'Conflict' });
    one('/api/intakes/7/items').flush([item(1), item(2)]);
    expect(store.counts().left).toBe(0);
    expect(warned).toEqual(['No']);
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
