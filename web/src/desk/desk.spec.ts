import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, it } from '@jest/globals';
import type { Assignment, Desk, PlaceView } from '@tally/contract';
import { SessionService } from '../api/session.service';
import { INTAKE, render, SESSION, surroundings, type Wire } from '../testing/render';
import { CardTile } from './card-tile';
import { DeskPage } from './desk-page';
import { Expected } from './expected';
import { PlacesNow } from './places-now';

let wire: Wire;
beforeEach(() => {
  wire = surroundings();
  TestBed.inject(SessionService).check().subscribe();
  wire.one('/api/session').flush({ ...SESSION, now: new Date(Date.now()).toISOString() });
});
const now = () => new Date().toISOString();
const daysAgo = (days: number) => new Date(Date.now() - days * 86_400_000).toISOString();

describe('a card in its tray', () => {
  const tileText = async (change: object, progress?: object) =>
    (await render(CardTile, { intake: { ...INTAKE, receivedAt: now(), ...change }, ...(progress ? { progress } : {}) })).text();

  it('says whose it is, what it is, and how large', async () => {
    expect(await tileText({})).toContain('C-014do not pull: 2 taken are not filedInes BarrowHALDEN_M42 items, 4.30 MB');
    expect(await tileText({ contributor: null, card: { id: 1, label: null, volume: 'X' } })).toContain(
      'no labeldo not pull: 2 taken are not filedWho is this from?',
    );
  });

  it.each([
    [{ read: 1 }, 'read 1 of 2 items'],
    [{ alreadyFiled: 2 }, 'everything on it is already filed'],
    [{ receivedAt: daysAgo(2.5) }, 'waiting for 2 days'],
    [{ state: 'needs attention', tray: 'on the desk', note: 'The card was pulled.' }, 'The card was pulled.'],
    [{ state: 'tallied', tray: 'to give back', filed: 2 }, '2 tally'],
    [{ present: false }, 'not in a reader'],
    [{ present: false, letGo: 'done' }, 'may be pulled'],
  ])('%j: %s', async (change, words) => expect(await tileText(change)).toContain(words));

  it('shows progress while it is filed', async () => {
    const progress = {
      intakeId: 7,
      items: 2,
      itemsDone: 1,
      bytes: 1,
      bytesDone: 1,
      bytesPerSecond: 1,
      msLeft: 180_000,
      tallied: [],
      troubled: [],
    };
    expect(await tileText({ state: 'filing', tray: 'on the desk' }, progress)).toContain('filing: 1 of 2 proven, 3 min left');
  });
});

describe('still expected', () => {
  const assignment: Assignment = {
    retired: false,
    ...{
      id: 1,
      slug: 'bird-count',
      code: '',
      title: 'Spring bird count',
      from: '2026-04-04',
      to: '2026-04-19',
      place: 'North flats',
      expectedCards: 6,
      receivedCards: 4,
    },
    expected: ['Mateo Sorrel', 'Ola Brandt', 'Priya Lind', 'Junia Addo'].map((name, id) => ({ id, name, handedIn: false })),
  };

  it('a box for each card, filled when it came, and who is missing', async () => {
    const { element, text } = await render(Expected, { assignments: [assignment] });
    expect(text()).toContain('2 cards Spring bird count4 of 6'.replace('cards ', 'cards'));
    const boxes = [...element.querySelectorAll('rect')].map((box) => box.getAttribute('fill'));
    expect(boxes).toEqual(['currentColor', 'currentColor', 'currentColor', 'currentColor', 'none', 'none']);
    expect(text()).toContain('2 cards missing; not handed in: Mateo Sorrel, Ola Brandt and 2 others');
  });

  it('nothing outstanding is said', async () =>
    expect((await render(Expected, { assignments: [] })).text()).toContain('Nothing is outstanding.'));
});

describe('places', () => {
  const place = (change: Partial<PlaceView>): PlaceView => ({
    ...{
      id: 'shared',
      name: 'Shared drive',
      kind: 'shared drive',
      root: '/mnt/shared',
      required: true,
      fill: 'with the card',
      holds: { kinds: null, assignments: null },
      online: true,
      problem: null,
      asks: null,
    },
    ...{
      freeBytes: 1.84e12,
      totalBytes: 4e12,
      device: '8',
      copies: 12,
      bytes: 3e6,
      waiting: { copies: 0, bytes: 0, hoursAtRisk: 0 },
    },
    ...change,
  });

  it('say what is free, or what is wrong; and on how many devices they stand', async () => {
    const away = place({
      id: 'second',
      name: 'Second copy',
      online: false,
      problem: '/mnt/second is not there',
      asks: null,
      freeBytes: null,
      device: null,
    });
    const waiting = { copies: 3, bytes: 1e6, hoursAtRisk: 5 };
    const text = (await render(PlacesNow, { places: [place({ waiting }), away] })).text();
    expect(text).toContain('waits for 3 copies, at most 5 hours at risk');
    expect(text).toContain('1 of 2 here, 1 device');
    expect(text).toContain('1.84 TB free');
    expect(text).toContain('/mnt/second is not there');
  });

  it('say what is wrong with the backups to whoever answers for the house; nothing where nothing is', async () => {
    const problem = 'The last backup is 3 days old.';
    const { element } = await render(PlacesNow, { places: [place({})], backups: { lastAt: null, problem } });
    expect(element.querySelector('.attention')?.textContent).toBe(problem);
    const good = await render(PlacesNow, { places: [place({})], backups: { lastAt: now(), problem: null } });
    expect(good.element.querySelector('.attention')).toBeNull();
  });

  it('say that the logbook is being rebuilt, as long as it is', async () => {
    const { element } = await render(PlacesNow, { places: [place({})], rebuilding: true });
    expect(element.querySelector('.attention')?.textContent).toContain('being rebuilt from the drive');
  });
});

describe('the desk', () => {
  const DESK: Desk = {
    in: [INTAKE],
    onTheDesk: [],
    toGiveBack: [],
    handedIn: [],
    out: [],
    expected: [],
    places: [],
    backups: { lastAt: null, problem: null },
    rebuilding: false,
  };

  it('has an empty state that says what to do, and looks again when something happens', async () => {
    const { fixture, text } = await render(DeskPage);
    wire.one('/api/desk').flush({ ...DESK, in: [] });
    await fixture.whenStable();
    expect(text()).toContain('Put a card into a reader: it shows here within two seconds.');
    wire.events.next({ type: 'desk' });
    await new Promise((resolve) => setTimeout(resolve, 200));
    wire.one('/api/desk').flush(DESK);
    await fixture.whenStable();
    expect(text()).toContain('1 card handed in, not begun');
    expect(text()).toContain('Ines Barrow');
  });

  it('says in words when the server does not answer', async () => {
    const { fixture, element } = await render(DeskPage);
    wire.one('/api/desk').error(new ProgressEvent('error'));
    await fixture.whenStable();
    expect(element.querySelector('[role=alert]')!.textContent).toContain('Nothing is lost');
  });
});
