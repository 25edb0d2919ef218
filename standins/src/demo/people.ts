/** The made-up house: Ostrel Bay Tidelands Trust, a nonprofit that restores salt marsh. */
import type { Body } from '../camera/camera.js';

export const HOUSE = 'Ostrel Bay Tidelands Trust';
export const ZONE = 'Europe/London';
/** The demonstration's clock starts here, whatever day it really is. */
export const DEMO_NOW = '2026-04-21T16:42:00Z';

export const ACCOUNTS = [
  { name: 'wren', password: 'hazel-and-reed', role: 'administrator' },
  { name: 'tomas', password: 'spring-tide-21', role: 'coordinator' },
  { name: 'noor', password: 'mud-and-lantern', role: 'helper' },
  { name: 'alder', password: 'quiet-creek-at-dawn', role: 'looker' },
] as const;

export const CONTRIBUTORS = [
  { code: 'IB', name: 'Ines Barrow' },
  { code: 'MS', name: 'Mateo Sorrel' },
  { code: 'JA', name: 'Junia Addo' },
  { code: 'HM', name: 'Halvard Moss' },
  { code: 'ST', name: 'Sefa Tuiasosopo' },
  { code: 'OB', name: 'Ola Brandt' },
  { code: 'PL', name: 'Priya Lind' },
  { code: 'TRO', name: 'Tomas Reed-Oka' },
  { code: 'JUA', name: 'June Aldwin', minor: true },
  { code: 'WC', name: 'Wren Castell' },
] as const;

/** Bodies by the contributor who carries them. Makes and models are invented. */
export const BODIES: Readonly<Record<string, Body & { readonly prefix: string; readonly folder: string }>> = {
  IB: { make: 'Halden', model: 'M4', serial: '40117732', prefix: 'HM4_', folder: '100HALDN' },
  MS: { make: 'Brisling', model: 'Field 7', serial: 'BF7-00931', prefix: 'BRF7', folder: '104BRISL' },
  JA: { make: 'Halden', model: 'M2', serial: '20093310', prefix: 'HM2_', folder: '101HALDN' },
  HM: { make: 'Corvane', model: 'K2 Mark II', serial: 'K2200418', prefix: 'CK2_', folder: '120CORVN' },
  ST: { make: 'Orrery', model: 'Cine 4', serial: 'OC4-7719', prefix: 'CLIP', folder: '100ORRCN' },
  OB: { make: 'Brisling', model: 'Pond', serial: 'BP-11870', prefix: 'POND', folder: '100BRISL' },
  PL: { make: 'Corvane', model: 'K1', serial: 'K1100762', prefix: 'CK1_', folder: '100CORVN' },
  TRO: { make: 'Halden', model: 'M4', serial: '40118859', prefix: 'HM4_', folder: '103HALDN' },
  JUA: { make: 'Lumenor', model: 'Pocket', serial: 'LP559012', prefix: 'LMPK', folder: '100LUMEN' },
  WC: { make: 'Orrery', model: 'Stills 9', serial: 'OS9-2204', prefix: 'OS9_', folder: '100ORRST' },
};

/** A season's assignments: one that runs all year, three that are over, four that cards are still coming in for. */
export const ASSIGNMENTS = [
  {
    title: 'Marsh diary',
    slug: 'marsh-diary',
    from: '2025-05-01',
    to: '2026-04-30',
    place: 'Everywhere',
    cards: 0,
    expected: [],
  },
  {
    title: 'Autumn open day',
    slug: 'open-day',
    from: '2025-10-11',
    to: '2025-10-11',
    place: 'Boathouse',
    cards: 5,
    expected: ['JUA', 'WC', 'IB', 'PL'],
  },
  {
    title: 'Winter wader survey',
    slug: 'wader-survey',
    from: '2025-11-08',
    to: '2026-02-21',
    place: 'North flats',
    cards: 9,
    expected: ['MS', 'OB', 'TRO'],
  },
  {
    title: 'Creek clean-up',
    slug: 'creek-clean-up',
    from: '2026-03-14',
    to: '2026-03-15',
    place: 'Gorse Creek',
    cards: 4,
    expected: ['JA', 'ST', 'PL', 'HM'],
  },
  {
    title: 'Spring bird count',
    slug: 'bird-count',
    from: '2026-04-04',
    to: '2026-04-19',
    place: 'North flats',
    cards: 6,
    expected: ['OB', 'MS', 'TRO', 'JA', 'PL'],
  },
  {
    title: 'Reed planting day',
    slug: 'reed-planting',
    from: '2026-04-18',
    to: '2026-04-18',
    place: 'Mallow Reach',
    cards: 5,
    expected: ['IB', 'JA', 'WC', 'JUA'],
  },
  {
    title: 'Night moth survey',
    slug: 'moth-survey',
    from: '2026-04-18',
    to: '2026-04-19',
    place: 'Saltern meadow',
    cards: 2,
    expected: ['MS'],
  },
  {
    title: 'Tide gate repair',
    slug: 'tide-gate',
    from: '2026-04-20',
    to: '2026-04-21',
    place: 'Tide gate 3',
    cards: 3,
    expected: ['HM', 'ST'],
  },
] as const;
