import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, it } from '@jest/globals';
import type { PlaceView } from '@tally/contract';
import { deedsOf } from '@tally/core/rights';
import { SessionService } from '../api/session.service';
import { render, SESSION, surroundings, type Wire } from '../testing/render';
import { KnownDialog } from './known-dialog';
import { PlaceBoard } from './place-board';

const PLACE: PlaceView = {
  ...{ id: 'shared', name: 'Shared drive', kind: 'shared drive', root: '/mnt/shared', required: true, fill: 'with the card' },
  ...{ holds: { kinds: null, assignments: null }, online: false, freeBytes: null, totalBytes: null, device: null },
  problem:
    '/mnt/shared carries the mark of “Shared drive” of “Ostrel Bay Tidelands Trust”, another house or an earlier life of this one',
  ...{ asks: 'another mark', copies: 1_204, bytes: 3e9, waiting: { copies: 0, bytes: 0, hoursAtRisk: 0 } },
};

let wire: Wire;
const signedIn = (role: 'administrator' | 'helper') => {
  wire = surroundings();
  TestBed.inject(SessionService).check().subscribe();
  wire
    .one('/api/session')
    .flush({ ...SESSION, person: { ...SESSION.person, role }, may: deedsOf(role), now: new Date().toISOString() });
};

describe('a drive that carries another mark', () => {
  beforeEach(() => signedIn('administrator'));
  const buttonOf = (element: HTMLElement, words: string) =>
    [...element.ownerDocument.querySelectorAll('button')].find((one) => one.textContent.includes(words))!;

  it('is asked about where something stands there; not where nothing does', async () => {
    const asked = await render(PlaceBoard, { place: PLACE });
    expect(asked.text()).toContain('Away: /mnt/shared carries the mark of “Shared drive”');
    expect(buttonOf(asked.element, 'This is that drive…').style.display).toBe('');
    const gone = await render(PlaceBoard, { place: { ...PLACE, problem: '/mnt/shared is not there', asks: null } });
    expect(gone.text()).not.toContain('This is that drive');
  });

  it('is taken knowingly, and said to be here; why not is said in the dialog', async () => {
    const { element, fixture } = await render(KnownDialog, { place: PLACE });
    let done = 0;
    fixture.componentInstance.done.subscribe(() => done++);
    const page = () => element.ownerDocument.body.textContent.replace(/\s+/g, ' ');
    expect(page()).toContain('The logbook has 1,204 copies at Shared drive.');
    expect(page()).toContain('A house that still uses this drive will find it away');
    buttonOf(element, 'It is Shared drive').click();
    wire
      .one('/api/places/shared/known')
      .flush({ title: 'It is the drive of Second copy.' }, { status: 409, statusText: 'Conflict' });
    await fixture.whenStable();
    expect(page()).toContain('It is the drive of Second copy.');
    expect(done).toBe(0);
    buttonOf(element, 'It is Shared drive').click();
    wire.one('/api/places/shared/known').flush({ before: 'it carried no mark' });
    expect(wire.said).toEqual(['Shared drive is here. Check it to compare it with the logbook.']);
    expect(done).toBe(1);
  });

  it('offers a new house to be rebuilt from it, with the other drives that carry another mark', async () => {
    const { element, fixture } = await render(KnownDialog, { place: { ...PLACE, copies: 0 }, others: ['second'] });
    const page = () => element.ownerDocument.body.textContent.replace(/\s+/g, ' ');
    expect(page()).toContain('Looking whether a logbook can be rebuilt from it');
    wire.one('/api/rebuild').flush({
      ...{ empty: true, going: false, houseName: 'Ostrel Bay Tidelands Trust', intakes: 49, newest: '2026-0049' },
      ...{ hasHouseRecord: true, others: 2 },
    });
    await fixture.whenStable();
    expect(page()).toContain('49 intakes of Ostrel Bay Tidelands Trust, the last one 2026-0049');
    expect(page()).toContain('2 intakes of other houses stay as they are');
    buttonOf(element, 'Rebuild 49 intakes').click();
    const asked = wire.one('/api/rebuild');
    expect(asked.request.body).toEqual({ placeIds: ['shared', 'second'] });
    asked.flush({ intakes: 49 });
    expect(wire.said).toEqual(['The logbook is being rebuilt: 49 intakes. It goes on by itself.']);
  });

  it('where there is nothing to rebuild from, or the house is not new, it is asked as before', async () => {
    for (const answer of [{ empty: false, intakes: 0 }, null]) {
      const { element, fixture } = await render(KnownDialog, { place: { ...PLACE, copies: 0 } });
      const asked = wire.one('/api/rebuild');
      if (answer) asked.flush({ ...answer, going: false, houseName: '', newest: null, hasHouseRecord: false, others: 0 });
      else asked.flush({ title: 'No record of an intake stands there' }, { status: 404, statusText: 'Not found' });
      await fixture.whenStable();
      expect(buttonOf(element, 'Rebuild')).toBeUndefined();
      expect(buttonOf(element, 'It is Shared drive').disabled).toBe(false);
      fixture.destroy();
    }
  });

  it('of one without a mark it is said what to look for', async () => {
    const { element } = await render(KnownDialog, { place: { ...PLACE, asks: 'no mark' } });
    expect(element.ownerDocument.body.textContent.replace(/\s+/g, ' ')).toContain('Be sure that the drive is mounted there');
  });
});

describe('whoever may not say what holds for the house', () => {
  it('is not asked', async () => {
    signedIn('helper');
    const { element } = await render(PlaceBoard, { place: PLACE });
    const button = [...element.querySelectorAll('button')].find((one) => one.textContent.includes('This is that drive'))!;
    expect(button.style.display).toBe('none');
  });
});
