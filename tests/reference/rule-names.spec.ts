import { describe, expect, it } from '@jest/globals';
import filenamify from 'filenamify';
import sanitize from 'sanitize-filename';
import { EXAMPLE, mendName, nameItems, ruleOf, STARTERS, type RuleContext } from '@tally/core/rule';

/** Values that people, cameras and other systems leave behind. */
const VALUES = [
  'Reed planting day',
  'What? "Now": a/b\\c|d*e<f>',
  'con',
  'aux.something',
  'COM1',
  ' . leading and trailing . ',
  'tab\tand\nnewline',
  'e\u0301gret (decomposed)',
  'egret\u202Egpj.exe',
  '日本語の題名',
  '👩‍🌾 planting',
  'ß and İ',
  '...',
  'x'.repeat(300),
  '~$draft',
  '-',
];

const LINES = [
  '{assignment.title}',
  '{assignment.title}_{n:0000}',
  '{contributor.name} {captured:yyyy-MM-dd}',
  '{original}[ {description}]',
  '{camera:upper}-{card.label}',
];

const item = (value: string): RuleContext => ({
  ...EXAMPLE,
  contributor: { code: 'IB', name: value },
  assignment: { slug: 'x', title: value },
  camera: { make: value, model: value },
  cardLabel: value,
  original: `${value.replaceAll('/', '-')}.JPG`,
  description: value,
});

const names = [
  ...LINES.flatMap((line) => {
    const rule = ruleOf({ folderLine: line.replace('{n:0000}', 'x'), fileLine: line });
    return nameItems(rule, VALUES.map(item)).flatMap(({ path }) => path.split('/'));
  }),
  ...STARTERS.flatMap(({ rule }) => nameItems(ruleOf(rule), VALUES.map(item)).flatMap(({ path }) => path.split('/'))),
];

// Two packages of general purpose that mend names for Windows, macOS and Linux: what we make they leave as it is.
describe('names of any rule against other packages', () => {
  it('sanitize-filename changes none', () => expect(names.filter((name) => sanitize(name) !== name)).toEqual([]));

  // It writes NFD, which we never do: the names are compared in NFC.
  it('filenamify changes none', () => {
    const theirs = (name: string) => filenamify(name, { replacement: '-', maxLength: 255 }).normalize('NFC');
    const changed = names.filter((name) => theirs(name) !== name);
    expect(changed).toEqual([]);
  });

  // Source: POSIX.1-2017 3.281 "Portable Filename": no slash, no NUL; and a hyphen does not come first (3.282).
  it('hold neither a slash nor a NUL, and are none of the two names of folders', () => {
    for (const name of names) expect(name).not.toMatch(/[/\0]|^\.{1,2}$/);
  });

  // Source: exFAT file system specification, 7.7.3 (from memory): U+0000–U+001F and " * / : < > ? \ | are invalid;
  // a name has 1 to 255 UTF-16 units.
  it('hold no character that exFAT refuses, and are no longer than it allows', () => {
    // eslint-disable-next-line no-control-regex -- control characters are what is looked for
    for (const name of names) expect(name).toMatch(/^[^\u0000-\u001f"*/:<>?\\|]{1,255}$/);
  });

  it('a name that needs mending is mended by all three', () => {
    const bad = 'a<b>:c?.jpg';
    expect([mendName(bad), sanitize(bad), filenamify(bad)].every((name) => name !== bad)).toBe(true);
  });
});
