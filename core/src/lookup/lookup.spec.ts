import { describe, expect, it } from '@jest/globals';
import { objectsOf } from '../card/index.js';
import { faultOfCreditLine, fillCreditLine } from '../credit/index.js';
import { veiled } from '../rights/index.js';
import { checkFormat, EXAMPLE, FIELDS, ruleOf, seasonOf, settingsOf } from '../rule/index.js';
import { own } from './index.js';

/** Words that every object knows by itself: whoever writes one means nothing by it. */
const BY_ITSELF = Object.getOwnPropertyNames(Object.prototype);

describe.each(BY_ITSELF)('a word from outside that every object knows: %s', (word) => {
  it('is in no table', () => {
    expect(own({}, word)).toBeUndefined();
    expect(own(JSON.parse(`{"${word}":1}`) as Record<string, number>, word)).toBe(1);
  });
  it('is no field of a credit line', () => {
    expect(faultOfCreditLine(`{${word}}`)).toMatch(/knows no field/);
    expect(fillCreditLine(`{${word}}`, { contributor: null, house: 'Trust', assignment: null, year: null })).toBe('');
  });
  it('is no way to write text', () => expect(checkFormat('text', word)).toMatch(/not as/));
  it('is no word of a season', () =>
    expect(seasonOf('2026-05-18T00:00:00', { startMonth: 1, label: `yyyy'${word}'` })).toBe(`2026${word}`));
  it('is no language', () =>
    expect(() => ruleOf({ folderLine: '{captured:yyyy}', fileLine: '{original}', settings: { language: word } })).toThrow(
      /not in/,
    ));
  it('is a camera like any other', () => {
    const camera = FIELDS.find(({ name }) => name === 'camera')!;
    expect(camera.value({ ...EXAMPLE, camera: { make: null, model: word } }, settingsOf({}))).toBe(word);
  });
  it('is an extension like any other', () => {
    const told = (ext: string) => [...objectsOf([{ path: `DCIM/100HALDN/A_0001.JPG` }, { path: `DCIM/100HALDN/A_0001.${ext}` }])];
    expect(told(word).map(([, one]) => one.role)).toEqual(told('xyz').map(([, one]) => one.role));
  });
  it('hides nothing from anybody', () => {
    const answer: unknown = JSON.parse(`{"${word}":false}`);
    expect(JSON.stringify(veiled(answer))).toBe(JSON.stringify(answer));
  });
});
