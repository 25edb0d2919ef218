import type { RuleSource } from './house-rule.js';

/** A habit that many houses have, to begin a rule with. */
export interface Starter {
  readonly id: string;
  readonly title: string;
  readonly says: string;
  readonly rule: RuleSource;
}

/** Common practice, no source. Where a habit's names could meet, a number that only appears then tells them apart. */
export const STARTERS: readonly Starter[] = [
  {
    id: 'months-and-days',
    title: 'Months, then days',
    says: 'A folder for each day with the short name of the assignment, in months, in years.',
    rule: {
      folderLine: '{captured:yyyy}/{captured:yyyy-MM}/{captured:yyyy-MM-dd}_{assignment.slug}',
      fileLine: '{captured:yyyyMMdd}_{contributor.code}_{n:0000}',
    },
  },
  {
    id: 'unique-everywhere',
    title: 'Names that no other file of the house has',
    says: 'One counter for the whole house: a name stays unique wherever a file is moved. It costs long numbers that say nothing of the day, and every card waits for the one counter.',
    rule: {
      folderLine: '{captured:yyyy}/{captured:yyyy-MM}/{captured:yyyy-MM-dd}_{assignment.slug}',
      fileLine: '{captured:yyyyMMdd}_{contributor.code}_{n:000000}',
      settings: { sequence: { scope: 'never ends', start: 1 } },
    },
  },
  {
    id: 'months-with-events',
    title: 'Month folders with event words',
    says: 'One folder an event in its month, so that any word of its title finds it.',
    rule: {
      folderLine: '{captured:yyyy-MM}/{captured:yyyy-MM-dd} {assignment.title}',
      fileLine: '{captured:yyyy-MM-dd_HHmmss}_{n:0000}',
    },
  },
  {
    id: 'academic-year',
    title: 'Academic year, month, event',
    says: 'A school year that begins in September, its months, its events.',
    rule: {
      folderLine: '{season}/{captured:yyyy-MM}/{captured:dd}_{assignment.slug}',
      fileLine: '{captured:yyyyMMdd}_{contributor.code}_{n:000}',
      settings: { season: { startMonth: 9, label: 'yyyy-YYYY' } },
    },
  },
  {
    id: 'numbers-only',
    title: 'Year and month in numbers',
    says: 'Twelve folders a year; the capture time to the second is the name.',
    rule: { folderLine: '{captured:yyyy}/{captured:MM}', fileLine: '{captured:dd_HHmmss}_{n:0000}' },
  },
  {
    id: 'quarters',
    title: 'Quarters',
    says: 'Four folders a year, the assignment in the name.',
    rule: {
      folderLine: '{captured:yyyy}-{quarter}',
      fileLine: '{captured:yyyyMMdd}_{assignment.slug}_{n:0000}',
    },
  },
  {
    id: 'date-and-camera',
    title: 'Date and camera',
    says: "A folder a day and camera; numbers run on for each camera's day.",
    rule: {
      folderLine: '{captured:yyyy}/{captured:yyyy-MM-dd}_{camera:slug}',
      fileLine: '{captured:yyyyMMdd-HHmmss}_{n:0000}',
    },
  },
  {
    id: 'production',
    title: 'Production, day, camera, operator, card',
    says: 'For footage: every part of a shooting day has its folder, and in it the card stands as it is, with its own folders and names.',
    rule: {
      folderLine: '{assignment.slug}/{captured:yyyy-MM-dd}/{camera:slug}/{contributor.code}',
      fileLine: '{n:0000}_{original}',
      settings: {
        asOnCard: {
          card: true,
          folderLine: '{assignment.slug}/{captured:yyyy-MM-dd}/{camera:slug}/{contributor.code}/{card.label:slug}_{intake}',
        },
      },
    },
  },
  {
    id: 'surname-date-number',
    title: "Surname, date, camera's own number",
    says: 'Names that contributors know from their own camera; a second one of the same name gets a number.',
    rule: {
      folderLine: '{captured:yyyy}/{captured:yyyy-MM}',
      fileLine: '{contributor.surname:slug}_{captured:yyyyMMdd}_{original.number}[-{n}]',
      settings: { sequence: { scope: 'same name', start: 1 } },
    },
  },
  {
    id: 'initials-number',
    title: 'Initials and three digits',
    says: 'The shortest names: one folder an assignment, initials, a number.',
    rule: {
      folderLine: '{captured:yyyy-MM-dd}_{assignment.slug}',
      fileLine: '{contributor.code:lower}_{n:000}',
    },
  },
];
