import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { tally as runTally } from '../../server/src/tally.js';
import { makeCard, put } from '../../server/src/testing/cards.js';
import { RunningServer } from '../support/running-server.js';

let house: RunningServer;

async function tally(...args: string[]): Promise<{ code: number; out: string; err: string }> {
  let [out, err] = ['', ''];
  const terminal = { out: (text: string) => void (out += text), err: (text: string) => void (err += text) };
  const outside = { env: process.env, cwd: house.folder, signal: new AbortController().signal, terminal };
  const code = await runTally(['--settings', house.settingsFile, ...args], outside);
  return { code, out, err };
}

beforeAll(async () => {
  house = await RunningServer.prepare();
  await put(
    house.path('story.json'),
    JSON.stringify({
      people: [],
      contributors: [
        { name: 'Ines Barrow', code: 'IB' },
        { name: 'Priya Lind', code: 'PL' },
      ],
      assignments: ['reed-planting', 'bird-count'].map((slug) => ({
        assignment: { title: slug.replace('-', ' '), slug, from: '2026-04-18', to: '2026-04-18' },
        expected: ['IB'],
      })),
      cameras: [],
      intakes: [],
    }),
  );
  expect((await tally('replay', house.path('story.json'))).code).toBe(0);
  const first = await makeCard(house.path('one'), {
    'DCIM/1.JPG': 1000,
    'DCIM/2.JPG': 2000,
    'DCIM/3.DNG': 3000,
    'DCIM/4.WAV': 400,
  });
  const second = await makeCard(house.path('two'), { 'DCIM/5.JPG': 5000, 'DCIM/6.JPG': 6000 }, 9);
  expect((await tally('file', first, '--contributor', 'IB', '--assignment', 'reed-planting')).code).toBe(0);
  expect((await tally('file', second, '--contributor', 'PL', '--assignment', 'bird-count')).code).toBe(0);
});
afterAll(() => house.stop());

describe('tally find', () => {
  it('says the question in a sentence, and prints what answers it', async () => {
    const found = await tally('find', 'taken', 'by', 'priya', 'lind', 'photos');
    expect(found.code).toBe(0);
    expect(found.out).toContain('Photos by Priya Lind: 2 items.');
    expect(found.out.match(/bird-count/g)).toHaveLength(2);
    expect((await tally('find', 'nothing-like-this')).out).toContain('0 items');
  });

  it('prints lines for programs, a table for spreadsheets, and paths that any tool takes', async () => {
    const { out } = await tally('find', 'by:IB', '--json', '--order', 'bytes', '--up');
    const lines = out
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as { bytes: number; contributor: { code: string } });
    expect(lines.map(({ bytes }) => bytes)).toEqual([400, 1000, 2000, 3000]);
    expect(lines.every(({ contributor }) => contributor.code === 'IB')).toBe(true);
    const csv = (await tally('find', '--csv', '--columns', 'name,bytes,contributor')).out;
    expect(csv.split('\r\n')[0]).toBe('name,bytes,contributor');
    expect(csv.trim().split('\r\n')).toHaveLength(7);
    const paths = (await tally('find', 'bird', '--paths0')).out;
    // As `xargs -0` takes them: every path is a file on the drive.
    const seen = execFileSync('xargs', ['-0', 'stat', '-c', '%s'], {
      input: paths,
      cwd: house.path('shared'),
      encoding: 'utf8',
    });
    expect(seen.trim().split('\n').map(Number).sort()).toEqual([5000, 6000]);
  });

  it.each([
    [['find', '--order', 'colour'], '--order is one of'],
    [['find', '--csv', '--columns', 'colour'], '--columns are some of'],
    [['find', '--limit', 'many'], '--limit is a number'],
    [['find', 'a'.repeat(10_000)], 'no question'],
    [['figures', '--by', 'mood'], '--by is one of'],
    [['bundle', 'add', 'Nobody', 'heron'], 'no bundle “Nobody”'],
  ])('says what is wrong: case %#', async (args, words) => {
    const { code, err } = await tally(...args);
    expect([code, err]).toEqual([2, expect.stringContaining(words)]);
  });

  it('takes what is no question as words', async () => {
    for (const question of ['-heron', '"never closed', '^(a+)+$', 'أنس', '--'])
      expect((await tally('find', '--', question)).code).toBe(0);
  });
});

describe('tally bundle and tally standing', () => {
  it('fill, put into one another, empty and remove', async () => {
    expect((await tally('bundle', 'make', 'Letter')).code).toBe(0);
    expect((await tally('bundle', 'make', 'Cover', '--in', 'Letter')).code).toBe(0);
    expect((await tally('bundle', 'add', 'letter', 'by:IB', 'photos')).out).toContain('2 put into “Letter”: 2 now.');
    expect((await tally('bundle', 'add', 'Cover', 'by:PL')).out).toContain('2 put into');
    expect((await tally('find', 'in bundle letter')).out).toContain('4 items');
    const inside = await tally('bundle', 'put', 'Letter', 'Cover');
    expect([inside.code, inside.err]).toEqual([1, expect.stringContaining('cannot stand in itself')]);
    expect((await tally('bundle', 'without', 'Letter', 'word:0001')).out).toContain('taken out of “Letter”');
    expect((await tally('bundle', 'rename', 'Cover', 'Front page')).out).toContain('Front page');
    expect((await tally('bundle', 'put', 'Front page')).out).toContain('no other bundle');
    expect((await tally('bundle', 'remove', 'Letter')).out).toContain('stay where they are');
    expect((await tally('bundle', 'list', '--json')).out.trim().split('\n')).toHaveLength(1);
    expect((await tally('find', '--json')).out.trim().split('\n')).toHaveLength(6);
  });

  it('keep a question, count it and forget it', async () => {
    expect((await tally('standing', 'keep', 'Birds', 'for bird-count')).out).toContain(
      'Kept “Birds”: Everything for bird count: 2 items.',
    );
    expect((await tally('standing', 'list')).out).toContain('for:bird-count');
    expect((await tally('standing', 'seen', 'birds')).code).toBe(0);
    expect((await tally('standing', 'remove', 'Birds')).code).toBe(0);
    expect((await tally('standing', 'seen', 'Birds')).code).toBe(2);
  });
});

describe('tally fetch', () => {
  it('says first what has to be asked for, then brings the bytes of the card, and replaces nothing', async () => {
    const to = house.path('fetched');
    const asked = await tally('fetch', 'by:IB', '--to', to);
    expect([asked.code, asked.out]).toEqual([1, expect.stringContaining('Ask first, or say --anyway.')]);
    const brought = await tally('fetch', 'by:IB', '--to', to, '--as-on-card', '--anyway');
    expect([brought.code, brought.out]).toEqual([0, expect.stringContaining('4 fetched')]);
    const [number] = (await tally('find', 'by:IB', '--csv', '--columns', 'intake')).out.split('\r\n').slice(1);
    for (const name of ['DCIM/1.JPG', 'DCIM/2.JPG', 'DCIM/3.DNG', 'DCIM/4.WAV'])
      expect(readFileSync(join(to, number!, name)).equals(readFileSync(house.path(`one/${name}`)))).toBe(true);
    const again = await tally('fetch', 'by:IB', '--to', to, '--as-on-card', '--anyway');
    expect([again.code, again.out]).toEqual([1, expect.stringContaining('stands there already')]);
  });
});

describe('tally figures', () => {
  // Checked against awk (POSIX.1-2017) over the exported list: sums by contributor, kind and month.
  it.each([
    ['contributor', 1],
    ['kind', 2],
    ['month', 3],
  ] as const)('by %s are what awk sums over the list', async (by, column) => {
    const list = house.path(`list-${by}.csv`);
    const { out } = await tally('find', '--csv', '--columns', 'contributor,kind,taken,bytes');
    writeFileSync(list, out.replaceAll('\r', ''));
    const key = by === 'month' ? 'substr($3, 1, 7)' : `$${column}`;
    const program = `BEGIN { FS = "," } NR > 1 { n[${key}]++; b[${key}] += $4 } END { for (k in n) print k "," n[k] "," b[k] }`;
    const expected = execFileSync('awk', [program, list], { encoding: 'utf8' }).trim().split('\n').sort();
    const figures = (await tally('figures', '--by', by, '--csv')).out.trim().split('\r\n').slice(1);
    const ours = figures.map((line) => line.split(',')).map(([words, , items, bytes]) => `${words},${items},${bytes}`);
    expect(ours.sort()).toEqual(expected);
  });
});
