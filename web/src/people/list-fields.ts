import type { HouseListName } from '@tally/contract';
import { consentOf, CONSENTS, licenceAt, type Pictured, STANCES, type Terms, termsStanding } from '@tally/core/credit';

/** One thing that an entry says: how it is asked for and shown. */
export interface Field {
  readonly name: string;
  readonly words: string;
  readonly as: 'line' | 'text' | 'day' | 'number' | 'one of' | 'country';
  readonly options?: readonly string[];
  readonly hint?: string;
  readonly max?: number;
}

/** A list of the house: what its entries are called, what each says, and what is seen of it in a row. */
export interface ListKind {
  readonly one: string;
  readonly empty: string;
  readonly fields: readonly Field[];
  readonly columns: readonly {
    readonly words: string;
    /** @param today `yyyy-MM-dd` */
    readonly of: (entry: Entry, today: string) => string;
    readonly width?: string;
  }[];
  /** Is an entry to be noticed? */
  readonly marked?: (entry: Entry, today: string) => boolean;
}

export type Entry = Readonly<Record<string, unknown>> & {
  readonly id: number;
  readonly name: string;
  readonly retired: boolean;
  readonly revision: number;
};

const text = (entry: Entry, name: string): string => {
  const value = entry[name];
  if (value === null || value === undefined) return '';
  return typeof value === 'string' ? value : JSON.stringify(value);
};

/** What an entry comes to today, if that is not what it says: a yes that has run out is a question again. */
const consentNow = (entry: Entry, today: string): string => {
  const { consent } = consentOf(entry as unknown as Pictured, today);
  return consent === entry['consent'] ? consent : `ended: ${consent}`;
};
const stanceNow = (entry: Entry, today: string): string => {
  const { stance } = termsStanding(entry as unknown as Terms, today);
  return stance === entry['stance'] ? stance : `ended: ${stance}`;
};

export const LIST_KINDS: Readonly<Record<Exclude<HouseListName, 'habits'>, ListKind>> = {
  terms: {
    one: 'terms',
    empty: 'No terms yet: say what may be done with pictures, and give it a name.',
    fields: [
      { name: 'name', words: 'Name', as: 'line', max: 80 },
      { name: 'stance', words: 'Comes to', as: 'one of', options: STANCES },
      { name: 'sentence', words: 'In the house’s own words', as: 'text', max: 500 },
      { name: 'web', words: 'Address of an open licence', as: 'line', max: 300, hint: 'https://…' },
      { name: 'until', words: 'Until', as: 'day' },
    ],
    columns: [
      { words: 'Name', of: (entry) => entry.name, width: '19%' },
      { words: 'Comes to', of: stanceNow, width: '16%' },
      { words: 'In words', of: (entry) => text(entry, 'sentence') },
      { words: 'Licence', of: (entry) => licenceAt(text(entry, 'web')) ?? text(entry, 'web'), width: '12%' },
      { words: 'Until', of: (entry) => text(entry, 'until'), width: '110px' },
    ],
    marked: (entry, today) => /^(not|ended)/.test(stanceNow(entry, today)),
  },
  locations: {
    one: 'location',
    empty: 'No location yet: add where your people photograph.',
    fields: [
      { name: 'name', words: 'Name', as: 'line', max: 120 },
      { name: 'part', words: 'Part', as: 'line', max: 120 },
      { name: 'town', words: 'Town', as: 'line', max: 120 },
      { name: 'region', words: 'Region', as: 'line', max: 120 },
      { name: 'country', words: 'Country', as: 'country' },
      { name: 'lat', words: 'Degrees north', as: 'number', hint: '51.3381' },
      { name: 'lon', words: 'Degrees east', as: 'number', hint: '0.8912' },
      { name: 'reachM', words: 'Reaches, in metres', as: 'number', hint: '1000' },
    ],
    columns: [
      { words: 'Name', of: (entry) => entry.name, width: '19%' },
      { words: 'Part', of: (entry) => text(entry, 'part'), width: '13%' },
      { words: 'Town', of: (entry) => text(entry, 'town'), width: '11%' },
      { words: 'Region', of: (entry) => text(entry, 'region'), width: '11%' },
      { words: 'Country', of: (entry) => text(entry, 'country'), width: '72px' },
      {
        words: 'Position and reach',
        of: (entry) => (entry['lat'] === null ? '' : `${text(entry, 'lat')}, ${text(entry, 'lon')} · ${text(entry, 'reachM')} m`),
      },
    ],
  },
  pictured: {
    one: 'person',
    empty: 'Nobody yet: whoever is named in a picture stands here, with what they said to that.',
    fields: [
      { name: 'name', words: 'Name', as: 'line', max: 120 },
      { name: 'consent', words: 'May be shown', as: 'one of', options: CONSENTS },
      { name: 'until', words: 'Until', as: 'day' },
      { name: 'purpose', words: 'What for', as: 'line', max: 200 },
      { name: 'notes', words: 'Notes', as: 'text', max: 2000 },
    ],
    columns: [
      { words: 'Name', of: (entry) => entry.name, width: '24%' },
      { words: 'May be shown', of: consentNow, width: '120px' },
      { words: 'Until', of: (entry) => text(entry, 'until'), width: '110px' },
      { words: 'What for', of: (entry) => text(entry, 'purpose'), width: '22%' },
      { words: 'Notes', of: (entry) => text(entry, 'notes') },
      { words: 'Items', of: (entry) => text(entry, 'items'), width: '72px' },
    ],
    marked: (entry, today) => /^(no|ended)/.test(consentNow(entry, today)),
  },
};
