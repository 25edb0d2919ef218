import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { spawn } from 'node:child_process';
import { cp, mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { FIXTURES, makeCard, put } from '../../server/src/testing/cards.js';
import { tool, xxh128sum } from '../../server/src/testing/tools.js';
import { ROOT, RunningServer } from '../support/running-server.js';

interface Ran {
  readonly code: number;
  readonly out: string;
  readonly err: string;
  readonly lines: readonly Record<string, unknown>[];
}

let house: RunningServer;
beforeAll(async () => {
  house = await RunningServer.prepare();
  await put(
    house.path('story.json'),
    JSON.stringify({
      people: [],
      contributors: [{ name: 'Ines Barrow', code: 'IB' }],
      assignments: ['reed-planting', 'bird-count', 'four-at-once'].map((slug) => ({
        assignment: { title: slug, slug, from: '2026-04-18', to: '2026-04-18' },
        expected: ['IB'],
      })),
      cameras: [],
      intakes: [],
    }),
  );
  expect((await tally('replay', house.path('story.json'))).code).toBe(0);
});
afterAll(() => house.stop());

/** Runs the command line as a person or script would. */
function tally(...args: string[]): Promise<Ran> {
  return new Promise((resolve) => {
    const env = { ...process.env, NODE_OPTIONS: '' };
    const child = spawn(process.execPath, [join(ROOT, 'server/bin/tally.mjs'), '--settings', house.settingsFile, ...args], {
      env,
    });
    let [out, err] = ['', ''];
    child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
    child.stderr.on('data', (chunk: Buffer) => (err += chunk.toString()));
    child.once('close', (code) => {
      const lines = args.includes('--json')
        ? out
            .split('\n')
            .filter(Boolean)
            .map((line) => JSON.parse(line) as Record<string, unknown>)
        : [];
      resolve({ code: code ?? -1, out, err, lines });
    });
  });
}
const SLIP = ['--contributor', 'IB', '--assignment', 'reed-planting'];

describe('tally read', () => {
  it('tells a line an item, needs no database, and knows companions', async () => {
    const card = await makeCard(house.path('card-a'), { 'DCIM/1.JPG': 10, 'DCIM/1.DNG': 20, 'MISC/INDEX.DAT': 5 });
    await cp(join(FIXTURES, 'own/apple-creationdate.mov'), join(card, 'CLIP.MOV'));
    const { code, lines } = await tally('read', card, '--json');
    expect(code).toBe(1); // noise under the name of a picture is odd
    expect(lines.map(({ path, kind, companionOf, setAside }) => [path, kind, companionOf, setAside])).toEqual([
      ['CLIP.MOV', 'video', null, null],
      ['DCIM/1.DNG', 'raw', 'DCIM/1.JPG', null],
      ['DCIM/1.JPG', 'photo', null, null],
      ['MISC/INDEX.DAT', 'other', null, 'camera index'],
    ]);
    expect(lines[0]).toMatchObject({
      bytes: 6186,
      capturedAt: '2024-05-03T17:01:55+02:00',
      captureSource: 'metadata with offset',
      width: 160,
      height: 90,
      durationMs: 1000,
    });
  });

  it('prints a table for people, in which a hostile name cannot move the cursor', async () => {
    const card = house.path('card-b');
    await put(join(card, 'evil\u001b[2J\nname.txt'), 'x');
    const { out, code } = await tally('read', card);
    expect(code).toBe(0);
    expect(out).toContain('evil\uFFFD[2J\uFFFDname.txt');
    expect(out).not.toContain('\u001b[2J');
  });
});

describe('wrong use ends with 2 and a word', () => {
  it.each([
    [['read', '/nowhere'], 'cannot be listed (ENOENT)'],
    [['plan', '/tmp'], "required option '--contributor <code>'"],
    [['plan', '/tmp', '--contributor', 'XX', '--assignment', 'reed-planting'], 'no contributor with the code XX'],
    [['file', '/tmp', '--contributor', 'IB', '--assignment', 'nothing'], 'no assignment with the slug nothing'],
    [['log', '--limit', 'many'], '--limit'],
    [['fly'], 'unknown command'],
  ])('%j', async (args, words) => {
    const { code, err } = await tally(...args);
    expect(code).toBe(2);
    expect(err).toContain(words);
  });
});

describe('tally plan and tally file', () => {
  it('plan writes nothing; file does what it said; the same card again files nothing twice', async () => {
    const card = house.path('card-c');
    await mkdir(card);
    await cp(join(FIXTURES, 'goexif'), join(card, 'DCIM/100REAL'), { recursive: true, preserveTimestamps: true });
    const plan = await tally('plan', card, ...SLIP, '--json');
    expect(plan.code).toBe(0);
    expect(tool('find', house.path('shared'), '-type', 'f', '-name', '2*')).toBe('');
    const filed = await tally('file', card, ...SLIP, '--json', '--label', 'C-014');
    expect(filed.code).toBe(0);
    const done = filed.lines.filter((line) => !line['left']) as {
      from: string;
      to: string;
      hash: string;
      copies: { place: string; state: string }[];
    }[];
    expect(new Map(done.map(({ from, to }) => [from, to]))).toEqual(
      new Map(plan.lines.filter((line) => !line['left']).map(({ from, to }) => [from, to])),
    );
    expect(done.length).toBeGreaterThan(50);
    for (const { from, to, hash, copies } of done) {
      expect(copies).toEqual([
        { place: 'shared', state: 'tallied' },
        { place: 'second', state: 'tallied' },
      ]);
      for (const place of ['shared', 'second']) tool('cmp', join(card, from), house.path(place, to));
      expect(hash).toBe(xxh128sum(join(card, from)));
    }
    const count = () => tool('sh', '-c', `find "$0" -type f | wc -l`, house.path('shared'));
    const before = count();
    const again = await tally('file', card, ...SLIP, '--json');
    expect(again.code).toBe(0);
    expect(count()).toBe(before);
    const planAgain = await tally('plan', card, ...SLIP, '--json');
    expect(planAgain.lines.every((line) => line['left'])).toBe(true);
    expect(planAgain.lines.filter((line) => String(line['reason']).startsWith('already filed as')).length).toBe(done.length);
  });

  it('the log has the line', async () => {
    const { lines, code } = await tally('log', 'barrow', '--json');
    expect(code).toBe(0);
    expect(lines[0]).toMatchObject({ contributor: 'Ines Barrow', card: 'C-014', assignment: 'reed-planting', state: 'tallied' });
    expect((await tally('log', 'nobody-of-this-name', '--json')).lines).toEqual([]);
  });

  it('four processes file four cards into one folder at once: names of their own, no gaps', async () => {
    const cards = await Promise.all(
      [1, 2, 3, 4].map((seed) =>
        makeCard(
          house.path(`four-${seed}`),
          Object.fromEntries(Array.from({ length: 30 }, (_, i) => [`${seed}${i}.JPG`, 50_000 + seed * 100 + i])),
          40 + seed,
        ),
      ),
    );
    const ran = await Promise.all(
      cards.map((card) => tally('file', card, '--contributor', 'IB', '--assignment', 'four-at-once', '--json')),
    );
    expect(ran.map(({ code, err }) => [code, err])).toEqual(cards.map(() => [0, '']));
    const names = tool('ls', house.path('shared/2026/2026-04/2026-04-18_four-at-once')).trim().split('\n');
    expect(names).toEqual(Array.from({ length: 120 }, (_, i) => `20260418_IB_${String(i + 1).padStart(4, '0')}.jpg`));
    for (const [index, { lines }] of ran.entries())
      for (const { from, to } of lines) tool('cmp', join(cards[index]!, String(from)), house.path('second', String(to)));
  });

  it('what cannot be filed ends with 1 and says why', async () => {
    const card = await makeCard(house.path('card-d'), { '1.JPG': 10 }, 77);
    tool('mv', house.path('second'), house.path('second-away'));
    const { code, out } = await tally('file', card, ...SLIP);
    tool('mv', house.path('second-away'), house.path('second'));
    expect(code).toBe(1);
    expect(out).toMatch(/needs attention.*is not there/);
    expect((await tally('file', card, ...SLIP)).code).toBe(0);
  });
});
