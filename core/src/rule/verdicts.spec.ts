import { describe, expect, it } from '@jest/globals';
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import {
  DEFAULT_RULE,
  EXAMPLE,
  FIELDS,
  foldName,
  judgeRule,
  nameFaults,
  nameItems,
  NEEDED_VERDICTS,
  readPath,
  ruleOf,
  SEQUENCE_SCOPES,
  STARTERS,
  type HouseRule,
  type RuleContext,
  type RuleSource,
  type Verdict,
  type VerdictName,
} from './index.js';

const verdict = (source: RuleSource, name: VerdictName, items: RuleContext[] = []): Verdict =>
  judgeRule(ruleOf(source), { items }).find((one) => one.name === name)!;
const lines = (folderLine: string, fileLine: string, settings?: RuleSource['settings']): RuleSource => ({
  folderLine,
  fileLine,
  ...(settings ? { settings } : {}),
});

describe('unique', () => {
  it("two pictures of one second and the camera's own number", () => {
    const found = verdict(lines('{captured:yyyy}', '{captured:yyyyMMdd-HHmmss}_{original}'), 'unique');
    expect(found.outcome).toBe('fails');
    expect(found.counterexample.map(({ path }) => path)).toEqual([
      '2026/20260418-091231_HM4_0001.jpg',
      '2026/20260418-091231_HM4_0001.jpg',
    ]);
  });

  it('a number right behind letters and digits is another number', () => {
    expect(verdict(lines('x', '{contributor.code}{n:000}'), 'unique')).toMatchObject({
      outcome: 'fails',
      because: 'One name says two things: items with either would get it.',
    });
  });

  it.each([
    ['folder', '{captured:yyyy}', '{n}', 'holds'],
    ['day', '{captured:yyyy}', '{n}', 'fails'],
    ['day', '{captured:yyyy}', '{captured:MMdd}_{n}', 'holds'],
    ['assignment', '{assignment.slug}', '{n}', 'holds'],
    ['assignment', '{captured:yyyy}', '{n}', 'fails'],
    ['intake', '{captured:yyyy}', '{intake}_{n}', 'holds'],
    ['intake', '{captured:yyyy}', '{n}', 'fails'],
    ['contributor and day', '{captured:yyyy-MM-dd}', '{contributor.code}_{n}', 'holds'],
    ['contributor and day', '{captured:yyyy-MM-dd}', '{n}', 'fails'],
    ['camera and day', '{captured:yyyy-MM-dd}_{camera}', '{n}', 'holds'],
    ['never ends', 'all', '{n}', 'holds'],
    ['same name', '{captured:yyyy}', '{original.number}[-{n}]', 'holds'],
    ['same name', '{captured:yyyy}', '{original}[-{n}]', 'fails'],
  ] as const)('numbers that count within %s, in %s, as %s: %s', (scope, folder, file, outcome) => {
    expect(verdict(lines(folder, file, { sequence: { scope, start: 1 } }), 'unique').outcome).toBe(outcome);
  });
});

describe('in time order', () => {
  it.each([
    ['{captured:yyyy}/{captured:MM}', '{captured:dd_HHmmss}_{n}', 'holds'],
    ['{captured:yyyy}/{captured:DDD}', '{captured:HHmmss}_{n}', 'holds'],
    ["{captured:YYYY-'W'ww}", '{captured:yyyyMMddHHmmss}_{n}', 'holds'],
    ['{kind}/{captured:yyyy-MM-dd}', '{captured:HHmmss}_{n}', 'holds'],
    // April comes before January; day-first dates; the year in two digits sorts all the same but ends in 2100.
    ['{captured:yyyy}/{captured:MMMM}', '{captured:yyyyMMddHHmmss}_{n}', 'fails'],
    ['{captured:dd-MM-yyyy}', '{captured:yyyyMMddHHmmss}_{n}', 'fails'],
    ['{captured:yyyy}', '{captured:ddMMyyyy-HHmmss}_{n}', 'fails'],
    // Half past nine in the evening comes before ten in the morning on a clock of twelve hours.
    ['{captured:yyyy-MM-dd}', '{captured:hh.mm.ss}_{n}', 'fails'],
    // The months of a school year begin in September.
    ['{season}/{captured:MM}', '{captured:yyyyMMddHHmmss}_{n}', 'fails'],
    ['{season}/{captured:yyyy-MM}', '{captured:yyyyMMddHHmmss}_{n}', 'holds'],
    // A calendar year and an ISO week do not begin on the same day: 2021-01-03 is in week 53 of 2020.
    ["{captured:yyyy-'W'ww}", '{captured:yyyyMMddHHmmss}_{n}', 'fails'],
    ['{assignment.slug}', '{captured:yyyyMMddHHmmss}_{n}', 'fails'],
    ['{captured:yyyy-MM}_{assignment.slug}', '{captured:yyyyMMddHHmmss}_{n}', 'fails'],
    [DEFAULT_RULE.folderLine, DEFAULT_RULE.fileLine, 'fails'],
  ])('%s and %s: %s', (folder, file, outcome) => {
    expect(verdict(lines(folder, file), 'in time order').outcome).toBe(outcome);
  });
});

describe('legal everywhere', () => {
  it.each([
    ['{captured:yyyy}', '{captured:HH:mm}_{n}'],
    ['what?/{captured:yyyy}', '{n}'],
    ['aux/{captured:yyyy}', '{n}'],
    ['{captured:yyyy}.', '{n}'],
    ['{captured:yyyy}', '.{n}'],
    ['{captured:yyyy}', '[{card.label}].{n}'],
  ])('%s and %s are refused by some system', (folder, file) => {
    const found = verdict(lines(folder, file), 'legal everywhere');
    expect(found.outcome).toBe('fails');
    expect(found.counterexample.map(({ of }) => of)).toEqual(['as the rule says', 'as it would have to be']);
  });

  it('values are mended, so they do no harm', () =>
    expect(verdict(lines('{contributor.code}', '{assignment.title}_{n}'), 'legal everywhere').outcome).toBe('holds'));
});

describe('within length', () => {
  const known = {
    contributors: [{ code: 'IB', name: 'Ines Barrow' }],
    assignments: [{ slug: 'x', title: 'A title of some length that repeats. '.repeat(5) }],
    cameras: [],
    labels: [],
  };
  const judge = (source: RuleSource, sharePrefix = '') =>
    judgeRule(ruleOf(source), { known, sharePrefix }).find(({ name }) => name === 'within length')!;

  it('the longest title known, twice in one path, is too much for Windows', () => {
    const found = judge(lines('{assignment.title}', '{assignment.title}_{n}'));
    expect(found.outcome).toBe('fails');
    expect(found.counterexample[0]!.path.length).toBeGreaterThan(259);
  });

  it("the share's prefix counts", () => {
    const source = lines('{captured:yyyy}', '{assignment.title}_{n}');
    expect(judge(source).outcome).toBe('holds');
    expect(judge(source, `\\\\server\\${'p'.repeat(80)}`).outcome).toBe('fails');
  });
});

describe('reads back', () => {
  it('one name with two meanings', () => {
    const found = verdict(lines('x', '{contributor.name}_{assignment.title}_{n:000}'), 'reads back');
    expect(found.outcome).toBe('fails');
    expect(found.counterexample).toHaveLength(2);
    expect(new Set(found.counterexample.map(({ path }) => path)).size).toBe(1);
  });

  it('a starter reads back what it wrote', () => {
    for (const { rule } of STARTERS) {
      const [named] = nameItems(ruleOf(rule), [EXAMPLE]);
      expect(readPath(ruleOf(rule), named!.path)).toEqual([{ fields: named!.written }]);
    }
  });

  it('the extension of a file that has none is the word for what is missing, and all are in the house’s letters', () => {
    const rule = ruleOf({
      ...lines('{captured:yyyy}', '{ext}_{n:000}'),
      settings: { letters: { spaces: 'hyphen', case: 'keep', ascii: false } },
    });
    for (const original of ['P_1.JPG', 'P_1', 'P_1.é 9x']) {
      const [named] = nameItems(rule, [{ ...EXAMPLE, original }]);
      expect(readPath(rule, named!.path)).toEqual([{ fields: named!.written }]);
    }
    expect(readPath(rule, '2026/tif_001.jpg')).toEqual([]);
  });

  it('a path that the rule cannot have made is not read', () => {
    const rule = ruleOf(DEFAULT_RULE);
    expect(readPath(rule, '2026/2026-04/2026-04-18_reed-planting/20260418_IB_0001.jpg')).toHaveLength(1);
    // The year differs, the month is none, the number is too short, a folder is missing.
    expect(readPath(rule, '2025/2026-04/2026-04-18_reed-planting/20260418_IB_0001.jpg')).toEqual([]);
    expect(readPath(rule, '2026/2026-13/2026-13-18_reed-planting/20261318_IB_0001.jpg')).toEqual([]);
    expect(readPath(rule, '2026/2026-04/2026-04-18_reed-planting/20260418_IB_001.jpg')).toEqual([]);
    expect(readPath(rule, '2026/2026-04-18_reed-planting/20260418_IB_0001.jpg')).toEqual([]);
  });

  it('one field twenty times costs no more than once: it says the same again', () => {
    const twenty = ruleOf(lines('{captured:yyyy}', '{assignment.title}'.repeat(20)));
    const budget = { steps: 20_000 };
    const [reading] = readPath(twenty, `2026/${'Reed planting day'.repeat(20)}.jpg`, 2, budget);
    expect(reading!.fields.filter(({ text }) => text === 'Reed planting day')).toHaveLength(20);
    expect(budget.steps).toBeGreaterThan(0);
  });

  it('names of many free fields side by side are not tried to the end, and that is said', () => {
    const free = '{assignment.title}{description}{contributor.name}{camera.model}{assignment.place}{original}{card.label}';
    const found = verdict(lines('{captured:yyyy}', free + free), 'reads back');
    expect(found.outcome).not.toBe('holds');
    const budget = { steps: 1_000 };
    readPath(ruleOf(lines('{captured:yyyy}', free + free)), `2026/${'ab'.repeat(90)}.jpg`, 100, budget);
    expect(budget.steps).toBeLessThan(0);
  });

  it('a device name is read as what it was', () =>
    expect(readPath(ruleOf(lines('{contributor.code}', '{n}')), 'CON_/1.jpg')[0]?.fields[0]?.text).toBe('CON'));
});

describe('the starters', () => {
  it.each(STARTERS)('$title can be the house rule', ({ rule }) => {
    const failed = judgeRule(ruleOf(rule)).filter(({ outcome }) => outcome !== 'holds');
    expect(failed.filter(({ name }) => NEEDED_VERDICTS.includes(name))).toEqual([]);
  });

  it('are as the guide says', () => {
    const guide = readFileSync(new URL('../../../docs/guide/the-house-rule.md', import.meta.url), 'utf8');
    const words = { holds: 'holds', fails: 'no', open: 'nothing found' };
    const rows = STARTERS.map(({ title, rule }) => {
      const verdicts = judgeRule(ruleOf(rule)).map(({ outcome }) => words[outcome]);
      return [title, `\`${nameItems(ruleOf(rule), [EXAMPLE])[0]!.path}\``, ...verdicts].join(' | ');
    });
    const plain = guide.replace(/ +/g, ' ');
    expect(rows.filter((row) => !plain.includes(`| ${row} |`))).toEqual([]);
  });
});

// Random items under random rules, 250 under each: whatever a verdict says, the search must not contradict it.
// TALLY_RULES_TRIED=400 makes it 100,000 items.
const RULES = Number(process.env['TALLY_RULES_TRIED'] ?? 60);

describe('verdicts and names of any rule', () => {
  const word = fc.string({
    unit: fc.constantFrom('a', 'Z', '0', '9', '-', '_', '.', ' ', 'é', '/', '日', '"'),
    minLength: 1,
    maxLength: 8,
  });
  const two = (n: number) => String(n).padStart(2, '0');
  const captured = fc
    .tuple(fc.constantFrom(2019, 2020, 2026), fc.nat(11), fc.nat(27), fc.nat(23), fc.nat(3), fc.nat(3))
    .map(([y, mo, d, h, mi, s]) => `${y}-${two(mo + 1)}-${two(d + 1)}T${two(h)}:${two(mi)}:${two(s)}`);
  const item: fc.Arbitrary<RuleContext> = fc.record({
    captured,
    received: fc.constant('2026-05-01T10:00:00'),
    filed: fc.constant('2026-05-01T11:00:00'),
    contributor: fc.record({ code: fc.constantFrom('IB', 'A1', 'CON', 'ABCD', 'B1'), name: word }),
    assignment: fc.record({
      slug: fc.constantFrom('a', 'a-1', '1', 'reed-planting'),
      title: word,
      from: fc.constant('2026-04-18'),
    }),
    cardLabel: fc.constantFrom('', 'C-014', 'C_1'),
    camera: fc.record({ make: fc.constant('Halden'), model: fc.option(word) }),
    kind: fc.constantFrom('photo', 'raw', 'video'),
    original: fc.tuple(word, fc.constantFrom('.JPG', '.mp4', '')).map(([stem, ext]) => `${stem.replaceAll('/', '')}x${ext}`),
    intake: fc.constantFrom('2026-0001', '2026-0002'),
    description: fc.option(word),
    role: fc.constantFrom(null, 'main', 'supporting'),
    profile: fc.option(word),
    n: fc.constant(null),
  });
  const formats = {
    date: [':yyyy', ':yyyyMMdd', ':MM', ':dd', ':HHmmss', ":YYYY-'W'ww", ':d.M.yy', ':MMMM', ':hh-mm a', ''],
    number: ['', ':000'],
    text: ['', ':lower', ':upper', ':slug', ':ascii', ':first(2)', ':last(2)', ':title'],
  };
  const field = (names: readonly (typeof FIELDS)[number][]) =>
    fc.constantFrom(...names).chain(({ name, type }) => fc.constantFrom(...formats[type]).map((format) => `{${name}${format}}`));
  const ofFolder = FIELDS.filter(({ name }) => name !== 'n');
  const line = (names: readonly (typeof FIELDS)[number][], separators: readonly string[]) =>
    fc
      .array(
        fc
          .tuple(field(names), fc.constantFrom(...separators), fc.boolean())
          .map(([piece, separator, optional]) =>
            optional && separator !== '/' ? `[${piece}${separator}]` : `${piece}${separator}`,
          ),
        { minLength: 1, maxLength: 4 },
      )
      .map((pieces) => pieces.join(''));
  const numbered = [
    ...FIELDS,
    ...FIELDS.filter(({ name }) => name === 'n' || name === 'captured').flatMap((one) => [one, one, one, one]),
  ];
  const source: fc.Arbitrary<RuleSource> = fc.record({
    folderLine: line(ofFolder, ['/', '_', '-', '', ' ']),
    fileLine: line(numbered, ['_', '-', '', '.']),
    settings: fc.record({
      letters: fc.record({
        spaces: fc.constantFrom('keep', 'hyphen', 'underscore', 'drop'),
        case: fc.constantFrom('keep', 'lower', 'upper'),
        ascii: fc.boolean(),
      }),
      sequence: fc.record({ scope: fc.constantFrom(...SEQUENCE_SCOPES), start: fc.constantFrom(0, 1, 998) }),
      language: fc.constantFrom('en', 'de', 'pl'),
    }),
  });

  /** Rules as careful people write them: most of these are sound. */
  const tidy = fc
    .tuple(line(ofFolder, ['/', '_']), line(ofFolder, ['_']), fc.constantFrom('{n:000}', '{captured:yyyyMMdd}_{n}'), source)
    .map(([folderLine, fileLine, end, { settings }]): RuleSource => ({ folderLine, fileLine: `${fileLine}${end}`, settings }));

  const meaning = (fields: readonly { name: string; format: string | null; text: string }[]) =>
    fields.map(({ name, format, text }) => `${name}:${format}=${text}`).join();

  /** @returns is the rule sound? */
  function check(rule: HouseRule, items: readonly RuleContext[]): boolean {
    const verdicts = Object.fromEntries(judgeRule(rule).map(({ name, outcome }) => [name, outcome]));
    const named = nameItems(rule, items);
    const parts = named.flatMap(({ path }) => path.split('/'));
    expect(parts.flatMap((part) => nameFaults(part).map((fault) => [part, fault]))).toEqual([]);
    const readable = verdicts['reads back'] === 'holds' ? named : [];
    const misread = readable.filter(({ path, written }) => {
      const readings = readPath(rule, path);
      return readings.length !== 1 || meaning(readings[0]!.fields) !== meaning(written);
    });
    expect(misread).toEqual([]);
    if (verdicts['unique'] === 'holds') expect(new Set(named.map(({ path }) => foldName(path))).size).toBe(named.length);
    expect(nameItems(rule, items).map(({ path }) => path)).toEqual(named.map(({ path }) => path));
    return verdicts['unique'] === 'holds';
  }

  it('legal, stable; unique and read back where the verdicts say so', () => {
    let held = 0;
    fc.assert(
      fc.property(fc.oneof(source, tidy), fc.array(item, { minLength: 250, maxLength: 250, size: 'max' }), (text, items) => {
        if (check(ruleOf(text), items)) held++;
      }),
      { numRuns: RULES, endOnFailure: true },
    );
    // The property would say nothing if no random rule were sound.
    expect(held).toBeGreaterThan(0);
  });
});
