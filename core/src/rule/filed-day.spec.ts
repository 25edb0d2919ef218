import {
  EXAMPLE,
  filedDay,
  judgeRule,
  nameItems,
  parseRule,
  readPath,
  ruleOf,
  settingsOf,
  type RuleContext,
  type RuleSource,
} from './index.js';

const NIGHTS: RuleSource['settings'] = { day: { begins: '04:00', assignment: 'each day' } };
const rule = (folderLine: string, fileLine: string, settings = NIGHTS): RuleSource => ({ folderLine, fileLine, settings });
const at = (captured: string, change: Partial<RuleContext> = {}): RuleContext => ({ ...EXAMPLE, captured, ...change });
const prom = { slug: 'prom', title: 'Prom night', from: '2026-05-16', to: '2026-05-16' };

describe('nights', () => {
  const by = rule('{captured:yyyy}/{captured:yyyy-MM-dd}_{assignment.slug}', '{captured:yyyyMMdd-HHmmss}_{n:0000}');
  const night = ['2026-05-16T20:00:00', '2026-05-16T23:59:59', '2026-05-17T00:30:00', '2026-05-17T02:30:00'];

  it('stand in one folder of the right day; names say when each was taken', () => {
    const named = nameItems(
      ruleOf(by),
      night.map((captured) => at(captured, { assignment: prom })),
    );
    expect(new Set(named.map(({ folder }) => folder))).toEqual(new Set(['2026/2026-05-16_prom']));
    expect(named.map(({ name }) => name)).toEqual([
      '20260516-200000_0001.jpg',
      '20260516-235959_0002.jpg',
      '20260517-003000_0003.jpg',
      '20260517-023000_0004.jpg',
    ]);
  });

  it('count with their day, over the end of a year and of a season too', () => {
    const daily = rule('{season}/{captured:yyyy-MM-dd}', '{n:000}', {
      ...NIGHTS,
      sequence: { scope: 'day', start: 1 },
      season: { startMonth: 1, label: 'yyyy' },
    });
    const named = nameItems(ruleOf(daily), [at('2026-12-31T22:00:00'), at('2027-01-01T01:00:00'), at('2027-01-01T09:00:00')]);
    expect(named.map(({ path }) => path)).toEqual([
      '2026/2026-12-31/001.jpg',
      '2026/2026-12-31/002.jpg',
      '2027/2027-01-01/001.jpg',
    ]);
  });

  it('a name is read back though its day is not that of its folder', () => {
    const path = '2026/2026-05-16_prom/20260517-023000_0004.jpg';
    expect(readPath(ruleOf(by), path)).toHaveLength(1);
    expect(readPath(ruleOf({ ...by, settings: {} }), path)).toEqual([]);
    // Two folders still have to agree.
    expect(readPath(ruleOf(by), '2025/2026-05-16_prom/20260517-023000_0004.jpg')).toEqual([]);
  });

  it('names without their own day are not in time order, and a day counter needs the day in the folder', () => {
    const verdicts = (source: RuleSource) => new Map(judgeRule(ruleOf(source)).map(({ name, outcome }) => [name, outcome]));
    const hours = rule('{captured:yyyy}/{captured:MM}/{captured:dd}', '{captured:HHmmss}_{n:0000}');
    expect(verdicts({ ...hours, settings: {} }).get('in time order')).toBe('holds');
    expect(verdicts(hours).get('in time order')).toBe('fails');
    const dated = rule('{captured:yyyy}/{captured:yyyy-MM-dd}', '{captured:yyyyMMdd-HHmmss}_{n:0000}');
    expect(verdicts(dated).get('in time order')).toBe('holds');
    const counted = { scope: 'day', start: 1 } as const;
    const inName = rule('{captured:yyyy}', '{captured:yyyyMMdd}_{n:0000}', { ...NIGHTS, sequence: counted });
    expect(verdicts({ ...inName, settings: { sequence: counted } }).get('unique')).toBe('holds');
    expect(verdicts(inName).get('unique')).not.toBe('holds');
    expect(verdicts({ ...inName, folderLine: '{captured:yyyy-MM-dd}' }).get('unique')).toBe('holds');
  });

  it('a day that begins in the afternoon is refused', () => {
    const said = rule('{captured:yyyy}', '{n}', { day: { begins: '16:00', assignment: 'each day' } });
    expect(parseRule(said)).toMatchObject({ ok: false, line: 'settings' });
  });
});

describe('an assignment of several days', () => {
  const days = { slug: 'survey', title: 'Survey', from: '2026-05-30', to: '2026-06-02' };
  const settings = settingsOf({ day: { begins: '04:00', assignment: 'first day' } });
  it.each([
    ['2026-05-30T10:00:00', '2026-05-30'],
    ['2026-06-02T10:00:00', '2026-05-30'],
    // The night of the last day is part of it; what is far outside is not.
    ['2026-06-03T03:00:00', '2026-05-30'],
    ['2026-06-03T10:00:00', '2026-06-03'],
    ['2026-05-29T10:00:00', '2026-05-29'],
  ])('%s is filed under %s', (captured, day) => expect(filedDay({ captured, assignment: days }, settings)).toBe(day));

  it('each day is filed on its own unless the house says so', () =>
    expect(filedDay({ captured: '2026-06-01T10:00:00', assignment: days }, settingsOf())).toBe('2026-06-01'));
});
