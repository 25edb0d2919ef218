import { describe, expect, it } from '@jest/globals';
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import {
  cutToBytes,
  datedByCopying,
  DEFAULT_RULE,
  EXAMPLE,
  foldName,
  mendName,
  nameFaults,
  neededFields,
  parseRule,
  proposeCode,
  proposeSlug,
  renderFileName,
  renderFolder,
  ruleOf,
  utf8Bytes,
  CODE_PATTERN,
  SLUG_PATTERN,
  type HouseRule,
  type RuleContext,
} from './index.js';

const CONTEXT: RuleContext = { ...EXAMPLE, n: 7 };

const rule = (folderLine: string, fileLine: string): HouseRule => {
  const parsed = parseRule({ folderLine, fileLine });
  if (!parsed.ok) throw new Error(parsed.error.message);
  return parsed.rule;
};

describe('the default rule', () => {
  const standard = rule(DEFAULT_RULE.folderLine, DEFAULT_RULE.fileLine);

  it('gives year, month, day with slug; date, code, number', () => {
    expect(renderFolder(standard, CONTEXT)).toBe('2026/2026-04/2026-04-18_reed-planting');
    expect(renderFileName(standard, CONTEXT)).toBe('20260418_IB_0007.jpg');
  });

  it('numbers grow past their width', () =>
    expect(renderFileName(standard, { ...CONTEXT, n: 12_345 })).toBe('20260418_IB_12345.jpg'));

  it('needs contributor and assignment', () => {
    expect([...neededFields(standard)].sort()).toEqual(['assignment.slug', 'captured', 'contributor.code', 'n']);
  });
});

describe('other habits of houses', () => {
  // Common practice, no source: conventions that media desks use.
  it.each([
    ['{captured:yyyy}/{captured:MM}', '{original}', '2026/04', 'HM4_0417.jpg'],
    [
      '{captured:yyyy-QQQ}',
      '{contributor.name:slug}_{captured:yyyyMMdd}_{original}',
      '2026-Q2',
      'ines-barrow_20260418_HM4_0417.jpg',
    ],
    ['{assignment.title}/{captured:yyyy-MM-dd}_{camera.model:lower}', '{n:000}', 'Reed planting day/2026-04-18_m4', '007.jpg'],
    ["{captured:'W'ww-YYYY}", '{kind:upper}[_{card.label}]', 'W16-2026', 'STILLS_C-014.jpg'],
  ])('%s and %s', (folderLine, fileLine, folder, name) => {
    const habit = rule(folderLine, fileLine);
    expect(renderFolder(habit, CONTEXT)).toBe(folder);
    expect(renderFileName(habit, CONTEXT)).toBe(name);
  });

  it('an optional part vanishes with its field', () => {
    expect(renderFileName(rule('x', '{n:00}[_{card.label}]'), { ...CONTEXT, cardLabel: '' })).toBe('07.jpg');
  });

  it('the file line makes no folders', () =>
    expect(parseRule({ folderLine: 'a', fileLine: 'b/{n}' })).toMatchObject({ ok: false, line: 'file' }));

  it('a value never makes a folder', () => {
    const hostile = { ...CONTEXT, assignment: { slug: 'x', title: '../../etc/passwd' } };
    expect(renderFolder(rule('{assignment.title}', '{n}'), hostile)).toBe('-..-etc-passwd');
  });
});

describe('names that every system keeps', () => {
  const tried = (file: string) =>
    readFileSync(new URL(`../../../tests/fixtures/names/${file}`, import.meta.url), 'utf8')
      .split('\n')
      .flatMap((line) => {
        const match = /^(OK|FAIL)\s+'(.*)' len (\d+) utf16 (\d+)(.*)$/.exec(line);
        // Long names are abbreviated in the record; the composed and the decomposed é met there.
        return !match || match[5]!.includes('exists') || match[2]!.length > 22 || match[2]!.normalize('NFC').includes('é')
          ? []
          : [
              {
                ok: match[1] === 'OK',
                name: JSON.parse(`"${match[2]!.replaceAll('"', '\\"')}"`.replaceAll('\\x7f', '\\u007f')) as string,
              },
            ];
      });

  // Source: real file systems, tried through FUSE: exfat-fuse 1.3.0, ntfs-3g 2022.10.3 with windows_names, fusefat 0.1a.
  it.each(['exfat.txt', 'ntfs.txt', 'vfat.txt'])('whatever %s refused, we call faulty', (file) => {
    const refused = tried(file).filter(({ ok }) => !ok);
    expect(refused.length).toBeGreaterThan(5);
    expect(refused.filter(({ name }) => nameFaults(name).length === 0)).toEqual([]);
  });

  // Source: Microsoft, "Naming Files, Paths, and Namespaces" (from memory): reserved with any extension, in any case.
  it.each(['con.jpg', 'NUL', 'nul.tar.gz', 'Aux .jpg', 'COM1.jpg', 'com¹.txt', 'LPT9', 'CONIN$'])(
    '%s is a device on Windows',
    (name) => {
      expect(nameFaults(name).length).toBeGreaterThan(0);
      expect(nameFaults(mendName(name))).toEqual([]);
    },
  );

  it.each([
    ['a<b>.jpg', 'a-b-.jpg'],
    ['what?.jpg', 'what-.jpg'],
    ['line\nbreak.jpg', 'linebreak.jpg'],
    ['evil\u202Egpj.exe', 'evilgpj.exe'],
    ['trailing. ', 'trailing'],
    ['  .hidden', 'hidden'],
    ['cafe\u0301.jpg', 'café.jpg'],
    ['..', '_'],
    ['', '_'],
  ])('%j becomes %j', (name, mended) => expect(mendName(name)).toBe(mended));

  it('a mended name has no faults, whatever it was', () => {
    const unit = fc.oneof(
      fc.string({ unit: 'binary', minLength: 1, maxLength: 1 }),
      fc.constantFrom('.', ' ', '/', 'con', 'nul', '\u202e', 'e\u0301', '👩‍🌾', '日'),
    );
    fc.assert(
      fc.property(fc.array(unit, { maxLength: 140 }), (parts) => expect(nameFaults(mendName(parts.join('')))).toEqual([])),
      { numRuns: 400 },
    );
  });

  it('mending twice is mending once', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 300 }), (name) =>
        expect(mendName(mendName(name))).toBe(mendName(name)),
      ),
    );
  });

  it('a long name is cut between graphemes, never in its number or extension', () => {
    const long = { ...CONTEXT, assignment: { slug: 'x', title: '👩‍🌾'.repeat(60) } };
    const name = renderFileName(rule('x', '{assignment.title}_{n:0000}'), long);
    expect(utf8Bytes(name)).toBeLessThanOrEqual(255);
    expect(name).toMatch(/^(👩‍🌾)+_0007\.jpg$/u);
    expect(cutToBytes('👩‍🌾👩‍🌾', 15)).toBe('👩‍🌾');
  });

  it('letter case and Unicode form do not make two names', () => {
    expect(foldName('Case.JPG')).toBe(foldName('case.jpg'));
    expect(foldName('caf\u00e9')).toBe(foldName('CAFE\u0301'));
    expect(foldName('Straße')).toBe(foldName('STRASSE'));
    expect(foldName('a')).not.toBe(foldName('b'));
  });
});

describe('lines and settings', () => {
  it.each([
    ['{received:yyyy}', '{n}', true],
    ['{filed:yyyy}', '{captured:dd}_{n}', false],
    ['{season}', '{received:dd}_{n}', false],
    ['all', '{n}', false],
  ])('%s and %s: dated by copying is %s', (folderLine, fileLine, dated) =>
    expect(datedByCopying(rule(folderLine, fileLine))).toBe(dated),
  );

  it.each([
    ['{contributor.given:lower}.{contributor.surname:upper}', 'ines.BARROW.jpg'],
    ['{assignment.title:first(4)}_{original.number:last(2)}', 'Reed_17.jpg'],
    ['{assignment.title:title,slug}', 'reed-planting-day.jpg'],
    ['{season}_{quarter}_{intake}', '2025-2026_Q2_2026-0412.jpg'],
    ['{assignment.code}_{footage.role}', 'unknown_unknown.jpg'],
    ['[{assignment.code}_]{assignment.start:MMM}', 'Apr.jpg'],
  ])('%s gives %s', (fileLine, name) => expect(renderFileName(rule('x', fileLine), CONTEXT)).toBe(name));

  it('house letters hold for the whole name: spaces, case, ASCII', () => {
    const { rule: house } = parseRule({
      folderLine: 'Bilder {assignment.title}',
      fileLine: '{contributor.name}_{n:000}',
      settings: { letters: { spaces: 'hyphen', case: 'lower', ascii: true } },
    }) as { rule: HouseRule };
    const context = { ...CONTEXT, contributor: { code: 'IB', name: 'Åse Łukasz' } };
    expect(renderFolder(house, context)).toBe('bilder-reed-planting-day');
    expect(renderFileName(house, context)).toBe('ase-lukasz_007.jpg');
  });

  it("a camera goes by the house's short name, with its make or without", () => {
    const named = (cameraNames: Record<string, string>) =>
      renderFolder(ruleOf({ folderLine: '{camera}', fileLine: '{n}', settings: { cameraNames } }), CONTEXT);
    expect(named({ 'Halden M4': 'Body A' })).toBe('Body A');
    expect(named({ M4: 'Body B' })).toBe('Body B');
    expect(named({})).toBe('M4');
  });

  it('a name without an extension keeps no dot that would look like one', () =>
    expect(
      renderFileName(rule('x', '{contributor.name}'), {
        ...CONTEXT,
        contributor: { code: 'JD', name: 'J. Doe' },
        original: 'README',
      }),
    ).toBe('J- Doe'));
});

describe('codes and slugs', () => {
  it.each([
    ['Ines Barrow', [], 'IB'],
    ['Ines Barrow', ['IB'], 'IBA'],
    ['June Aldwin', ['JA'], 'JAL'],
    ['Østen', [], 'OST'],
  ])('%s with %j in use is %s', (name, taken, code) => expect(proposeCode(name, new Set(taken))).toBe(code));

  it('a proposed code is always legal and free', () => {
    const taken = new Set(['IB', 'IBA', 'IBAR', 'INE', 'BARR']);
    const code = proposeCode('Ines Barrow', taken);
    expect(code).toMatch(CODE_PATTERN);
    expect(taken.has(code)).toBe(false);
  });

  it.each([
    ['Reed planting day', 'reed-planting'],
    ['The Day of the Heron', 'heron'],
    ['Día de la Marisma', 'dia-de-la-marisma'],
    ['Day', 'day'],
  ])('%s is %s', (title, slug) => {
    expect(proposeSlug(title)).toBe(slug);
    expect(slug).toMatch(SLUG_PATTERN);
  });
});
