import { provideHttpClient, withInterceptors } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting, type TestRequest } from '@angular/common/http/testing';
import type { Provider, Type } from '@angular/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import type { IntakeSummary, ItemView, LiveEvent, Session } from '@tally/contract';
import { deedsOf } from '@tally/core/rights';
import { MessageService } from 'primeng/api';
import { Subject } from 'rxjs';
import { check } from '../api/answers';
import { checkedAnswers } from '../api/checked-answers';
import { LiveService } from '../api/live.service';

/** What the server would say, and what it was asked. */
export interface Wire {
  readonly http: HttpTestingController;
  readonly events: Subject<LiveEvent>;
  /** Messages shown to the person. */
  readonly said: string[];
  one(url: string): TestRequest;
}

/** Sets up a page's surroundings: a wire that the test answers, live events that it sends. */
export function surroundings(...providers: Provider[]): Wire {
  const events = new Subject<LiveEvent>();
  const said: string[] = [];
  const live = Object.assign(Object.create(LiveService.prototype) as object, { events });
  TestBed.configureTestingModule({
    providers: [
      provideHttpClient(withInterceptors([checkedAnswers(check)])),
      provideHttpClientTesting(),
      provideRouter([]),
      { provide: MessageService, useValue: { add: ({ summary }: { summary: string }) => said.push(summary) } },
      { provide: LiveService, useValue: live },
      ...providers,
    ],
  });
  const http = TestBed.inject(HttpTestingController);
  return { http, events, said, one: (url) => http.expectOne((request) => request.url === url) };
}

/** Renders a component with inputs. @returns it, and what a person would read. */
export async function render<T>(component: Type<T>, inputs: Readonly<Record<string, unknown>> = {}): Promise<Rendered<T>> {
  const fixture = TestBed.createComponent(component);
  for (const [name, value] of Object.entries(inputs)) fixture.componentRef.setInput(name, value);
  await fixture.whenStable();
  const element = fixture.nativeElement as HTMLElement;
  return { fixture, element, text: () => element.textContent.replace(/\s+/g, ' ').trim() };
}

export interface Rendered<T> {
  readonly fixture: ComponentFixture<T>;
  readonly element: HTMLElement;
  text(): string;
}

export const SESSION: Session = {
  person: { id: 1, name: 'wren', role: 'administrator' },
  ...{ may: deedsOf('administrator'), must: null, hasPassword: true, secondFactor: false, endsAt: '2026-04-28T16:42:00.000Z' },
  station: 'Station 2, Boathouse',
  house: 'Ostrel Bay Tidelands Trust',
  zone: 'Europe/London',
  dates: 'day first',
  dayBegins: '00:00',
  now: '2026-04-21T16:42:00.000Z',
};

export const INTAKE: IntakeSummary = {
  ...{
    id: 7,
    number: '2026-0412',
    state: 'open',
    tray: 'in',
    station: 'Station 2',
    present: true,
    note: null,
    paused: false,
    parts: [],
    handedIn: false,
    readThrough: true,
    reader: null,
    letGo: null,
    unshown: 0,
    work: null,
    clearedAt: null,
  },
  card: { id: 3, label: 'C-014', volume: 'HALDEN_M4', onInsert: 'show' },
  contributor: { id: 1, code: 'IB', name: 'Ines Barrow' },
  assignment: null,
  ...{ receivedAt: '2026-04-21T16:42:00.000Z', receivedBy: 'Station 2' },
  ...{ items: 2, bytes: 4_300_000, byKind: { photo: { items: 2, bytes: 4_300_000 } }, camera: 'Halden M4' },
  ...{ taken: 2, filed: 0, alreadyFiled: 0, comparing: 0, read: 2, first: 'HM4_0417.JPG', last: 'HM4_0418.JPG' },
  stick: [{ count: 2, card: 'cut', copies: ['open', 'open'] }],
};

export const item = (id: number, change: Partial<ItemView> = {}): ItemView => ({
  ...{ id, path: `DCIM/HM4_041${id}.JPG`, leader: `DCIM/HM4_041${id}.JPG`, bytes: 2_150_000, kind: 'photo' },
  captured: {
    ...{ local: `2026-04-18T09:0${id}:00`, offsetMinutes: 60, source: 'metadata with offset', original: '', doubt: null },
    ...{ camera: `2026-04-18T09:0${id}:00`, shiftSeconds: 0 },
  },
  ...{ make: 'Halden', model: 'M4', serial: null, width: 1500, height: 1000, durationMs: null, read: true },
  ...{
    taken: true,
    setAside: null,
    aside: null,
    goneAt: null,
    problem: null,
    remark: null,
    credit: null,
    embedded: null,
    alreadyFiled: null,
    filedAs: null,
    copies: [],
  },
  ...{ twinOf: null, namesake: null, contributor: null, assignment: null, verdict: null, description: '', turned: 0 },
  ...{ role: null, profile: '', objectRole: 'leader', part: null, parts: null, structure: 'dcf', structureRoot: null },
  ...{ series: null, clip: null },
  ...{ useFromMs: null, useToMs: null, sharpness: null, look: null },
  ...change,
});

/** Filed under a name, whole at one place. */
export const filedAs = (path: string): Pick<ItemView, 'filedAs' | 'copies'> => ({
  filedAs: path,
  copies: [{ place: 'shared', state: 'tallied', problem: null }],
});
