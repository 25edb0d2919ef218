/*
 * country: which countries there are.
 * In: a code.
 * Out: whether it is one, and what the country is called.
 * Standard: ISO 3166-1, as the package i18n-iso-countries keeps it.
 */
export { countryCodes, countryName, isCountry, threeLetters } from './country.js';
