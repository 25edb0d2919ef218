import { describe, expect, it } from '@jest/globals';
import { daysForgotten, dueAfter, loanStanding, nextTray, TRAYS, whyNotTo, type CardStanding } from './index.js';

const card = (
  tray: CardStanding['tray'],
  state: 'open' | 'filing' | 'tallied' | 'needs attention' | 'closed' | null,
  taken = 0,
) => ({ tray, intake: state && { state, taken } }) as CardStanding;

describe('a card leaves *in* only through the whole process', () => {
  it('no way leads from in to out, or to give back, in one move', () => {
    for (const state of [null, 'open', 'filing', 'tallied', 'needs attention', 'closed'] as const) {
      expect(whyNotTo(card('in', state), 'to give back')).not.toBeNull();
      expect(whyNotTo(card('in', state), 'out')).not.toBeNull();
      expect(whyNotTo(card('on the desk', state), 'out')).not.toBeNull();
    }
  });

  it.each([
    ['handed in and read: onto the desk', card('in', 'open', 5), 'on the desk', null],
    ['handed in, not read', card('in', null), 'on the desk', 'It was not read yet: put it into a reader.'],
    ['taken, not filed', card('on the desk', 'open', 5), 'to give back', '5 taken and not filed: file them, or leave them.'],
    ['everything left', card('on the desk', 'open'), 'to give back', null],
    ['being filed', card('on the desk', 'filing'), 'to give back', 'It is being filed: wait until its copies tally.'],
    ['a copy differs', card('on the desk', 'needs attention'), 'to give back', 'Not all of its copies tally.'],
    ['proven', card('on the desk', 'tallied'), 'to give back', null],
    ['to its owner', card('to give back', 'tallied'), 'out', null],
    ['once more onto the desk', card('to give back', 'tallied'), 'on the desk', null],
    ['not back to in', card('to give back', 'tallied'), 'in', 'It was filed: put it on the desk to look at it again.'],
    ['put off', card('on the desk', 'open', 5), 'in', null],
    ['not put off once filing began', card('on the desk', 'filing'), 'in', 'Its filing has begun: it stays on the desk.'],
    ['handed in', card('out', 'closed'), 'in', null],
    ['out is not on the desk', card('out', 'closed'), 'on the desk', 'It is out: hand it in first.'],
    ['out is out', card('out', null), 'to give back', 'It is out already.'],
  ] as const)('%s', (_name, from, to, why) => {
    expect(whyNotTo(from, to)).toBe(why);
  });

  it('where it lies it may stay', () => {
    for (const tray of TRAYS) expect(whyNotTo(card(tray, null), tray)).toBeNull();
  });

  it('a scan at the counter hands in what is out, and gives back what is done', () => {
    expect(TRAYS.map((tray) => nextTray(card(tray, 'open')))).toEqual([null, null, 'out', 'in']);
  });
});

describe('a loan', () => {
  it.each([
    ['2026-04-20', '2026-04-21', 'overdue', 1],
    ['2026-04-21', '2026-04-21', 'due today', 0],
    ['2026-04-22', '2026-04-21', 'out', 0],
    // Over a change of clocks (last Sunday of March, Directive 2000/84/EC, from memory), and a leap day.
    ['2026-03-28', '2026-03-30', 'overdue', 2],
    ['2028-02-28', '2028-03-01', 'overdue', 2],
    [null, '2026-04-21', 'out', 0],
  ])('due %s is on %s: %s, %s late', (due, today, standing, daysLate) => {
    expect(loanStanding(due, today)).toEqual({ standing, daysLate });
  });

  it('is due so many days later, over the end of a month and a change of clocks', () => {
    expect(dueAfter('2026-03-25', 7)).toBe('2026-04-01');
    expect(dueAfter('2026-12-30', 3)).toBe('2027-01-02');
    expect(dueAfter('2026-04-21', 0)).toBe('2026-04-21');
  });
});

it('a card is forgotten once it lay for a day', () => {
  const now = new Date('2026-04-21T16:42:00Z');
  expect(daysForgotten(new Date('2026-04-20T16:43:00Z'), now)).toBe(0);
  expect(daysForgotten(new Date('2026-04-20T16:42:00Z'), now)).toBe(1);
  expect(daysForgotten(new Date('2026-04-18T10:00:00Z'), now)).toBe(3);
  expect(daysForgotten(new Date('2026-04-22T10:00:00Z'), now)).toBe(0);
});
