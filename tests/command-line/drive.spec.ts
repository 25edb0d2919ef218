import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { existsSync, readdirSync, rmSync } from 'node:fs';
import { dirname } from 'node:path';
import { tally as runTally } from '../../server/src/tally.js';
import { makeCard, noise, put } from '../../server/src/testing/cards.js';
import { tool } from '../../server/src/testing/tools.js';
import { RunningServer } from '../support/running-server.js';

let house: RunningServer;

async function tally(...args: string[]): Promise<{ code: number; out: string; err: string }> {
  let [out, err] = ['', ''];
  const terminal = { out: (text: string) => void (out += text), err: (text: string) => void (err += text) };
  const outside = { env: process.env, cwd: house.folder, signal: new AbortController().signal, terminal };
  const code = await runTally(['--settings', house.settingsFile, ...args], outside);
  return { code, out, err };
}
const lines = <T>(out: string): T[] =>
  out
    .trim()
    .split('\n')
    .filter(Boolean)
    .map((line) => JSON.parse(line) as T);
const drive = (...args: string[]) => tally('drive', ...args);
const FOLDER = '2026/2026-04/2026-04-18_reed-planting';

beforeAll(async () => {
  house = await RunningServer.prepare();
  const people = {
    people: [],
    cameras: [],
    intakes: [],
    contributors: [
      { name: 'Ines Barrow', code: 'IB' },
      { name: 'Priya Lind', code: 'PL' },
    ],
  };
  const assignments = ['reed-planting', 'bird-count'].map((slug) => ({
    assignment: { title: slug.replace('-', ' '), slug, from: '2026-04-18', to: '2026-04-18' },
    expected: [],
  }));
  await put(house.path('story.json'), JSON.stringify({ ...people, assignments }));
  expect((await tally('replay', house.path('story.json'))).code).toBe(0);
  await makeCard(house.path('card'), Object.fromEntries(Array.from({ length: 5 }, (_, n) => [`DCIM/${n}.JPG`, 1000 + n])), 3);
  expect((await tally('file', house.path('card'), '--contributor', 'IB', '--assignment', 'reed-planting')).code).toBe(0);
}, 60_000);
afterAll(() => house.stop());

describe('tally drive', () => {
  it('check says that everything is as it should be, but for one disk; an unknown place or way is wrong use', async () => {
    const { out } = await drive('check');
    expect(out).toMatch(/only here: .*\n5 files .* 5 only here\.$/m);
    expect((await drive('check', '--place', 'nowhere')).err).toMatch(/There is no place nowhere. Places: shared, second/);
    expect((await drive('check', '--how', 'guessing')).code).toBe(2);
    expect((await drive('check', '--kind', 'lost')).err).toMatch(/Kinds: missing, changed/);
  });

  it('mend --dry shows old and new names and does nothing; mend does it; take-back takes it back', async () => {
    const dry = await drive('re-file', FOLDER, '--assignment', 'bird-count', '--dry');
    expect(dry.out).toMatch(/folder .*reed-planting → .*bird-count/);
    expect(existsSync(house.path('shared', FOLDER))).toBe(true);
    const done = await drive('re-file', FOLDER, '--assignment', 'bird-count');
    expect([done.code, done.err]).toEqual([0, '']);
    const id = /Mend (\d+): done/.exec(done.out)![1]!;
    for (const place of ['shared', 'second']) {
      expect(readdirSync(house.path(place, '2026/2026-04'))).toEqual(['2026-04-18_bird-count']);
      tool('sh', '-c', 'cd "$0" && xxhsum -c --quiet checksums.xxh128', house.path(place, '2026/2026-04/2026-04-18_bird-count'));
    }
    expect((await tally('tally', house.path('shared'))).out).toMatch(/^11 of 11 files tally/m);
    const back = await drive('take-back', id);
    expect(back.code).toBe(0);
    expect(readdirSync(house.path('second', FOLDER)).filter((name) => name.endsWith('.jpg'))).toHaveLength(5);
    expect((await drive('take-back', id)).code).toBe(1);
    expect((await drive('take-back', '9999')).err).toMatch(/no such mend/);
    expect(
      lines<{ takenBackBy: number | null }>((await drive('mends', '--json')).out).map(({ takenBackBy }) => takenBackBy !== null),
    ).toEqual([false, true]);
  });

  it('some of a folder is re-filed: lists of both folders are right, and the old path still leads to the file', async () => {
    const names = readdirSync(house.path('shared', FOLDER))
      .filter((name) => name.endsWith('.jpg'))
      .sort();
    const { code } = await drive('re-file', `${FOLDER}/${names[0]!}`, '--contributor', 'PL');
    expect(code).toBe(0);
    const led = lines<{ path: string }>((await drive('where', `${FOLDER}/${names[0]!}`, '--json')).out)[0]!;
    expect(led.path).toMatch(/20260418_PL_0001\.jpg$/);
    for (const place of ['shared', 'second'])
      tool('sh', '-c', 'cd "$0" && xxhsum -c --quiet checksums.xxh128', house.path(place, FOLDER));
    expect((await tally('tally', house.path('shared'))).code).toBe(0);
    expect((await drive('where', 'never/was.jpg')).code).toBe(1);
  });

  it('strays are listed, read back and adopted; twins stay', async () => {
    await put(house.path('shared', 'old/2019-05-18 Dune walk/IB_1.jpg'), noise(900, 1), new Date('2019-05-18T10:00:00Z'));
    await put(house.path('shared', 'old/misc/x.jpg'), noise(901, 2), new Date('2020-01-01T10:00:00Z'));
    tool(
      'cp',
      house.path(
        'shared',
        FOLDER,
        readdirSync(house.path('shared', FOLDER))
          .sort()
          .find((name) => name.endsWith('.jpg'))!,
      ),
      house.path('shared', 'old/misc/again.jpg'),
    );
    tool('touch', '-d', '2020-01-01', house.path('shared', 'old/misc/again.jpg'));
    await drive('check', '--no-names');
    const strays = lines<{ path: string; twin: string | null }>((await drive('strays', '--json')).out);
    expect(strays.map(({ path, twin }) => [path, twin !== null])).toEqual(
      expect.arrayContaining([
        ['old/misc/again.jpg', true],
        ['old/misc/x.jpg', false],
      ]),
    );
    const dry = await drive('adopt', 'old', '--dry', '--title', 'Odds and ends');
    expect(dry.out).toMatch(/Dune walk: 1 files, Ines Barrow, Dune walk, 2019-05-18/);
    const done = await drive('adopt', 'old', '--contributor', 'PL', '--title', 'Odds and ends', '--day', '2020-01-01');
    expect(done.out).toMatch(/2 of 3 files adopted .* 1 twins left/);
    expect(existsSync(house.path('second', 'old/misc/x.jpg'))).toBe(true);
    const found = await tally('find', 'by:PL', 'taken:2020-01-01', '--json');
    expect(lines<object>(found.out)).toHaveLength(1);
    expect(found.out).toContain('old/misc/x.jpg');
    expect((await drive('adopt', 'nothing here')).code).toBe(1);
  });

  it('put aside goes to the tray with its copies; the tray is emptied only when its days are over and somebody is sure', async () => {
    const aside = await drive('put-aside', 'old/misc/x.jpg', '--why', 'not ours');
    expect([aside.code, aside.err, aside.code ? aside.out : '']).toEqual([0, '', '']);
    const tray = tool('find', house.path('second', '_put-aside'), '-name', 'x.jpg').trim();
    expect(tray).not.toBe('');
    expect((await drive('empty-tray', '--sure', '--json')).out).toMatch(/"mends":0/);
    expect(existsSync(tray)).toBe(true);
    const tried = await drive('put-aside', 'old/2019-05-18 Dune walk', '--why', 'try');
    expect([tried.code, tried.err, tried.code ? tried.out : '']).toEqual([0, '', '']);
    const back = /Mend (\d+)/.exec(tried.out)![1]!;
    const tookBack = await drive('take-back', back);
    if (tookBack.code !== 0) throw new Error(tookBack.out + tookBack.err);
    expect(existsSync(house.path('shared', 'old/2019-05-18 Dune walk/IB_1.jpg'))).toBe(true);
  });

  it('a folder moves to another place and back; what is lost is made again', async () => {
    const moved = await drive('move', 'old/2019-05-18 Dune walk', '--from', 'second', '--to-place', 'shared');
    expect(moved.code).toBe(0);
    expect(existsSync(house.path('second', 'old/2019-05-18 Dune walk/IB_1.jpg'))).toBe(false);
    const names = readdirSync(house.path('shared', FOLDER))
      .filter((name) => name.endsWith('.jpg'))
      .sort();
    rmSync(house.path('shared', FOLDER, names.at(-1)!));
    expect((await drive('check', '--no-names', '--kind', 'missing')).out).toContain(names.at(-1)!);
    expect((await drive('mend', 'missing')).code).toBe(0);
    expect(existsSync(house.path('shared', FOLDER, names.at(-1)!))).toBe(true);
    const renamed = await drive('move', 'old', 'older');
    expect(renamed.code).toBe(0);
    expect(existsSync(house.path('shared', 'older/2019-05-18 Dune walk/IB_1.jpg'))).toBe(true);
    expect((await drive('move', 'older', '../out')).code).toBe(2);
    expect((await drive('move', 'older')).code).toBe(2);
    expect(dirname(FOLDER)).toBe('2026/2026-04');
  });
});
