import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, it } from '@jest/globals';
import type { HandInView } from '@tally/contract';
import { Subject } from 'rxjs';
import { surroundings, type Wire } from '../testing/render';
import { HandInStore } from './hand-in-store';
import type { Answer, Ask } from './messages';
import { Readers } from './readers';

/** Workers that answer when the test says so. */
class HeldReaders {
  readonly answers = new Subject<Answer>();
  readonly asked: Ask[] = [];
  ask(ask: Ask): void {
    this.asked.push(ask);
  }
}

let wire: Wire;
let store: HandInStore;
let readers: HeldReaders;
const file = (path: string, bytes = 10) => ({
  ...{ path, kind: 'photo' as const },
  file: new File([new Uint8Array(bytes)], path.slice(path.lastIndexOf('/') + 1), { lastModified: 1_776_500_000_000 }),
});
const read = (id: number, digit = String(id)) =>
  readers.answers.next({ kind: 'read', id, quickHash: digit.repeat(32), captured: '2026-04-18T09:00:00', thumbnail: null });
const states = () => store.files().map(({ state }) => state);
const settle = () => new Promise((resolve) => setTimeout(resolve));
const answer = (all: HandInView['files'][number]['state'][], change: Partial<HandInView> = {}): HandInView => ({
  ...{ id: 4, intakeNumber: null, done: false, name: 'DCIM', begunAt: '2026-04-21T16:42:00.000Z', safe: 0 },
  files: all.map((state, position) => ({ position, state, problem: null })),
  ...change,
});

beforeEach(() => {
  readers = new HeldReaders();
  wire = surroundings({ provide: Readers, useValue: readers }, HandInStore);
  store = TestBed.inject(HandInStore);
  store.load();
  wire.one('/api/hand-in/choices').flush({
    ...{ house: 'Ostrel Bay Tidelands Trust', zone: 'Europe/London', until: null },
    contributors: [{ id: 3, name: 'Ines Barrow' }],
    assignments: [],
  });
});

describe('a card handed in through the browser', () => {
  it('is ready once every file was read and somebody said whose it is', () => {
    store.choose({ name: 'HALDEN_M4', files: [file('DCIM/1.JPG'), file('DCIM/2.JPG')] });
    expect(readers.asked.map(({ kind, id }) => [kind, id])).toEqual([
      ['read', 0],
      ['read', 1],
    ]);
    store.contributorId.set(3);
    read(0);
    expect([states(), store.ready()]).toEqual([['ready', 'reading'], false]);
    read(1);
    expect([states(), store.ready()]).toEqual([['ready', 'ready'], true]);
    store.contributorId.set(null);
    expect(store.ready()).toBe(false);
  });

  it('announces what can be read, asks for nothing that is filed or has arrived, and says that something is missing', async () => {
    store.choose({ name: 'HALDEN_M4', files: [file('DCIM/1.JPG'), file('DCIM/2.JPG'), file('DCIM/3.JPG')] });
    store.contributorId.set(3);
    read(0);
    readers.answers.next({ kind: 'failed', id: 1, why: 'it cannot be read' });
    read(2);
    expect(store.counts()).toMatchObject({ all: 3, unreadable: 1, toSend: 2, bytes: 20 });
    const started = store.start();
    const begin = wire.one('/api/hand-in');
    expect(begin.request.body).toMatchObject({ contributorId: 3, assignmentId: null, name: 'HALDEN_M4' });
    expect((begin.request.body as { files: { path: string }[] }).files.map(({ path }) => path)).toEqual([
      'DCIM/1.JPG',
      'DCIM/3.JPG',
    ]);
    begin.flush(answer(['filed', 'arrived']));
    await settle();
    expect(states()).toEqual(['filed', 'unreadable', 'arrived']);
    expect(readers.asked.filter(({ kind }) => kind === 'hash')).toEqual([]);
    const done = wire.one('/api/hand-in/4/done');
    expect(done.request.body).toEqual({ withoutMissing: true });
    done.flush(answer(['filed', 'arrived'], { intakeNumber: '2026-0413', done: true }));
    await started;
    expect([store.step(), store.handIn()?.intakeNumber]).toEqual(['done', '2026-0413']);
  });

  it('a file that is wanted is hashed before it is sent; when it cannot be read any more it waits, and the reason is said', async () => {
    store.choose({ name: 'HALDEN_M4', files: [file('DCIM/1.JPG')] });
    store.contributorId.set(3);
    read(0);
    const started = store.start();
    wire.one('/api/hand-in').flush(answer(['wanted']));
    await settle();
    expect(states()).toEqual(['sending']);
    expect(readers.asked.at(-1)).toMatchObject({ kind: 'hash', id: 0 });
    readers.answers.next({ kind: 'failed', id: 0, why: 'gone' });
    await started;
    expect([states(), store.step()]).toEqual([['ready'], 'paused']);
    expect(store.problem()).toBe('DCIM/1.JPG: it cannot be read any more: is the card still there?');
  });

  it('says the server’s own words when it refuses, and an empty folder is told at once', async () => {
    store.choose({ name: 'EMPTY', files: [] });
    expect(store.problem()).toBe('There are no pictures, clips or sounds in there.');
    store.choose({ name: 'HALDEN_M4', files: [file('DCIM/1.JPG')] });
    store.contributorId.set(3);
    read(0);
    const started = store.start();
    wire
      .one('/api/hand-in')
      .flush(
        { type: 'about:blank', title: 'There is no such contributor.', status: 404 },
        { status: 404, statusText: 'Not Found' },
      );
    await started;
    expect([store.problem(), store.step()]).toEqual(['There is no such contributor.', 'say']);
  });

  it('another card takes the place of the one before; late answers about that one change nothing', () => {
    store.choose({ name: 'ONE', files: [file('A/1.JPG'), file('A/2.JPG')] });
    store.choose({ name: 'TWO', files: [file('B/1.JPG')] });
    read(1);
    expect(store.files().map(({ path, state }) => [path, state])).toEqual([['B/1.JPG', 'reading']]);
  });
});
