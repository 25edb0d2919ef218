import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { EXAMPLE, foldName, nameItems, ruleOf, STARTERS, type RuleContext } from '../rule/index.js';
import type { PlanItem, PlanSlip } from '../plan/index.js';
import {
  asFolders,
  compareFolder,
  dayOf,
  faultsOf,
  findDay,
  inTurn,
  isSameTime,
  isSmallerOf,
  type KnownCopy,
  leftoverReason,
  legalPath,
  maybeMoved,
  NameReader,
  nameVerdict,
  refile,
  type Refiled,
  type Step,
  type Stood,
} from './index.js';

const AT = Date.UTC(2026, 3, 18, 9, 12, 31);
const stood = (path: string, bytes = 100, modifiedMs = AT): Stood => ({ path, bytes, modifiedMs, problem: null });
const known = (path: string, more: Partial<KnownCopy> = {}): KnownCopy => ({
  ...{ filedItemId: path.length, path, bytes: 100, modifiedMs: AT, state: 'tallied', hasSidecar: false },
  ...{ elsewhere: 1, waiting: false },
  ...more,
});

describe('comparing a folder with the logbook', () => {
  it('what has its size and time is as it was filed; FAT’s two seconds and a summer hour are no difference', () => {
    for (const apart of [0, 1_999, 2_000, 3_600_000, 3_601_500, -7_200_000]) expect(isSameTime(AT, AT + apart)).toBe(true);
    for (const apart of [2_001, 60_000, 1_800_000, 15 * 3_600_000]) expect(isSameTime(AT, AT + apart)).toBe(false);
    const { same, doubtful, absent, strays } = compareFolder([stood('a/1.jpg', 100, AT + 1_500)], [known('a/1.jpg')]);
    expect([same.length, doubtful.length, absent.length, strays.length]).toEqual([1, 0, 0, 0]);
  });

  it('another size or another day is looked at, what is gone is absent, what nobody filed is a stray', () => {
    const { doubtful, absent, strays } = compareFolder(
      [stood('a/1.jpg', 101), stood('a/2.jpg', 100, AT + 86_400_000), stood('a/new.jpg')],
      [known('a/1.jpg'), known('a/2.jpg'), known('a/3.jpg'), known('a/4.jpg', { state: 'copying' })],
    );
    expect(doubtful.map((one) => one.known.path)).toEqual(['a/1.jpg', 'a/2.jpg']);
    expect(absent.map(({ path }) => path)).toEqual(['a/3.jpg']);
    expect(strays.map(({ path }) => path)).toEqual(['a/new.jpg']);
  });

  it('what we write beside files is nobody’s stray, nor is a sidecar of ours', () => {
    const ours = ['checksums.xxh128', 'intake-2026-0412.json', '.tally-3-4.part', 'moved-away.json', '1.jpg.xmp'].map((name) =>
      stood(`a/${name}`),
    );
    const { strays, findings } = compareFolder([stood('a/1.jpg'), ...ours], [known('a/1.jpg', { hasSidecar: true })]);
    expect([strays, findings]).toEqual([[], []]);
  });

  it('leftovers, half files, lone sidecars, names that differ by case and names no system keeps are told apart', () => {
    const { findings, half, strays } = compareFolder(
      [
        'Thumbs.db',
        '~$notes.docx',
        'clip.mp4.part',
        'lost.xmp',
        'Hafen.jpg',
        'hafen.JPG',
        'what?.jpg',
        `${'x'.repeat(256)}.jpg`,
      ].map((name) => stood(`a/${name}`)),
      [],
    );
    expect(findings.map(({ kind, path }) => `${kind} ${path.slice(2, 14)}`).sort()).toEqual(
      [
        'leftover Thumbs.db',
        'leftover ~$notes.docx',
        'left alone lost.xmp',
        'case apart hafen.JPG',
        'illegal what?.jpg',
        `too long ${'x'.repeat(12)}`,
      ].sort(),
    );
    expect(half.map(({ path }) => path)).toEqual(['a/clip.mp4.part']);
    expect(strays).toHaveLength(4);
  });

  it('what a list of a house before names is a stray to add, also alone; the sidecars that it wrote go with their files', () => {
    const names = ['notes.txt', 'lost.xmp', '1.dng', '1.dng.xmp', 'other.txt', '2.dng', '2.dng.xmp'];
    const listed = new Set(['notes.txt', '1.dng', '1.dng.xmp', '2.dng', '2.dng.xmp']);
    const { strays, findings } = compareFolder(
      names.map((name) => stood(`a/${name}`)),
      [known('a/2.dng')],
      { listed },
    );
    // What is filed here has the sidecar that this house wrote, or none of ours.
    expect(strays.map(({ path }) => path)).toEqual(['a/notes.txt', 'a/1.dng', 'a/2.dng.xmp']);
    expect(findings.map(({ kind, path }) => [kind, path])).toEqual([
      ['left alone', 'a/lost.xmp'],
      ['left alone', 'a/other.txt'],
    ]);
  });

  it('a phone’s hidden file is somebody’s on a drive, a wastebasket is not', () => {
    expect(leftoverReason('a/.hidden.jpg')).toBe(null);
    expect(leftoverReason('.Trashes/501/a.jpg')).not.toBe(null);
    expect(leftoverReason('@eaDir/a.jpg')).not.toBe(null);
  });

  it('strays of the same size and time come first among what a missing copy may have become', () => {
    const [one] = maybeMoved(
      [known('a/1.jpg')],
      [stood('b/x.jpg', 100, AT + 99_999_999), stood('b/1.jpg'), stood('b/y.jpg', 7), stood('b/0.jpg', 0)],
    );
    expect(one!.strays.map(({ path }) => path)).toEqual(['b/1.jpg', 'b/x.jpg']);
  });
});

describe('a picture in another size', () => {
  const of = (width: number, height: number, takenMs: number | null = null) => ({ width, height, takenMs });
  it('is smaller, of the same shape, turned or not, and of the same moment where both say one', () => {
    expect(isSmallerOf(of(1200, 800), of(6000, 4000))).toBe(true);
    expect(isSmallerOf(of(800, 1200), of(6000, 4000))).toBe(true);
    expect(isSmallerOf(of(6000, 4000), of(1200, 800))).toBe(false);
    expect(isSmallerOf(of(5990, 3993), of(6000, 4000))).toBe(false);
    expect(isSmallerOf(of(1200, 900), of(6000, 4000))).toBe(false);
    expect(isSmallerOf(of(1200, 800, 0), of(6000, 4000, 2_000))).toBe(true);
    expect(isSmallerOf(of(1200, 800, 0), of(6000, 4000, 3_000))).toBe(false);
    expect(isSmallerOf(of(1200, 800), of(6000, 4000, 3_000))).toBe(true);
    expect(isSmallerOf(of(0, 0), of(6000, 4000))).toBe(false);
  });

  it('of any size that scaling gives is known, down to a hundred pixels', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1_000, max: 9_000 }),
        fc.integer({ min: 1_000, max: 9_000 }),
        fc.double({ min: 0.1, max: 0.9, noNaN: true }),
        (width, height, by) => {
          expect(isSmallerOf(of(Math.round(width * by), Math.round(height * by)), of(width, height))).toBe(true);
        },
      ),
    );
  });
});

describe('names read back', () => {
  const lists = {
    contributors: [
      { id: 1, name: 'Ines Barrow', codes: ['IB'] },
      { id: 2, name: 'Mateo Sorrel', codes: ['MS', 'MSO'] },
    ],
    assignments: [
      { id: 7, slug: 'reed-planting', title: 'Reed planting day', from: '2026-04-18', to: '2026-04-18' },
      { id: 8, slug: 'heron-count', title: 'Heron count', from: '2026-05-02', to: '2026-05-03' },
    ],
  };

  it.each(STARTERS.map((starter) => [starter.id, starter] as const))(
    '1,000 names of the habit %s say the day and whoever they name',
    (_id, { title, rule }) => {
      const parsed = ruleOf(rule);
      const contexts = Array.from({ length: 1_000 }, (_, n): RuleContext => {
        const day = new Date(Date.UTC(2024, 0, 1) + n * 86_400_000 * 0.8).toISOString().slice(0, 19);
        const [contributor, assignment] = [lists.contributors[n % 2]!, lists.assignments[n % 2]!];
        return {
          ...EXAMPLE,
          captured: day,
          contributor: { code: contributor.codes[0]!, name: contributor.name },
          assignment,
          n: null,
        };
      });
      const reader = new NameReader([{ name: title, rule: parsed }], lists);
      const named = nameItems(parsed, contexts);
      let days = 0;
      for (const { path, context, written } of named) {
        const says = reader.read(path);
        const wrote = written.filter(({ name }) => name === 'captured').map(({ format }) => format ?? '');
        const hasDay = ['d', 'M', 'y'].every((letter) => wrote.join('').includes(letter));
        if (hasDay) {
          expect([path, says.day]).toEqual([path, context.captured.slice(0, 10)]);
          days++;
        }
        if (written.some(({ name }) => name === 'contributor.code'))
          expect([path, says.contributorId]).toEqual([
            path,
            lists.contributors.find(({ name }) => name === context.contributor!.name)!.id,
          ]);
        if (written.some(({ name }) => name === 'assignment.slug'))
          expect([path, says.assignmentId]).toEqual([
            path,
            lists.assignments.find(({ slug }) => slug === context.assignment!.slug)!.id,
          ]);
      }
      // A habit that names no day says none.
      expect([0, named.length]).toContain(days);
    },
  );

  it.each([
    ['2021/05 May/2021-05-17 Harbour walk/IB_0007.jpg', { day: '2021-05-17', title: 'Harbour walk', contributorId: 1, n: 7 }],
    ['2019/20190518_dune walk/DSC00012.JPG', { day: '2019-05-18', title: 'Dune walk', contributorId: null }],
    ['Fotos/18.05.2019 Reed planting day/x.jpg', { day: '2019-05-18', assignmentId: null, title: 'Reed planting day' }],
    ['Fotos/Reed planting day/x.jpg', { day: null, assignmentId: 7, title: null }],
    ['new folder (2)/scan 3.jpg', { day: null, title: null, contributorId: null, n: 3 }],
    ['untitled 3/IMG_20240511_0900.jpg', { day: '2024-05-11', title: null }],
    ['Mateo Sorrel/2022/07/heron.jpg', { month: '2022-07', contributorId: 2 }],
    ['2020/2020-02-31 no such day/a.jpg', { day: null }],
  ])('%s, by its words', (path, says) => expect(new NameReader([], lists).read(path)).toMatchObject(says));

  it('days of the calendar only, however they are written', () => {
    expect(findDay('04-25-2021 party')).toMatchObject({ year: 2021, month: 4, day: 25, rest: 'party' });
    expect(dayOf({ year: 2021, month: 2, day: 29 })).toBe(null);
    expect(dayOf({ year: 2024, month: 2, day: 29 })).toBe('2024-02-29');
  });
});

describe('what a name should be', () => {
  const rule = ruleOf(STARTERS[0]!.rule);
  const judged = (folder: string, name: string, more: Partial<RuleContext> = {}) => ({
    ...{ filedItemId: 1, folder, name, formerCodes: ['INB'] },
    context: { ...EXAMPLE, n: 7, ...more },
  });

  it('its own, one that differs because another stood there, and one with a code that was merged since are right', () => {
    const folder = '2026/2026-04/2026-04-18_reed-planting';
    for (const name of ['20260418_IB_0007.jpg', '20260418_IB_0007-2.jpg', '20260418_INB_0007.jpg'])
      expect(nameVerdict(rule, judged(folder, name))).toBe(null);
  });

  it('another day is a wrong date, another code or a shape of no rule is misnamed, and says what it should be', () => {
    expect(nameVerdict(rule, judged('2026/2026-04/2026-04-19_reed-planting', '20260419_IB_0007.jpg'))).toMatchObject({
      kind: 'wrong date',
      other: '2026/2026-04/2026-04-18_reed-planting/20260418_IB_0007.jpg',
    });
    expect(nameVerdict(rule, judged('2026/2026-04/2026-04-18_reed-planting', '20260418_PL_0007.jpg'))).toMatchObject({
      kind: 'misnamed',
    });
    expect(nameVerdict(rule, judged('new folder', 'x.jpg'))).toMatchObject({ kind: 'misnamed' });
  });
});

describe('the steps of a mend', () => {
  const step = (from: string, to: string): Step => ({ filedItemId: 1, from, to });

  /** Carries steps out on a set of names, as a file system that takes no two names for one. @throws when a name is taken. */
  function carried(names: ReadonlyMap<string, string>, steps: readonly Step[]): Map<string, string> {
    const now = new Map(names);
    for (const { from, to } of steps) {
      const [key, target] = [foldName(from), foldName(to)];
      const file = now.get(key);
      if (file === undefined) throw new Error(`${from} is not there`);
      now.delete(key);
      if (now.has(target)) throw new Error(`${to} is taken`);
      now.set(target, file);
    }
    return now;
  }

  it('whatever names are handed on among files, each is free when its turn comes, and all end where they should', () => {
    fc.assert(
      fc.property(
        fc.shuffledSubarray(
          Array.from({ length: 12 }, (_, n) => n),
          { minLength: 2 },
        ),
        fc.nat(11),
        (order, shift) => {
          const path = (n: number) => `f/${String.fromCharCode(97 + n)}.jpg`;
          const steps = order
            .map((n, index) => step(path(n), path(order[(index + shift) % order.length]!)))
            .filter(({ from, to }) => from !== to);
          const names = new Map(order.map((n) => [foldName(path(n)), `file ${n}`]));
          const turns = inTurn(steps, (n) => `.tally-${n}.part`);
          const after = carried(names, turns);
          for (const { from, to } of steps) expect(after.get(foldName(to))).toBe(names.get(foldName(from)));
          // Backwards they stand where they stood.
          expect(
            carried(
              after,
              inTurn(
                steps.map(({ from, to }) => step(to, from)),
                (n) => `.tally-${n}.part`,
              ),
            ),
          ).toEqual(names);
        },
      ),
      { numRuns: 500 },
    );
  });

  it('a name that changes by case only goes by way of another', () => {
    expect(inTurn([step('a/HAFEN.JPG', 'a/hafen.jpg')], (n) => `.t${n}`)).toEqual([
      step('a/HAFEN.JPG', 'a/.t0'),
      step('a/.t0', 'a/hafen.jpg'),
    ]);
  });

  it('nothing is replaced, no two meet, nothing leaves the place, and every name is legal', () => {
    const stands = (folded: string) => folded === 'b/there.jpg' || folded === 'a/2.jpg';
    const why = (steps: Step[]) => faultsOf(steps, stands).map((fault) => fault.why);
    expect(why([step('a/1.jpg', 'b/There.JPG')])).toEqual(['b/There.JPG stands there already']);
    expect(why([step('a/1.jpg', 'b/x.jpg'), step('a/2.jpg', 'b/X.jpg')])).toEqual(['a/1.jpg would be called the same']);
    expect(why([step('a/1.jpg', '../x.jpg')])).toEqual(['it would leave the place']);
    expect(why([step('a/1.jpg', 'b/con.jpg')])[0]).toMatch(/Windows keeps this name/);
    // What another step takes away does not stand in the way.
    expect(why([step('a/1.jpg', 'a/2.jpg'), step('a/2.jpg', 'a/3.jpg')])).toEqual([]);
  });

  it('a folder whose every file goes to the same place in another is renamed as a whole', () => {
    const steps = [step('a/b/1.jpg', 'c/b/1.jpg'), step('a/b/2.jpg', 'c/b/2.jpg')];
    expect(
      asFolders(
        steps,
        (folder) => (folder === 'a/b' || folder === 'a' ? 2 : 0),
        () => false,
      ),
    ).toEqual({ folders: [{ from: 'a', to: 'c' }], rest: [] });
    // Something else is filed in it, or something stands where it would go: file by file.
    expect(
      asFolders(
        steps,
        () => 3,
        () => false,
      ),
    ).toEqual({ folders: [], rest: steps });
    expect(
      asFolders(
        steps,
        () => 2,
        () => true,
      ),
    ).toEqual({ folders: [], rest: steps });
  });

  it('a legal name is another one, and free', () => {
    expect(legalPath('a/what?.jpg', () => false)).toBe('a/what-.jpg');
    expect(legalPath('a/what?.jpg', (folded) => folded === 'a/what-.jpg')).toBe('a/what--2.jpg');
    expect(legalPath('a/Hafen.jpg', (folded) => folded === 'a/hafen.jpg')).toBe('a/Hafen-2.jpg');
  });
});

describe('re-filing', () => {
  const rule = ruleOf(STARTERS[0]!.rule);
  const item = (id: number, path: string, leader = path): PlanItem => ({
    ...{
      id,
      path,
      bytes: 1,
      kind: path.endsWith('DNG') ? 'raw' : 'photo',
      captured: '2026-04-18T09:12:31',
      camera: { make: null, model: null },
    },
    ...{
      leader,
      objectRole: path === leader ? 'leader' : 'raw',
      part: null,
      parts: null,
      structure: 'dcf',
      structureRoot: null,
      taken: true,
    },
    ...{ setAside: null, alreadyFiled: null, problem: null },
  });
  const slip: PlanSlip = {
    ...{ contributor: { code: 'IB', name: 'Ines Barrow' }, assignment: { slug: 'reed-planting', title: 'Reed planting day' } },
    ...{ cardLabel: '', received: '2026-04-21T17:42:00', filed: '2026-04-21T17:58:00', intake: '2026-0001' },
  };
  const [jpeg, raw] = [item(1, 'A.JPG'), item(2, 'A.DNG', 'A.JPG')];
  const refiled = (one: PlanItem, from: string, change: Partial<PlanItem>): Refiled => ({
    ...{ filedItemId: one.id, item: { ...one, ...change }, lead: { ...jpeg, ...change }, slip, from, n: 7 },
    before: { item: one, lead: jpeg, slip },
  });
  const files = (change: Partial<PlanItem>) => [
    refiled(jpeg, '2026/2026-04/2026-04-18_reed-planting/20260418_IB_0007.jpg', change),
    refiled(raw, '2026/2026-04/2026-04-18_reed-planting/20260418_IB_0007.dng', change),
  ];
  const free = { isTaken: () => false, next: new Map<string, number>() };

  it('a raw and its JPEG go together, with one number of the new sequence', () => {
    const { steps, numbers } = refile(files({ assignment: { slug: 'heron-count', title: 'Heron count' } }), rule, {
      ...free,
      next: new Map([['folder:2026/2026-04/2026-04-18_heron-count', 12]]),
    });
    expect(steps.map(({ to }) => to)).toEqual([
      '2026/2026-04/2026-04-18_heron-count/20260418_IB_0012.dng',
      '2026/2026-04/2026-04-18_heron-count/20260418_IB_0012.jpg',
    ]);
    expect(numbers).toEqual([{ scope: 'folder:2026/2026-04/2026-04-18_heron-count', first: 12, next: 13 }]);
  });

  it('another contributor in the same folder keeps the number, which is drawn from the same sequence', () => {
    const { steps, numbers } = refile(files({ contributor: { code: 'PL', name: 'Priya Lind' } }), rule, free);
    expect(steps.map(({ to }) => to.slice(-19))).toEqual(['20260418_PL_0007.dng'.slice(-19), '20260418_PL_0007.jpg'.slice(-19)]);
    expect(numbers).toEqual([]);
  });

  it('what is called as it should be is left alone', () => expect(refile(files({}), rule, free).steps).toEqual([]));
});
