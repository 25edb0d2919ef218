import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { spawn } from 'node:child_process';
import { cp, mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import pg from 'pg';
import sharp from 'sharp';
import { tally as runTally } from '../../server/src/tally.js';
import { FIXTURES, makeCard, put } from '../../server/src/testing/cards.js';
import { compareAll, tool, xxh128sum } from '../../server/src/testing/tools.js';
import { drawnView } from '../../server/src/testing/views.js';
import { ROOT, RunningServer } from '../support/running-server.js';
import { writeByRecord } from '../../server/src/testing/inside.js';

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
      assignments: ['reed-planting', 'bird-count', 'eight-at-once'].map((slug) => ({
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

/** What a command printed, line by line where that was asked for. */
function ran(args: readonly string[], code: number, out: string, err: string): Ran {
  const isJson = args.includes('--json');
  const lines = isJson ? out.split('\n').filter(Boolean) : [];
  return { code, out, err, lines: lines.map((line) => JSON.parse(line) as Record<string, unknown>) };
}

/** Runs a command as a person or script would, in this process: everything but the starting of Node. */
async function tally(...args: string[]): Promise<Ran> {
  let [out, err] = ['', ''];
  const terminal = { out: (text: string) => void (out += text), err: (text: string) => void (err += text) };
  const outside = { env: process.env, cwd: house.folder, signal: new AbortController().signal, terminal };
  const code = await runTally(['--settings', house.settingsFile, ...args], outside);
  return ran(args, code, out, err);
}

/** The same as a process of its own. */
function spawnTally(...args: string[]): Promise<Ran> {
  return new Promise((resolve) => {
    const env = { ...process.env, NODE_OPTIONS: '' };
    const bin = join(ROOT, 'server/bin/tally.mjs');
    const child = spawn(process.execPath, [bin, '--settings', house.settingsFile, ...args], { env });
    let [out, err] = ['', ''];
    child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
    child.stderr.on('data', (chunk: Buffer) => (err += chunk.toString()));
    child.once('close', (code) => resolve(ran(args, code ?? -1, out, err)));
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

describe('as a process of its own', () => {
  it('prints what the commands print, to the streams they belong to, and ends with their code', async () => {
    const card = await makeCard(house.path('card-s'), { 'DCIM/1.JPG': 10, 'MISC/INDEX.DAT': 5 });
    const read = await spawnTally('read', card, '--json');
    expect([read.code, read.err, read.lines]).toEqual([1, '', (await tally('read', card, '--json')).lines]);
    const wrong = await spawnTally('plan', '/tmp', '--contributor', 'XX', '--assignment', 'reed-planting');
    expect([wrong.code, wrong.out, wrong.err]).toEqual([2, '', 'tally: There is no contributor with the code XX.\n']);
    const help = await spawnTally('--help');
    expect([help.code, help.out]).toEqual([0, expect.stringContaining('Usage: tally')]);
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
      for (const place of ['shared', 'second']) {
        await writeByRecord(house.path(place, to), house.path('taken-out'));
        tool('cmp', join(card, from), house.path('taken-out'));
      }
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
    expect(lines[0]).toMatchObject({ contributor: 'Ines Barrow', card: 'C-014', assignment: 'reed-planting', state: 'closed' });
    expect((await tally('log', 'nobody-of-this-name', '--json')).lines).toEqual([]);
  });

  it('eight processes file eight cards into one folder at once: names of their own, no gaps', async () => {
    const cards = await Promise.all(
      [1, 2, 3, 4, 5, 6, 7, 8].map((seed) =>
        makeCard(
          house.path(`eight-${seed}`),
          Object.fromEntries(Array.from({ length: 20 }, (_, i) => [`${seed}${i}.JPG`, 50_000 + seed * 100 + i])),
          40 + seed,
        ),
      ),
    );
    const ran = await Promise.all(
      cards.map((card) => spawnTally('file', card, '--contributor', 'IB', '--assignment', 'eight-at-once', '--json')),
    );
    expect(ran.map(({ code, err }) => [code, err])).toEqual(cards.map(() => [0, '']));
    const listed = tool('ls', house.path('shared/2026/2026-04/2026-04-18_eight-at-once')).trim().split('\n');
    const names = listed.filter((name) => name.endsWith('.jpg'));
    expect(names).toEqual(Array.from({ length: 160 }, (_, i) => `20260418_IB_${String(i + 1).padStart(4, '0')}.jpg`));
    for (const [index, { lines }] of ran.entries())
      compareAll(lines.map(({ from, to }) => [join(cards[index]!, String(from)), house.path('second', String(to))]));
  }, 240_000);

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

describe('tally look', () => {
  it('tells runs, sharpness and similar frames, without a database', async () => {
    const folder = house.path('look');
    await mkdir(folder, { recursive: true });
    // One view three times, a second apart, the middle one out of focus.
    const view = await drawnView();
    for (const [name, blur] of [
      ['1', 2],
      ['2', 8],
      ['3', 0],
    ] as const) {
      const picture = blur ? sharp(view).blur(blur) : sharp(view);
      await put(join(folder, `${name}.jpg`), await picture.jpeg().toBuffer());
    }
    const { code, lines } = await tally('look', folder, '--json');
    expect(code).toBe(0);
    expect(lines.map((line) => line['similar'])).toEqual([1, 1, 1]);
    expect(lines.find((line) => line['sharpest'])!['path']).toBe('3.jpg');
    const [soft, softest, sharpest] = ['1.jpg', '2.jpg', '3.jpg'].map((path) =>
      Number(lines.find((line) => line['path'] === path)!['sharpness']),
    );
    expect(softest).toBeLessThan(soft!);
    expect(soft).toBeLessThan(sharpest!);
  });
});

describe('an intake that is judged and split before it is filed', () => {
  it('receive, leave, split, clock, then file', async () => {
    const card = house.path('split');
    await makeCard(card, { 'A/1.JPG': 400, 'A/2.JPG': 400, 'A/3.JPG': 400, 'A/4.MP4': 900 }, 4100);
    const received = await tally('receive', card, ...SLIP, '--label', 'C-900', '--json');
    const number = String(received.lines[0]!['number']);
    expect(received.lines[0]).toMatchObject({ items: 4, state: 'open' });
    expect((await tally('leave', number, '*.MP4')).out).toContain('1 item: left');
    expect((await tally('split', number, 'A/2.JPG', '--assignment', 'bird-count')).out).toContain('1 item: bird-count');
    expect((await tally('judge', number, 'A/1.*', '--verdict', 'select', '--description', 'Heron')).code).toBe(0);
    expect((await tally('clock', number, '--json')).code).toBe(0);
    const filed = await tally('file', card, ...SLIP, '--json');
    const to = (from: string) => String(filed.lines.find((line) => line['from'] === from)!['to']);
    expect(to('A/1.JPG')).toContain('reed-planting');
    expect(to('A/2.JPG')).toContain('bird-count');
    expect(filed.lines.find((line) => line['from'] === 'A/4.MP4')).toMatchObject({ left: true, reason: 'left by choice' });
  });

  it('goes on without what is not ours, and takes it again; corrects and retires people and assignments', async () => {
    const card = await makeCard(house.path('aside'), { 'B/1.JPG': 410, 'B/2.JPG': 420 }, 4200);
    const received = await tally('receive', card, ...SLIP, '--json');
    const number = String(received.lines[0]!['number']);
    expect((await tally('aside', number, 'B/2.JPG', '--reason', 'not ours')).out).toContain('1 item set aside: not ours');
    const filed = await tally('file', card, ...SLIP, '--json');
    expect(filed.lines.find((line) => line['from'] === 'B/2.JPG')).toMatchObject({ left: true, reason: 'set aside: not ours' });
    const refused = await tally('aside', number, 'B/1.JPG', '--reason', 'gone');
    expect([refused.code, refused.err]).toEqual([
      1,
      expect.stringMatching(/B\/1\.JPG (is filed|stands on the drive)|given back/),
    ]);
    expect((await tally('aside', number, '*', '--reason', 'tired')).code).toBe(2);

    expect((await tally('contributor', 'IB', '--name', 'Ines Barrow-Hale')).code).toBe(0);
    expect((await tally('log', 'barrow-hale', '--json')).lines.length).toBeGreaterThan(0);
    const code = await tally('contributor', 'IB', '--code', 'XX');
    expect([code.code, code.err]).toEqual([1, expect.stringContaining('stands in the names of')]);
    expect((await tally('contributor', 'IB', '--name', 'Ines Barrow')).code).toBe(0);
    expect((await tally('assignment', 'bird-count', '--title', 'Bird count', '--to', '2026-04-20')).code).toBe(0);
    expect((await tally('assignment', 'bird-count', '--to', '2026-02-30')).code).toBe(2);
    expect((await tally('assignment', 'bird-count')).code).toBe(2);
    const said = ['kind=volunteer', 'e-mail=ines@example.org', 'inside=e-mail, phone', 'credit={contributor.name}'];
    expect((await tally('contributor', 'IB', ...said.flatMap((one) => ['--set', one]))).out).toMatch(
      /IB is corrected: \d+ items/,
    );
    expect((await tally('people', 'list', '--json')).lines).toContainEqual(
      expect.objectContaining({
        code: 'IB',
        kind: 'volunteer',
        'e-mail': 'ines@example.org',
        'credit line': '{contributor.name}',
      }),
    );
    expect((await tally('contributor', 'IB', '--set', 'credit=')).code).toBe(0);
    expect((await tally('assignment', 'bird-count', '--set', 'embargo=2026-05-01', '--set', 'words=birds, survey')).code).toBe(0);
    const wrong = await Promise.all([
      tally('contributor', 'IB', '--set', 'e-mail=nobody'),
      tally('contributor', 'IB', '--set', 'terms=none such'),
      tally('assignment', 'bird-count', '--set', 'embargo=soon'),
      tally('assignment', 'bird-count', '--set', 'colour=green'),
    ]);
    expect(wrong.map(({ code, err }) => [code, err.trim()])).toEqual([
      [2, expect.stringContaining('is an e-mail address')],
      [2, expect.stringContaining('There are no terms called none such')],
      [2, expect.stringContaining('embargoUntil')],
      [2, expect.stringMatching(/There is no field colour: there are description, /)],
    ]);
    expect((await tally('assignment', 'bird-count', '--retire', '--back')).code).toBe(2);
  });

  it('wrong use is named and changes nothing', async () => {
    const wrong: [string[], string][] = [
      [['take', '2001-0001', '*'], 'There is no intake 2001-0001.'],
      [['split', '2001-0001', '*'], 'Say --assignment, --contributor or both.'],
      [['judge', '2001-0001', '*', '--verdict', 'lovely'], '--verdict is select, reshoot, hold or none.'],
      [['link', 'make', '--hours', '1000'], 'hours: Too big: expected number to be <=744'],
      [
        ['person', 'add', 'Noor', '--role', 'king'],
        'role: Invalid option: expected one of "administrator"|"coordinator"|"helper"|"looker"|"hand-in"',
      ],
      [['person', 'retire', 'Nobody'], 'Nobody called Nobody signs in here.'],
      [['forget', 'IB'], 'Contacts, agreements and habits of Ines Barrow would be erased, and not come back. Say --sure.'],
    ];
    const ran = await Promise.all(wrong.map(([args]) => tally(...args)));
    expect(ran.map(({ code, err }) => [code, err.trim()])).toEqual(wrong.map(([, words]) => [2, `tally: ${words}`]));
  });

  it('a hand-in link is shown once, listed, and ended', async () => {
    const made = await tally('link', 'make', '--for', 'class 7b', '--contributor', 'IB', '--files', '30');
    expect(made.out).toMatch(/\/hand-in#k=[\w-]{32}\n/);
    const [link] = (await tally('link', 'list', '--json')).lines;
    expect(link).toMatchObject({ name: 'class 7b', contributor: { name: 'Ines Barrow' }, quotaFiles: 30, revokedAt: null });
    expect((await tally('link', 'end', String(link!['id']))).code).toBe(0);
    expect((await tally('link', 'end', String(link!['id']))).code).toBe(1);
    expect((await tally('link', 'list')).out).toContain('ended ');
  });

  it('people who sign in are added with a code, changed, retired and put back', async () => {
    expect((await tally('person', 'add', 'Noor', '--role', 'helper')).out).toMatch(/\n[A-Z2-9]{4}(-[A-Z2-9]{4}){3}\n/);
    expect((await tally('person', 'add', 'noor', '--role', 'helper')).code).toBe(1);
    expect((await tally('person', 'change', 'Noor', '--role', 'looker', '--sees-persons', 'yes')).code).toBe(0);
    const noor = async () => (await tally('person', 'list', '--json')).lines.find(({ name }) => name === 'Noor');
    expect(await noor()).toMatchObject({ role: 'looker', seesPersons: true, hasPassword: false });
    for (const [does, retired] of [
      ['retire', true],
      ['put-back', false],
    ] as const) {
      expect((await tally('person', does, 'Noor')).code).toBe(0);
      expect(await noor()).toMatchObject({ retired });
    }
    expect((await tally('person', 'code', 'Noor')).out).toMatch(/shown only now/);
    expect((await tally('person', 'sign-out', 'Noor')).out).toContain('0 sessions');
    expect((await tally('person', 'list')).out).toContain('Noor');
  });

  it('a house without a certificate of its own says so', async () => {
    const none = await tally('certificate');
    expect([none.code, none.err]).toEqual([2, expect.stringContaining('made no certificate of its own')]);
  });

  it('what was recorded is listed, exported, and found to be what it was', async () => {
    const { lines } = await tally('audit', '--kind', 'account', '--json');
    expect(lines[0]).toMatchObject({ kind: 'account', who: 'command line', text: expect.stringContaining('Noor') as unknown });
    expect((await tally('audit', '--csv', '--kind', 'hand-in link')).out.split('\r\n')).toHaveLength(4);
    expect((await tally('audit', '--kind', 'gossip')).code).toBe(2);
    const verified = await tally('log', '--verify', '--json');
    expect([verified.code, verified.lines[0]]).toEqual([0, expect.objectContaining({ problems: [] })]);
  });
});

describe('tally rule', () => {
  const SOUND = ['--folder-line', '{captured:yyyy}', '--file-line', '{captured:yyyyMMdd}_{n:000}'];

  it('check gives the five verdicts on a rule, with a counterexample when one fails', async () => {
    const sound = await tally('rule', 'check', ...SOUND, '--json');
    expect(sound.code).toBe(0);
    expect(sound.lines.map(({ name, outcome }) => [name, outcome])).toEqual([
      ['unique', 'holds'],
      ['in time order', 'fails'],
      ['legal everywhere', 'holds'],
      ['within length', 'holds'],
      ['reads back', 'holds'],
    ]);
    const weak = await tally('rule', 'check', '--folder-line', 'all', '--file-line', '{original}');
    expect(weak.code).toBe(1);
    expect(weak.out).toMatch(/unique: fails\. Two different items get one name\.\n.+\n +→ all\/HM4_0417\.jpg\n/);
  });

  it('check tries a rule on a real card', async () => {
    const card = await makeCard(house.path('card-rule'), { 'A/1.JPG': 10, 'B/1.JPG': 20 });
    const { out, code } = await tally('rule', 'check', '--folder-line', 'all', '--file-line', '{original}', '--card', card);
    expect(code).toBe(1);
    expect(out).toContain('1.JPG, ');
  });

  it('a wrong line is shown with a mark under the place, and what was meant', async () => {
    const { code, err } = await tally('rule', 'check', '--folder-line', 'a/{capturd}', '--file-line', '{n}');
    expect(code).toBe(2);
    expect(err).toBe('tally: There is no field called "capturd". Was "captured" meant?\n  a/{capturd}\n     ^^^^^^^\n');
  });

  it('render lists old and new names as CSV', async () => {
    const card = await makeCard(house.path('card-names'), { 'A/=1.JPG': 10 });
    const { code, out } = await tally(
      'rule',
      'render',
      card,
      '--folder-line',
      'all',
      '--file-line',
      '{original}_{n:000}',
      '--csv',
    );
    expect(code).toBe(0);
    expect(out).toBe('old,new\r\nA/=1.JPG,all/=1_001.jpg\r\n');
  });

  it('read gives the fields of a name; what the rule cannot have made is told', async () => {
    const { code, lines } = await tally('rule', 'read', '2026/2026-04/2026-04-18_reed-planting/20260418_IB_0007.jpg', '--json');
    expect(code).toBe(0);
    expect(lines[0]!['readings']).toEqual([
      expect.arrayContaining([
        { name: 'assignment.slug', format: null, text: 'reed-planting' },
        { name: 'contributor.code', format: null, text: 'IB' },
        { name: 'n', format: '0000', text: '0007' },
      ]),
    ]);
    const no = await tally('rule', 'read', 'holiday/IMG_1.jpg');
    expect([no.code, no.out]).toEqual([1, 'holiday/IMG_1.jpg: not a name of this rule\n']);
  });

  it('save makes a revision, which list shows and export writes for another house', async () => {
    expect((await tally('rule', 'save', '--file-line', '{original}', '--note', 'x')).err).toContain('cannot be the house rule');
    const saved = await tally(
      'rule',
      'save',
      '--file-line',
      '{captured:yyyyMMdd}_{contributor.code}_{n:00000}',
      '--note',
      'five digits',
    );
    expect(saved).toMatchObject({ code: 0, out: 'Revision 2 is the house rule now.\n' });
    expect((await tally('rule', 'list', '--json')).lines.map(({ revision, note }) => [revision, note])).toEqual([
      [2, 'five digits'],
      [1, 'The rule a new house begins with'],
    ]);
    const exported = await tally('rule', 'export');
    await put(house.path('rule.json'), exported.out);
    const back = await tally('rule', 'check', '--file', house.path('rule.json'), '--json');
    expect([back.code, back.lines[0]!['outcome']]).toEqual([0, 'holds']);
    await put(house.path('other.json'), '{"format":"something else"}');
    expect((await tally('rule', 'check', '--file', house.path('other.json'))).code).toBe(2);
    expect((await tally('rule', 'save', '--revision', '1', '--note', 'back to four digits')).out).toContain('Revision 3');
  });
});

describe('tally clearance, clear and restore', () => {
  it('a card whose places share a device is not safe, and nothing goes', async () => {
    const card = await makeCard(house.path('card-clear'), { 'DCIM/7.JPG': 700, 'DCIM/8.JPG': 800 }, 70);
    const filed = await tally('file', card, ...SLIP, '--json');
    expect(filed.code).toBe(0);
    const number = String((await tally('log', '--limit', '1', '--json')).lines[0]!['number']);
    const clearance = await tally('clearance', number, '--full', '--json');
    expect(clearance.code).toBe(1);
    expect(clearance.lines[0]).toMatchObject({ safe: false, files: 2, full: true, reasons: [{ kind: 'devices' }] });
    expect((await tally('clear', number, '--let-go', '--keep')).code).toBe(2);
    const cleared = await tally('clear', number);
    expect([cleared.code, cleared.err]).toEqual([1, expect.stringContaining('do not stand on two devices')]);
    expect(tool('find', card, '-type', 'f').split('\n').filter(Boolean)).toHaveLength(2);

    const restored = await tally('restore', number, house.path('as-it-was'));
    expect(restored.code).toBe(0);
    expect(tool('diff', '-r', card, house.path('as-it-was'))).toBe('');
    expect((await tally('clearance', '2026-9999')).code).toBe(2);
  });
});

describe('tally receipt, labels, log --csv, places, pause', () => {
  it('print and tell, and replace nothing', async () => {
    const number = String((await tally('log', '--limit', '1', '--json')).lines[0]!['number']);
    const file = house.path('receipt.pdf');
    expect((await tally('receipt', number, '--out', file, '--paper', 'letter')).code).toBe(0);
    expect(tool('pdftotext', file, '-')).toContain(`Receipt ${number}`);
    const again = await tally('receipt', number, '--out', file);
    expect([again.code, again.err]).toEqual([2, expect.stringContaining('stands there already')]);
    expect((await tally('labels', 'C-014', '--form', 'tape', '--out', house.path('labels.pdf'))).code).toBe(0);
    expect(tool('pdftotext', house.path('labels.pdf'), '-')).toContain('C-014');
    const csv = await tally('log', '--csv', '--columns', 'number,items');
    expect(csv.out).toMatch(/^number,items\r\n\d{4}-\d{4},\d+\r\n/);
    expect((await tally('log', '--csv', '--columns', 'wishes')).code).toBe(2);
    const places = await tally('places', '--json');
    expect(places.code).toBe(0);
    expect(places.lines.map(({ id, waiting }) => [id, waiting])).toEqual([
      ['shared', { copies: 0, bytes: 0, hoursAtRisk: 0 }],
      ['second', { copies: 0, bytes: 0, hoursAtRisk: 0 }],
    ]);
    const pause = await tally('pause', number);
    expect([pause.code, pause.err]).toEqual([1, expect.stringContaining('is not being filed')]);
  });
});

describe('tally thing, lend, trays, move, back, lending', () => {
  it('a card goes out, is overdue, comes back, and leaves the tray *in* only through the process', async () => {
    expect((await tally('thing', 'H-71', '--kind', 'card')).code).toBe(0);
    expect(await tally('lend', 'H-71', '--to', 'IB', '--days', '2', '--note', 'terns')).toMatchObject({
      ...{ code: 0, out: expect.stringMatching(/^H-71 lent to Ines Barrow, due \d{4}-\d\d-\d\d\.\n$/) as unknown as string },
    });
    expect(await tally('lend', 'H-71', '--to', 'IB')).toMatchObject({ code: 1, err: 'tally: H-71 is lent already.\n' });
    const { code, lines } = await tally('lending', '--out', '--json');
    expect(code).toBe(0);
    expect(lines).toMatchObject([{ label: 'H-71', kind: 'card', loan: { to: { code: 'IB' }, standing: 'out', note: 'terns' } }]);
    expect((await tally('back', 'H-71')).code).toBe(0);
    expect(await tally('move', 'H-71', 'out')).toMatchObject({
      code: 1,
      err: expect.stringContaining('stays where it is') as unknown as string,
    });
    const trays = await tally('trays', '--json');
    expect(trays.lines).toContainEqual(expect.objectContaining({ tray: 'in', card: 'H-71', says: 'handed in, not read' }));
    expect(await tally('move', 'H-71', 'attic')).toMatchObject({
      code: 2,
      err: expect.stringContaining('no tray attic') as unknown as string,
    });
  });
});

describe('tally tally', () => {
  it('compares a drive with its own lists, without a database, and names what differs', async () => {
    const card = await makeCard(house.path('card-tally'), { 'DCIM/5.JPG': 900, 'DCIM/6.JPG': 950 }, 90);
    const filed = await tally('file', card, ...SLIP, '--json');
    const to = filed.lines.flatMap((line) => (typeof line['to'] === 'string' ? [line['to']] : []));
    const whole = await tally('tally', house.path('shared'));
    expect(whole.code).toBe(0);
    expect(whole.out).toMatch(/^(\d+) of \1 files tally/);
    await put(house.path('second', to[0]!), 'other bytes');
    const { code, lines } = await tally('tally', house.path('second'), '--json');
    expect(code).toBe(1);
    expect(lines.filter(({ state }) => state !== 'tallies')).toEqual([{ path: to[0], state: 'differs', bytes: 11 }]);
    expect((await tally('tally', card)).code).toBe(2);
  });
});

describe('tally people, assignments, words, locations', () => {
  it('a list of pupils: shown, refused where it is wrong, taken in; the same list again changes nothing', async () => {
    const file = house.path('pupils.csv');
    await put(file, 'code,name,kind,e-mail\nANR,Ana Ruela,pupil,ana@school.example\nBEV,Bento Vale,pupil,no address\n');
    const wrong = await tally('people', 'import', file, '--apply');
    expect([wrong.code, wrong.out]).toEqual([1, expect.stringContaining('Line 3 e-mail is an e-mail address')]);
    await put(file, 'code,name,kind,e-mail\nANR,Ana Ruela,pupil,ana@school.example\nBEV,Bento Vale,pupil,\n');
    expect((await tally('people', 'import', file)).out).toContain('Nothing was changed: say --apply');
    expect((await tally('people', 'import', file, '--apply')).code).toBe(0);
    const again = await tally('people', 'import', file, '--json');
    expect(again.lines).toMatchObject([{ added: 0, changed: 0, same: 2, read: 'UTF-8, parted by commas' }]);
    const { lines } = await tally('people', 'list', '--json');
    expect(lines).toContainEqual(expect.objectContaining({ code: 'ANR', kind: 'pupil', 'e-mail': 'ana@school.example' }));
    const out = await tally('people', 'export');
    await put(file, out.out);
    expect((await tally('people', 'import', file, '--json')).lines).toMatchObject([{ added: 0, changed: 0 }]);
    expect((await tally('people', 'merge', 'BEV', 'ANR')).out).toContain('BEV is ANR now');
    expect(await tally('people', 'merge', 'BEV', 'ANR')).toMatchObject({
      code: 1,
      err: expect.stringContaining('one already') as unknown,
    });
  });

  it('words as CSV and as SKOS; a word that would stand under itself is refused, and nothing is taken in', async () => {
    const file = house.path('words.csv');
    await put(file, 'word,broader,synonyms,languages\nwaders,birds,shorebirds,pt: limícolas\nbirds,,,\n');
    expect((await tally('words', 'import', file, '--apply')).code).toBe(0);
    const turtle = await tally('words', 'export', '--as', 'turtle');
    expect(turtle.out).toContain('skos:altLabel "shorebirds"');
    await put(house.path('words.ttl'), turtle.out);
    expect((await tally('words', 'import', house.path('words.ttl'), '--json')).lines).toMatchObject([
      { added: 0, changed: 0, same: 2 },
    ]);
    await put(file, 'word,broader\nbirds,waders\n');
    expect(await tally('words', 'import', file, '--apply')).toMatchObject({
      ...{ code: 1, err: expect.stringContaining('Line 2: birds would be broader than itself') as unknown },
    });
    expect((await tally('words', 'list', '--json')).lines).toContainEqual(
      expect.objectContaining({ word: 'waders', broader: 'birds' }),
    );
  });

  it('terms and locations stand in sheets by name, words between bars', async () => {
    await put(house.path('where.csv'), 'name\nHeron Bend\n');
    expect((await tally('locations', 'import', house.path('where.csv'), '--apply')).code).toBe(0);
    const file = house.path('more.csv');
    await put(file, 'short name,location,words,terms\nbird-count,heron bend,birds | low tide,None Such\n');
    const wrong = await tally('assignments', 'import', file, '--apply');
    expect([wrong.code, wrong.out]).toEqual([1, expect.stringContaining('Line 2 terms “None Such” is not in the list')]);
    await put(file, 'short name,location,words\nbird-count,heron bend,birds | low tide\n');
    expect((await tally('assignments', 'import', file, '--apply')).code).toBe(0);
    expect((await tally('assignments', 'list', '--json')).lines).toContainEqual(
      expect.objectContaining({ 'short name': 'bird-count', location: 'Heron Bend', words: 'birds | low tide', terms: '' }),
    );
    await put(file, (await tally('assignments', 'export')).out);
    expect((await tally('assignments', 'import', file, '--json')).lines).toMatchObject([{ added: 0, changed: 0 }]);
  });

  it('a sheet with a few columns changes those and nothing else', async () => {
    await put(house.path('few.csv'), 'short name,description\nreed-planting,Along the new bank\n');
    const before = (await tally('assignments', 'list', '--json')).lines.find((line) => line['short name'] === 'reed-planting')!;
    expect((await tally('assignments', 'import', house.path('few.csv'), '--apply')).code).toBe(0);
    const after = (await tally('assignments', 'list', '--json')).lines.find((line) => line['short name'] === 'reed-planting');
    expect(after).toEqual({ ...before, description: 'Along the new bank' });
    await put(house.path('few.csv'), 'word,note\nwaders,at low tide\n');
    expect((await tally('words', 'import', house.path('few.csv'), '--apply')).code).toBe(0);
    expect((await tally('words', 'list', '--json')).lines).toContainEqual(
      expect.objectContaining({
        word: 'waders',
        broader: 'birds',
        synonyms: 'shorebirds',
        languages: 'pt: limícolas',
        note: 'at low tide',
      }),
    );
  });

  it('an unknown country is refused by line', async () => {
    await put(house.path('places.csv'), 'name,country\nMallow Reach,UK\n');
    expect(await tally('locations', 'import', house.path('places.csv'))).toMatchObject({
      ...{ code: 1, out: expect.stringContaining('Line 2 country is no country code of ISO 3166-1') as unknown },
    });
  });
});

describe('tally credit and tally habit', () => {
  it('what is said of filed items is shown and changed, by intake and by path', async () => {
    const card = await makeCard(house.path('card-credit'), { 'DCIM/7.JPG': 700, 'DCIM/8.JPG': 800 }, 70);
    const filed = await tally('file', card, ...SLIP, '--json');
    const to = filed.lines.flatMap((line) => (typeof line['to'] === 'string' ? [line['to']] : []));
    expect(
      (await tally('credit', to[0]!, '--set', 'credit=Ada Reed', '--set', 'words=+otter, dusk', '--set', 'pictured=Tomas Reed'))
        .code,
    ).toBe(0);
    const shown = await tally('credit', ...to, '--json');
    expect(shown.lines).toMatchObject([
      { path: to[0], creditLine: 'Ada Reed', keywords: ['otter', 'dusk'], personShown: [{ name: 'Tomas Reed', consent: 'ask' }] },
      { path: to[1], creditLine: expect.stringMatching(/^Ines Barrow \//) },
    ]);
    expect((await tally('credit', house.path('shared', to[0]!), '--set', 'words=-dusk')).code).toBe(0);
    expect((await tally('credit', to[0]!, '--json')).lines).toMatchObject([{ keywords: ['otter'] }]);
    expect((await tally('credit', 'nowhere/at-all.jpg')).code).toBe(2);
    expect(await tally('credit', to[0]!, '--set', 'terms=Unheard of')).toMatchObject({
      code: 2,
      err: expect.stringContaining('no terms called') as unknown,
    });
    expect(await tally('credit', to[0]!, '--set', 'credit={nobody}')).toMatchObject({
      code: 2,
      err: expect.stringContaining('no field {nobody}') as unknown,
    });
  });

  it('a habit fills the slip of the next card', async () => {
    expect(
      (
        await tally(
          'habit',
          'add',
          'Ines always',
          '--belongs',
          'contributor:IB',
          '--answer',
          'credit=I. Barrow',
          '--answer',
          'words=marsh',
        )
      ).code,
    ).toBe(0);
    const card = await makeCard(house.path('card-habit'), { 'DCIM/9.JPG': 711 }, 71);
    const filed = await tally('file', card, ...SLIP, '--json');
    const to = filed.lines.flatMap((line) => (typeof line['to'] === 'string' ? [line['to']] : []));
    expect((await tally('credit', ...to, '--json')).lines).toMatchObject([{ creditLine: 'I. Barrow', keywords: ['marsh'] }]);
    expect((await tally('habit', 'change', 'Ines always', '--answer', 'words=')).code).toBe(0);
    expect((await tally('habit', 'list', '--json')).lines).toMatchObject([
      { name: 'Ines always', answers: { creditLine: 'I. Barrow' } },
    ]);
    expect((await tally('habit', 'retire', 'Ines always')).code).toBe(0);
    expect((await tally('habit', 'add', 'x', '--belongs', 'nobody')).code).toBe(2);
  });
});

describe('tally house recount', () => {
  it('finds nothing where nothing is wrong; says in words what somebody changed by hand, and mends it', async () => {
    const card = await makeCard(house.path('card-recount'), { 'DCIM/7.JPG': 613 }, 72);
    expect((await tally('file', card, ...SLIP)).code).toBe(0);
    expect(await tally('house', 'recount')).toMatchObject({ code: 0, out: 'Every total is what a plain count finds.\n' });
    const owner = new pg.Client({ connectionString: house.database.adminUrl });
    await owner.connect();
    await owner.query(
      'update filed_folder set items = items + 2, bytes = 1 where newest = (select max(newest) from filed_folder)',
    );
    await owner.end();
    const { code, out } = await tally('house', 'recount');
    expect([code, out]).toEqual([
      1,
      expect.stringMatching(
        /^folder 2026\/.*: items was kept as \d+, and is \d+\.\nfolder .*: bytes was kept as 1, and is \d+\.\n2 totals differed, and are right now\.\n$/,
      ),
    ]);
    expect((await tally('house', 'recount', '--json')).lines).toEqual([]);
  });
});
