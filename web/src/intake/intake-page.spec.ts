import { TestBed } from '@angular/core/testing';
import { describe, expect, it } from '@jest/globals';
import { INTAKE, item, render, surroundings } from '../testing/render';
import { IntakePage } from './intake-page';

describe('one intake opened from another', () => {
  it('has a store of its own: nothing of the one before stays, and nothing is sent twice', async () => {
    const wire = surroundings();
    const { fixture, element, text } = await render(IntakePage, { id: '7' });
    const answer = (id: number, label: string, path: string) => {
      wire.one(`/api/intakes/${id}`).flush({ ...INTAKE, id, card: { ...INTAKE.card, label } });
      wire.one(`/api/intakes/${id}/items`).flush({ version: 1, items: [item(id, { path, leader: path })] });
    };
    answer(7, 'C-014', 'DCIM/SEVEN.JPG');
    await fixture.whenStable();
    expect(text()).toContain('Card C-014');

    fixture.componentRef.setInput('id', '8');
    await fixture.whenStable();
    // Before the new one has answered nothing of the old one is shown under the new slip.
    expect(text()).not.toContain('C-014');
    answer(8, 'C-015', 'DCIM/EIGHT.JPG');
    await fixture.whenStable();
    expect(text()).toContain('Card C-015');
    expect(element.querySelectorAll('ts-slip')).toHaveLength(1);

    // What is said of the new one is said once, and to the new one.
    wire.http.match(() => true);
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'n', bubbles: true }));
    await fixture.whenStable();
    const sent = wire.http.match((request) => request.method === 'PATCH').map(({ request }) => request.url);
    expect(sent).toEqual(['/api/intakes/8/taken']);
    // An event about the old one is nobody's any more.
    wire.http.match(() => true);
    wire.events.next({ type: 'intake', intakeId: 7 });
    expect(wire.http.match((request) => request.url.startsWith('/api/intakes/7'))).toEqual([]);
    wire.events.next({ type: 'again' });
    expect(wire.http.match((request) => request.url === '/api/intakes/8')).toHaveLength(1);
    TestBed.resetTestingModule();
  });
});
