import countries from 'i18n-iso-countries/index.js';
import english from 'i18n-iso-countries/langs/en.json' with { type: 'json' };

countries.registerLocale(english as Parameters<typeof countries.registerLocale>[0]);

/** Is it a code of ISO 3166-1 with two letters? */
export const isCountry = (code: string): boolean => /^[A-Z]{2}$/.test(code) && countries.isValid(code);

/** What a country is called in English; null for an unknown code. */
export const countryName = (code: string): string | null => countries.getName(code, 'en', { select: 'official' }) ?? null;

/** All codes with the names of their countries, by name. */
export const countryCodes = (): { code: string; name: string }[] =>
  Object.entries(countries.getNames('en', { select: 'official' }))
    .map(([code, name]) => ({ code, name }))
    .sort((a, b) => a.name.localeCompare(b.name, 'en'));
