/** Terms, locations, words, people and habits of the made-up house. Names of others say what belongs together. */

export const TERMS = [
  { name: 'Free for the house', stance: 'free for the house', sentence: 'The Trust may show it anywhere, with credit.' },
  { name: 'Ask the maker first', stance: 'ask first', sentence: 'Ask whoever took it before it goes anywhere.' },
  { name: 'Not to be shown', stance: 'not to be shown', sentence: 'For the archive only.' },
  {
    ...{ name: 'CC BY-SA 4.0', stance: 'open licence', web: 'https://creativecommons.org/licenses/by-sa/4.0/' },
    sentence: 'Anybody may use it, with credit and under the same licence.',
  },
  { name: 'Free until summer', stance: 'free for the house', sentence: 'Agreed for the spring season.', until: '2026-06-30' },
] as const;

export const LOCATIONS = [
  {
    name: 'Mallow Reach',
    part: 'East bank',
    town: 'Ostrel',
    region: 'Tidelands',
    country: 'GB',
    lat: 51.3381,
    lon: 0.8912,
    reachM: 900,
  },
  { name: 'North flats', part: '', town: 'Ostrel', region: 'Tidelands', country: 'GB', lat: 51.3617, lon: 0.9023, reachM: 2500 },
  {
    name: 'Gorse Creek',
    part: 'Upper creek',
    town: 'Ostrel',
    region: 'Tidelands',
    country: 'GB',
    lat: 51.3298,
    lon: 0.8644,
    reachM: 700,
  },
  {
    name: 'Boathouse',
    part: 'Slipway',
    town: 'Ostrel',
    region: 'Tidelands',
    country: 'GB',
    lat: 51.3342,
    lon: 0.8835,
    reachM: 150,
  },
  {
    name: 'Saltern meadow',
    part: '',
    town: 'Ostrel',
    region: 'Tidelands',
    country: 'GB',
    lat: 51.3411,
    lon: 0.8702,
    reachM: 500,
  },
] as const;

/** Words of a salt marsh: name, what it stands under, synonyms, Portuguese. */
export const WORDS: readonly (readonly [text: string, broader?: string, synonyms?: readonly string[], portuguese?: string])[] = [
  ['plants', undefined, ['flora'], 'plantas'],
  ['reeds', 'plants', ['common reed', 'phragmites'], 'caniço'],
  ['cordgrass', 'plants', ['spartina'], 'morraça'],
  ['glasswort', 'plants', ['samphire'], 'salicórnia'],
  ['sea lavender', 'plants', ['limonium'], 'limónio'],
  ['birds', undefined, [], 'aves'],
  ['waders', 'birds', ['shorebirds'], 'limícolas'],
  ['redshank', 'waders', [], 'perna-vermelha'],
  ['curlew', 'waders', [], 'maçarico-real'],
  ['herons', 'birds', ['grey heron'], 'garças'],
  ['terns', 'birds', [], 'gaivinas'],
  ['moths', undefined, [], 'traças'],
  ['water', undefined, [], 'água'],
  ['creek', 'water', ['tidal creek'], 'esteiro'],
  ['mud flat', 'water', ['mudflat', 'tidal flat'], 'lodaçal'],
  ['tide gate', 'water', ['sluice'], 'comporta'],
  ['work', undefined, [], 'trabalho'],
  ['planting', 'work', [], 'plantação'],
  ['clean-up', 'work', ['litter pick'], 'limpeza'],
  ['survey', 'work', ['count'], 'levantamento'],
  ['volunteers', undefined, ['helpers'], 'voluntários'],
];

export const PICTURED = [
  { name: 'Tilda Marsh', consent: 'yes', purpose: 'newsletter and web' },
  { name: 'Corin Reeve', consent: 'no', notes: 'Asked on the open day not to be shown anywhere.' },
  { name: 'Amaya Fenn', consent: 'yes', until: '2026-03-31', purpose: 'open day only' },
  { name: 'Dario Lock', consent: 'ask' },
] as const;

/** Who is shown in earlier pictures: the card by its label, and which of its pictures. */
export const SHOWN = [
  { label: 'C-014', pictures: [1, 2], name: 'Corin Reeve' },
  { label: 'C-014', pictures: [0], name: 'Tilda Marsh' },
] as const;

const at = (place: string) => ({ email: `${place}@ostrelbay.example`, inside: ['phone', 'address'] as const });

/** What the house knows of its people beyond name and code. */
export const ABOUT = {
  IB: { ...at('ines'), given: 'Ines', family: 'Barrow', kind: 'volunteer', phone: '01632 960101', terms: 'Free for the house' },
  MS: { ...at('mateo'), given: 'Mateo', family: 'Sorrel', kind: 'volunteer', terms: 'Ask the maker first' },
  JA: {
    ...at('junia'),
    given: 'Junia',
    family: 'Addo',
    kind: 'volunteer',
    terms: 'CC BY-SA 4.0',
    web: 'https://junia.example/pictures',
  },
  HM: { ...at('halvard'), given: 'Halvard', family: 'Moss', kind: 'staff', creditLine: '{house}', terms: 'Free for the house' },
  ST: { ...at('sefa'), given: 'Sefa', family: 'Tuiasosopo', kind: 'stringer', terms: 'Free until summer' },
  PL: { ...at('priya'), given: 'Priya', family: 'Lind', kind: 'pupil', notes: 'Marsh school, form 9. Her parents signed.' },
  WC: { ...at('wren.castell'), given: 'Wren', family: 'Castell', kind: 'staff', terms: 'Free for the house' },
} as const;

export const AGREEMENTS = [
  { of: 'IB', what: 'Photographs for the Trust', signedOn: '2025-04-02', until: null },
  { of: 'ST', what: 'Stringer for the spring season', signedOn: '2026-01-15', until: '2026-06-30' },
  { of: 'PL', what: 'Consent of parents to hand in', signedOn: '2025-03-01', until: '2026-03-31' },
  { of: 'JA', what: 'Open licence for all pictures', signedOn: '2025-05-20', until: null },
] as const;

/** What assignments say of everything that is shot for them. */
export const OF_ASSIGNMENTS = {
  'reed-planting': {
    ...{ location: 'Mallow Reach', words: ['reeds', 'planting', 'volunteers'] },
    ...{ description: 'Volunteers plant reeds along the new bank.', contacts: 'Halvard Moss, warden, at the boathouse' },
  },
  'bird-count': { location: 'North flats', words: ['birds', 'survey'], description: 'Counts of waders and herons at low tide.' },
  'moth-survey': { location: 'Saltern meadow', words: ['moths', 'survey'] },
  'tide-gate': { words: ['tide gate'], embargoUntil: '2026-05-15', description: 'Not before the council has seen it.' },
} as const;

/** What slips say by themselves. */
export const HABITS = [
  { name: 'Junia’s bird pictures', belongs: 'contributor', of: 'JA', answers: { credit: 'Junia Addo', words: ['herons'] } },
  { name: 'Planting days', belongs: 'assignment', of: 'reed-planting', answers: { terms: 'Free for the house' } },
  { name: 'Everything of the Trust', belongs: 'house', of: '', answers: { copyright: '© {year} {contributor.name}' } },
] as const;
