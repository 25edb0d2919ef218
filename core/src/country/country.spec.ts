import { expect, it } from '@jest/globals';
import { countryCodes, countryName, isCountry } from './index.js';

// ISO 3166-1 alpha-2 (the Online Browsing Platform of ISO; from memory): what is assigned and what is not.
it('knows the codes of ISO 3166-1, and those that are none', () => {
  expect(['PT', 'GB', 'NL', 'IE'].map(isCountry)).toEqual([true, true, true, true]);
  expect(['UK', 'EU', 'AA', 'ZZ', 'pt', 'PRT', ''].map(isCountry)).toEqual([false, false, false, false, false, false, false]);
  expect(countryName('PT')).toBe('Portugal');
  expect(countryCodes().length).toBeGreaterThan(240);
});
