import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, it } from '@jest/globals';
import type { IntakeSummary } from '@tally/contract';
import { INTAKE, surroundings, type Wire } from '../testing/render';
import { filled, LogStore } from './log-store';

let wire: Wire;
let store: LogStore;
const settle = (ms = 60) => new Promise((resolve) => setTimeout(resolve, ms));
const page = (from: number, count: number): IntakeSummary[] =>
  Array.from({ length: count }, (_, i) => ({ ...INTAKE, id: from + i + 1 }));

beforeEach(() => {
  wire = surroundings(LogStore);
  store = TestBed.inject(LogStore);
});

describe('the log as a long list', () => {
  it('asks with what narrows it, and leaves out what says nothing', async () => {
    store.show({ words: 'ines', contributor: '', order: 'bytes', descending: false });
    await settle();
    const { request } = wire.one('/api/intakes');
    expect(Object.fromEntries(request.params.keys().map((key) => [key, request.params.get(key)]))).toEqual({
      words: 'ines',
      order: 'bytes',
      descending: 'false',
      limit: '200',
      offset: '0',
    });
    expect(filled({ words: undefined, state: 'open' })).toEqual({ state: 'open' });
  });

  it('has a place for every intake, and fetches those that are looked at', async () => {
    store.show({});
    await settle();
    wire.one('/api/intakes').flush({ intakes: page(0, 200), total: 1000, sums: { items: 0, filed: 0, bytes: 0 }, next: null });
    expect(store.rows()).toHaveLength(1000);
    expect(store.rows()[199]!.id).toBe(200);
    expect(store.rows()[200]).toBeNull();
    store.need(40, 80);
    await settle();
    wire.http.expectNone('/api/intakes');
    store.need(420, 460);
    await settle();
    const asked = wire.one('/api/intakes');
    expect(asked.request.params.get('offset')).toBe('400');
    asked.flush({ intakes: page(400, 200), total: 1000, sums: { items: 0, filed: 0, bytes: 0 }, next: null });
    expect(store.rows()[420]!.id).toBe(421);
    expect(store.rows()[0]!.id).toBe(1);
  });

  it('a new question forgets the old answers; a failed one is said and keeps them', async () => {
    store.show({});
    await settle();
    wire.one('/api/intakes').flush({ intakes: page(0, 2), total: 2, sums: { items: 0, filed: 0, bytes: 0 }, next: null });
    store.show({ words: 'moth' });
    await settle();
    wire.one('/api/intakes').flush({ intakes: page(7, 1), total: 1, sums: { items: 0, filed: 0, bytes: 0 }, next: null });
    expect(store.rows().map((row) => row!.id)).toEqual([8]);
    store.show({ words: 'x' });
    await settle();
    wire.one('/api/intakes').error(new ProgressEvent('error'));
    expect(store.problem()).toContain('does not answer');
    expect(store.rows()).toHaveLength(1);
  });
});
