import countries from 'i18n-iso-countries/index.js';

const names = new Intl.DisplayNames(['en'], { type: 'region', fallback: 'none' });

/** Is it a code of ISO 3166-1 with two letters? */
export const isCountry = (code: string): boolean => /^[A-Z]{2}$/.test(code) && countries.isValid(code);

/** What a country is called in English (Unicode CLDR, by the platform); null for an unknown code. */
export const countryName = (code: string): string | null => (isCountry(code) ? (names.of(code) ?? code) : null);

/** All codes with the names of their countries, by name. */
export const countryCodes = (): { code: string; name: string }[] =>
  Object.keys(countries.getAlpha2Codes())
    .map((code) => ({ code, name: countryName(code) ?? code }))
    .sort((a, b) => a.name.localeCompare(b.name, 'en'));

/** The code with three letters for the one with two; '' for an unknown one. */
export const threeLetters = (code: string): string => (isCountry(code) ? (countries.alpha2ToAlpha3(code) ?? '') : '');
