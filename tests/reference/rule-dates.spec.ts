import { describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { zoneOffsetMinutes } from '@tally/core/capture';
import { EXAMPLE, LANGUAGES, nameItems, ruleOf, seasonOf, slug } from '@tally/core/rule';

/** What a rule writes for a date, by way of a whole name. */
function written(pattern: string, captured: string, language = 'en'): string {
  const rule = ruleOf({ folderLine: '', fileLine: `{captured:${pattern}}`, settings: { language } });
  return nameItems(rule, [{ ...EXAMPLE, captured }])[0]!.name.replace(/\.jpg$/, '');
}

/** The same pseudo-random numbers every time: a linear congruential generator (Numerical Recipes, from memory). */
function* numbers(seed: number): Generator<number> {
  for (let state = seed; ;) {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    yield state / 2 ** 32;
  }
}

const random = numbers(20260418);
const below = (limit: number) => Math.floor(random.next().value! * limit);
const moment = () => new Date(Date.UTC(1970 + below(120), below(12), 1 + below(28), below(24), below(60), below(60)));
const local = (date: Date) => date.toISOString().slice(0, 19);

// Source: Unicode CLDR as ICU has it in this Node.js, by Intl.DateTimeFormat; UTS #35 part 4, Date Format Patterns.
describe('date patterns against ICU', () => {
  const parts = (language: string, options: Intl.DateTimeFormatOptions) =>
    new Intl.DateTimeFormat(language === 'en' ? 'en-GB' : language, { timeZone: 'UTC', ...options });
  const part = (format: Intl.DateTimeFormat, date: Date, type: Intl.DateTimeFormatPartTypes) =>
    format.formatToParts(date).find((one) => one.type === type)!.value;

  it('digits, for 10,000 random dates', () => {
    const format = parts('en', {
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
      hourCycle: 'h23',
    });
    for (let i = 0; i < 10_000; i++) {
      const date = moment();
      const [y, mo, d, h, mi, s] = (['year', 'month', 'day', 'hour', 'minute', 'second'] as const).map((type) =>
        part(format, date, type),
      );
      expect(written('yyyy-MM-dd HHmmss', local(date))).toBe(`${y}-${mo}-${d} ${h}${mi}${s}`);
    }
  });

  // What stands in a file name is mended: ICU's words are compared without dots at their ends.
  it.each(Object.keys(LANGUAGES))('names of months and days in %s', (language) => {
    const long = parts(language, { weekday: 'long', day: 'numeric', month: 'long', year: 'numeric' });
    for (let month = 0; month < 12; month++) {
      const date = new Date(Date.UTC(2026, month, 1 + month, 12));
      expect(written('MMMM', local(date), language)).toBe(part(long, date, 'month'));
      expect(written('EEEE', local(date), language)).toBe(part(long, date, 'weekday'));
    }
  });

  it('hours of a twelve-hour clock, and quarters', () => {
    const twelve = parts('en', { hour: 'numeric', hourCycle: 'h12' });
    for (let hour = 0; hour < 24; hour++) {
      const date = new Date(Date.UTC(2026, 3, 18, hour));
      expect(written('h', local(date))).toBe(part(twelve, date, 'hour'));
    }
    expect(
      [1, 3, 4, 6, 7, 9, 10, 12].map((month) => written('QQQ', `2026-${String(month).padStart(2, '0')}-15T12:00:00`)),
    ).toEqual(['Q1', 'Q1', 'Q2', 'Q2', 'Q3', 'Q3', 'Q4', 'Q4']);
  });
});

// Source: GNU coreutils date, %G week year, %V ISO week, %j day of the year.
describe('weeks and days of the year against GNU date', () => {
  it('every day around the ends of forty years', () => {
    const days: string[] = [];
    for (let year = 2000; year < 2040; year++) {
      for (let day = 26; day <= 31; day++) days.push(`${year}-12-${day}`);
      for (let day = 1; day <= 7; day++) days.push(`${year}-01-0${day}`);
    }
    const told = execFileSync('date', ['-u', '-f', '-', '+%G-W%V %j'], { input: days.join('\n'), encoding: 'utf8' });
    const ours = days.map((day) => written("YYYY-'W'ww DDD", `${day}T12:00:00`));
    expect(ours).toEqual(told.trimEnd().split('\n'));
  });
});

// Source: GNU coreutils date with the system's time zone database.
describe('changes to daylight saving time against GNU date', () => {
  it.each([
    ['Europe/London', '2026-03-29T00:30:00Z', '2026-10-25T00:30:00Z'],
    ['America/St_Johns', '2026-03-08T05:00:00Z', '2026-11-01T04:00:00Z'],
    ['Australia/Lord_Howe', '2026-04-04T14:30:00Z', '2026-10-03T15:00:00Z'],
  ])('%s, every ten minutes around each', (zone, ...changes) => {
    const instants = changes.flatMap((change) =>
      Array.from({ length: 19 }, (_, step) => new Date(Date.parse(change) + (step - 9) * 600_000)),
    );
    const told = execFileSync('date', ['-f', '-', '+%z'], {
      input: instants.map((instant) => instant.toISOString()).join('\n'),
      encoding: 'utf8',
      env: { ...process.env, TZ: zone },
    });
    const minutes = told
      .trimEnd()
      .split('\n')
      .map((text) => (text.startsWith('-') ? -1 : 1) * (Number(text.slice(1, 3)) * 60 + Number(text.slice(3, 5))));
    expect(instants.map((instant) => zoneOffsetMinutes(zone, instant))).toEqual(minutes);
    expect(new Set(minutes).size).toBe(2);
  });
});

// Worked by hand. Common practice, no source.
describe('seasons', () => {
  it.each([
    ['2026-08-31', 9, 'yyyy-YYYY', '2025-2026'],
    ['2026-09-01', 9, 'yyyy-YYYY', '2026-2027'],
    ['2026-09-01', 9, 'yyyy-YY', '2026-27'],
    ['2026-10-01', 10, "'FY'YY", 'FY27'],
    ['2026-09-30', 10, "'FY'YY", 'FY26'],
    ['2026-01-01', 1, 'yyyy', '2026'],
    ['2026-12-31', 1, "'FY'YY", 'FY26'],
    ['2099-12-31', 9, 'yyyy-YY', '2099-00'],
  ])('%s, from month %i, as %s is %s', (day, startMonth, label, season) =>
    expect(seasonOf(`${day}T12:00:00`, { startMonth, label })).toBe(season),
  );
});

it('slugs are what names can hold everywhere', () => expect(slug('Día de la Marisma: Ærø & Łódź')).toMatch(/^[a-z0-9-]+$/));
