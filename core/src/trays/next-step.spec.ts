import { describe, expect, it } from '@jest/globals';
import { nextStep, type CardNow } from './index.js';

const CARD: CardNow = {
  ...{ state: 'open', tray: 'in', present: true, cleared: false, items: 44, read: 44, taken: 44 },
  ...{ alreadyFiled: 0, comparing: 0, saysWho: true, saysWhat: true, handedIn: false },
};

describe('the next step of a card', () => {
  it.each<[string, Partial<CardNow>, number]>([
    ['file 44', {}, 1],
    ['say whose it is', { saysWho: false, saysWhat: false }, 1],
    ['say what it is', { saysWhat: false }, 1],
    ['being read', { read: 3 }, 2],
    ['put it into a reader', { present: false }, 1],
    ['nothing new is on it: give it back', { alreadyFiled: 44, taken: 0 }, 1],
    ['being compared with what is filed', { comparing: 3 }, 2],
    ['take something, or give it back', { taken: 0 }, 1],
    ['nothing is on it: pull it out', { items: 0, read: 0, taken: 0 }, 1],
    ['see what is in the way', { state: 'needs attention', tray: 'on the desk' }, 0],
    ['put it back into a reader: filing goes on', { state: 'needs attention', present: false }, 0],
    ['being filed', { state: 'filing', tray: 'on the desk' }, 2],
    ['clear it, or pull it out and give it back', { state: 'tallied', tray: 'to give back' }, 1],
    ['pull it out, give it back', { state: 'tallied', tray: 'to give back', cleared: true }, 1],
    ['nothing to give back: it is done', { state: 'tallied', tray: 'to give back', handedIn: true }, 1],
    ['give it back', { state: 'tallied', tray: 'to give back', present: false }, 1],
  ])('%s', (words, card, urgency) => {
    expect(nextStep({ ...CARD, ...card })).toEqual({ words, urgency });
  });
});
