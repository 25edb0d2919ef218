import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  DEFAULT_RULE,
  foldName,
  folderScope,
  nameFaults,
  parseRule,
  ruleOf,
  type HouseRule,
  type SequenceScope as RuleScope,
} from '../rule/index.js';
import { kindOf, objectsOf } from '../card/index.js';
import {
  EMPTY_DRIVE,
  makePlan,
  planDifference,
  planTargets,
  planText,
  type DriveView,
  type PlanItem,
  type PlanSlip,
} from './index.js';

const parsed = parseRule(DEFAULT_RULE);
if (!parsed.ok) throw new Error(parsed.error.message);
const RULE = parsed.rule;
const FOLDER = '2026/2026-04/2026-04-18_reed-planting';

const SLIP: PlanSlip = {
  contributor: { code: 'IB', name: 'Ines Barrow' },
  assignment: { slug: 'reed-planting', title: 'Reed planting day' },
  cardLabel: 'C-014',
  received: '2026-04-21T17:42:00',
  filed: '2026-04-21T17:58:00',
  intake: '2026-0412',
};

/** Items of one morning, a minute apart, in the order given. */
function items(paths: readonly string[], change: (item: PlanItem, index: number) => Partial<PlanItem> = () => ({})): PlanItem[] {
  const objects = objectsOf(paths.map((path) => ({ path })));
  const placed = (path: string) => {
    const { object, role, part, parts, structure, root } = objects.get(path)!;
    return { leader: object, objectRole: role, part, parts, structure, structureRoot: root };
  };
  return paths.map((path, index) => {
    const item: PlanItem = {
      id: index + 1,
      path,
      bytes: 1000,
      kind: kindOf(path),
      captured: `2026-04-18T09:${String(index % 60).padStart(2, '0')}:00`,
      camera: { make: 'Halden', model: 'M4' },
      ...placed(path),
      taken: true,
      setAside: null,
      alreadyFiled: null,
      problem: null,
    };
    return { ...item, ...change(item, index) };
  });
}

const drive = (names: readonly string[], next = 1): DriveView => ({
  folders: new Map([[foldName(FOLDER), FOLDER]]),
  names: new Map([[foldName(FOLDER), new Set(names.map(foldName))]]),
  next: new Map([[folderScope(FOLDER), next]]),
});
const namesOf = (plan: ReturnType<typeof makePlan>) => plan.placements.map((placement) => placement.name);

describe('a plan', () => {
  it('numbers in capture order, not in order of the camera’s numbers', () => {
    const plan = makePlan(items(['A/IMG_9999.JPG', 'A/IMG_0001.JPG']), SLIP, RULE, EMPTY_DRIVE);
    expect(plan.placements.map(({ from, name }) => [from, name])).toEqual([
      ['A/IMG_9999.JPG', '20260418_IB_0001.jpg'],
      ['A/IMG_0001.JPG', '20260418_IB_0002.jpg'],
    ]);
    expect(plan.folders).toEqual([{ path: FOLDER, isNew: true, items: 2, bytes: 2000 }]);
    expect(plan.numbers).toEqual([{ scope: folderScope(FOLDER), first: 1, next: 3 }]);
  });

  it('a raw and its JPEG share one number', () => {
    const plan = makePlan(items(['A/CK2_1.JPG', 'A/CK2_1.DNG', 'A/CK2_2.JPG']), SLIP, RULE, EMPTY_DRIVE);
    expect(namesOf(plan).sort()).toEqual(['20260418_IB_0001.dng', '20260418_IB_0001.jpg', '20260418_IB_0002.jpg']);
  });

  it('a companion whose leader stays on the card keeps the leader’s date and its own number', () => {
    const plan = makePlan(
      items(['A/CK2_1.JPG', 'A/CK2_1.DNG'], (item) =>
        item.kind === 'photo' ? { taken: false } : { captured: '1980-01-01T00:00:00' },
      ),
      SLIP,
      RULE,
      EMPTY_DRIVE,
    );
    expect(plan.placements).toMatchObject([{ folder: FOLDER, name: '20260418_IB_0001.dng' }]);
  });

  it('goes on where the folder’s numbers ended, and never over a stranger’s file', () => {
    const plan = makePlan(items(['A/1.JPG', 'A/2.JPG']), SLIP, RULE, drive(['20260418_ib_0008.JPG'], 7));
    expect(namesOf(plan)).toEqual(['20260418_IB_0007.jpg', '20260418_IB_0009.jpg']);
    expect(plan.clashes).toEqual([
      { itemId: 2, wanted: '20260418_IB_0008.jpg', given: '20260418_IB_0009.jpg', with: 'the drive' },
    ]);
    expect(plan.folders[0]!.isNew).toBe(false);
  });

  it('two names that differ only in case do not meet on the drive', () => {
    const rule = parseRule({ folderLine: 'x', fileLine: '{original}' });
    if (!rule.ok) throw new Error('rule');
    const plan = makePlan(items(['A/img.jpg', 'B/IMG.JPG', 'C/Img.Jpg']), SLIP, rule.rule, EMPTY_DRIVE);
    expect(namesOf(plan)).toEqual(['img.jpg', 'IMG-2.jpg', 'Img-3.jpg']);
    expect(plan.clashes.map((clash) => clash.with)).toEqual(['this card', 'this card']);
  });

  it('uses the drive’s own spelling of a folder', () => {
    const spelt = '2026/2026-04/2026-04-18_Reed-Planting';
    const plan = makePlan(items(['A/1.JPG']), SLIP, RULE, { ...EMPTY_DRIVE, folders: new Map([[foldName(spelt), spelt]]) });
    expect(plan.placements[0]!.folder).toBe(spelt);
    expect(plan.folders).toMatchObject([{ path: spelt, isNew: false }]);
  });

  it('says why each item is left', () => {
    const reasons: Partial<PlanItem>[] = [
      { taken: false },
      { setAside: 'camera index' },
      { problem: 'a symbolic link: not followed, not filed' },
      { alreadyFiled: 'x/y.jpg' },
    ];
    const plan = makePlan(
      items(['1.JPG', '2.JPG', '3.JPG', '4.JPG'], (_item, index) => reasons[index]!),
      SLIP,
      RULE,
      EMPTY_DRIVE,
    );
    expect(plan.placements).toEqual([]);
    expect(plan.left.map((item) => item.reason)).toEqual([
      'left by choice',
      'set aside: camera index',
      'a symbolic link: not followed, not filed',
      'already filed as x/y.jpg',
    ]);
  });

  it('asks for what the slip does not say, and only when the rule needs it', () => {
    const bare = { ...SLIP, contributor: null, assignment: null };
    expect(makePlan(items(['1.JPG']), bare, RULE, EMPTY_DRIVE)).toMatchObject({
      missing: ['contributor', 'assignment'],
      placements: [],
    });
    expect(planTargets(items(['1.JPG']), bare, RULE).folders).toEqual([]);
    const plain = parseRule({ folderLine: '{captured:yyyy}', fileLine: '{n}' });
    expect(plain.ok && makePlan(items(['1.JPG']), bare, plain.rule, EMPTY_DRIVE).missing).toEqual([]);
  });

  it('two days go to two folders, each with numbers of its own', () => {
    const plan = makePlan(
      items(['1.JPG', '2.JPG', '3.JPG'], (_item, index) => ({ captured: `2026-04-1${index === 2 ? 9 : 8}T10:0${index}:00` })),
      SLIP,
      RULE,
      EMPTY_DRIVE,
    );
    expect(plan.folders.map((folder) => folder.items)).toEqual([2, 1]);
    expect(plan.placements[2]).toMatchObject({ folder: '2026/2026-04/2026-04-19_reed-planting', n: 1 });
  });
});

describe('what holds for every plan', () => {
  const card = fc
    .uniqueArray(
      fc.tuple(
        fc.constantFrom('A', 'B', 'a'),
        fc.constantFrom('x', 'X', 'y', 'é', 'e\u0301', 'con'),
        fc.constantFrom('JPG', 'jpg', 'DNG', 'MP4', 'xml'),
      ),
      {
        selector: (parts) => parts.join('/'),
        maxLength: 40,
      },
    )
    .map((parts) => parts.map(([folder, stem, ext]) => `${folder}/${stem}.${ext}`));
  const rules = fc.constantFrom<[string, string]>(
    [DEFAULT_RULE.folderLine, DEFAULT_RULE.fileLine],
    ['{captured:yyyy}', '{original}'],
    ['one', 'same'],
    ['{kind}', '{n}'],
    ['', '{original:lower}[_{card.label}]'],
  );
  const strangers = fc.array(fc.constantFrom('20260418_IB_0001.jpg', '20260418_ib_0002.JPG', 'x.jpg', 'same.jpg', '1.jpg'));

  it('no two items get one name, none gets a stranger’s, all names are legal, all items are accounted for', () => {
    fc.assert(
      fc.property(card, rules, strangers, (paths, [folderLine, fileLine], taken) => {
        const source = parseRule({ folderLine, fileLine });
        if (!source.ok) throw new Error(source.error.message);
        const rule: HouseRule = source.rule;
        const all = items(paths, (_item, index) => (index % 7 === 3 ? { taken: false } : {}));
        const folders = planTargets(all, SLIP, rule).folders;
        const there = new Set(taken.map(foldName));
        const plan = makePlan(all, SLIP, rule, {
          folders: new Map(),
          names: new Map(folders.map((folder) => [foldName(folder), there])),
          next: new Map(),
        });
        const full = plan.placements.map((p) => foldName(`${p.folder}/${p.name}`));
        expect(new Set(full).size).toBe(full.length);
        for (const placement of plan.placements) {
          expect(there.has(foldName(placement.name))).toBe(false);
          expect(nameFaults(placement.name)).toEqual([]);
          for (const part of placement.folder.split('/').filter(Boolean)) expect(nameFaults(part)).toEqual([]);
        }
        expect(plan.placements.length + plan.left.length).toBe(paths.length);
        expect(plan.bytes).toBe(plan.placements.reduce((sum, p) => sum + p.bytes, 0));
      }),
      { numRuns: 300 },
    );
  });

  it('the order in which a card is listed does not matter', () => {
    fc.assert(
      fc.property(card, fc.infiniteStream(fc.nat()), (paths, keys) => {
        const all = items(paths);
        const shuffled = [...all].map((item) => ({ item, key: keys.next().value as number })).sort((a, b) => a.key - b.key);
        const text = (list: readonly PlanItem[]) =>
          planText(makePlan(list, SLIP, RULE, EMPTY_DRIVE))
            .split('\n')
            .sort();
        expect(text(shuffled.map(({ item }) => item))).toEqual(text(all));
      }),
    );
  });
});

describe('the difference between what was shown and what is', () => {
  it('names each item whose place changed, came or went', () => {
    const shown = makePlan(items(['1.JPG', '2.JPG']), SLIP, RULE, EMPTY_DRIVE);
    const now = makePlan(
      items(['1.JPG', '2.JPG', '3.JPG'], (_item, index) => (index === 0 ? { taken: false } : {})),
      SLIP,
      RULE,
      drive([], 5),
    );
    expect(planDifference(shown, now)).toEqual([
      { from: '2.JPG', shown: `${FOLDER}/20260418_IB_0002.jpg`, now: `${FOLDER}/20260418_IB_0005.jpg` },
      { from: '3.JPG', shown: null, now: `${FOLDER}/20260418_IB_0006.jpg` },
      { from: '1.JPG', shown: `${FOLDER}/20260418_IB_0001.jpg`, now: null },
    ]);
    expect(planDifference(now, now)).toEqual([]);
  });
});

describe('a card that is split', () => {
  const survey = { slug: 'tide-survey', title: 'Spring tide survey' };
  const noor = { code: 'NA', name: 'Noor Adeyemi' };

  it('feeds several folders under several names, each with numbers of its own', () => {
    const plan = makePlan(
      items(['A/IMG_1.JPG', 'A/IMG_2.JPG', 'A/IMG_3.JPG'], (_, index) =>
        index === 1 ? { assignment: survey, contributor: noor } : {},
      ),
      SLIP,
      RULE,
      EMPTY_DRIVE,
    );
    expect(plan.placements.map(({ from, folder, n }) => [from, folder.split('_').at(-1), n])).toEqual([
      ['A/IMG_1.JPG', 'reed-planting', 1],
      ['A/IMG_2.JPG', 'tide-survey', 1],
      ['A/IMG_3.JPG', 'reed-planting', 2],
    ]);
    expect(plan.folders.map(({ items: n }) => n)).toEqual([2, 1]);
  });

  it('companions go where their leader goes, whatever they say themselves', () => {
    const plan = makePlan(
      items(['A/P1.JPG', 'A/P1.DNG'], (item) => (item.path.endsWith('JPG') ? { assignment: survey } : {})),
      SLIP,
      RULE,
      EMPTY_DRIVE,
    );
    expect(new Set(plan.placements.map(({ folder }) => folder.split('_').at(-1)))).toEqual(new Set(['tide-survey']));
  });

  it('needs no assignment on the slip when every item has its own', () => {
    const empty = { ...SLIP, assignment: null };
    const some = items(['A/IMG_1.JPG', 'A/IMG_2.JPG'], (_, index) => (index === 0 ? { assignment: survey } : {}));
    expect(makePlan(some, empty, RULE, EMPTY_DRIVE)).toMatchObject({ missing: ['assignment'], placements: [] });
    expect(makePlan(some.slice(0, 1), empty, RULE, EMPTY_DRIVE)).toMatchObject({ missing: [], placements: [{ n: 1 }] });
    expect(makePlan([], empty, RULE, EMPTY_DRIVE).missing).toEqual(['assignment']);
  });
});

describe('sequences', () => {
  const numbered = (fileLine: string, scope: RuleScope, start = 1) =>
    ruleOf({ folderLine: '{captured:yyyy}', fileLine, settings: { sequence: { scope, start } } });
  const shots = (days: readonly string[]) =>
    items(
      days.map((_, index) => `A/IMG_${String(index + 1).padStart(4, '0')}.JPG`),
      (_, index) => ({ captured: `${days[index]!}T09:00:0${index}` }),
    );

  it('run within a day, an intake, or without end', () => {
    const days = ['2026-04-18', '2026-04-18', '2026-04-19'];
    const plan = (scope: RuleScope, next = new Map<string, number>()) =>
      namesOf(makePlan(shots(days), SLIP, numbered('{captured:dd}_{n}', scope), { ...EMPTY_DRIVE, next }));
    expect(plan('day')).toEqual(['18_1.jpg', '18_2.jpg', '19_1.jpg']);
    expect(plan('intake')).toEqual(['18_1.jpg', '18_2.jpg', '19_3.jpg']);
    expect(plan('never ends', new Map([['house', 812]]))).toEqual(['18_812.jpg', '18_813.jpg', '19_814.jpg']);
  });

  it('begin where the house says, and grow past their width', () =>
    expect(namesOf(makePlan(shots(['2026-04-18', '2026-04-18']), SLIP, numbered('{n:000}', 'folder', 999), EMPTY_DRIVE))).toEqual(
      ['999.jpg', '1000.jpg'],
    ));

  it('a number that only tells equal names apart comes with the second, and counts what stands on the drive', () => {
    const rule = numbered('{original.number}[-{n}]', 'same name');
    const three = items(['A/IMG_0417.JPG', 'B/HM4_0417.JPG', 'B/HM4_0418.JPG']);
    expect(namesOf(makePlan(three, SLIP, rule, EMPTY_DRIVE))).toEqual(['0417.jpg', '0417-2.jpg', '0418.jpg']);
    // A raw of another exposure stands there: the JPEG must not look like its companion.
    const there = new Map([[foldName('2026'), new Set(['0418.arw'])]]);
    expect(namesOf(makePlan(three, SLIP, rule, { ...EMPTY_DRIVE, names: there }))).toEqual([
      '0417.jpg',
      '0417-2.jpg',
      '0418-2.jpg',
    ]);
  });

  it('companions share such a number too', () => {
    const rule = numbered('{original.number}[-{n}]', 'same name');
    const pairs = items(['A/X_0001.JPG', 'A/X_0001.ARW', 'B/Y_0001.JPG', 'B/Y_0001.ARW']);
    expect(namesOf(makePlan(pairs, SLIP, rule, EMPTY_DRIVE)).sort()).toEqual([
      '0001-2.arw',
      '0001-2.jpg',
      '0001.arw',
      '0001.jpg',
    ]);
  });
});

describe('lines for a kind', () => {
  const rule = ruleOf({
    folderLine: '{captured:yyyy}/{captured:MM}',
    fileLine: '{captured:yyyyMMdd}_{n:000}',
    kinds: { video: { folderLine: 'Video/{captured:yyyy}/{captured:MM}' } },
  });

  it('video has a tree of its own, its sidecar goes with it, and stills stay where they were', () => {
    const plan = makePlan(items(['A/CLIP1.MP4', 'A/CLIP1.XML', 'A/IMG_1.JPG']), SLIP, rule, EMPTY_DRIVE);
    expect(plan.placements.map(({ folder, name }) => `${folder}/${name}`)).toEqual([
      'Video/2026/04/20260418_001.mp4',
      'Video/2026/04/20260418_001.xml',
      '2026/04/20260418_001.jpg',
    ]);
    expect(planTargets(items(['A/CLIP1.MP4', 'A/IMG_1.JPG']), SLIP, rule).folders).toEqual(['Video/2026/04', '2026/04']);
  });
});

describe('a kind that alone is numbered', () => {
  it('draws from its counter, also when its leader has no number', () => {
    const rule = ruleOf({ folderLine: 'x', fileLine: '{original}', kinds: { raw: { folderLine: 'raw', fileLine: '{n:000}' } } });
    const pair = items(['A/1.JPG', 'A/1.ARW']);
    expect(planTargets(pair, SLIP, rule).scopes).toEqual([folderScope('raw')]);
    const next = new Map([[folderScope('raw'), 7]]);
    const plan = makePlan(pair, SLIP, rule, { ...EMPTY_DRIVE, next });
    expect(namesOf(plan).sort()).toEqual(['007.arw', '1.jpg']);
    expect(plan.numbers).toEqual([{ scope: folderScope('raw'), first: 7, next: 8 }]);
  });
});

describe('what nobody says', () => {
  it("is written as the house's word and listed, unless it is optional", () => {
    const cameraless = items(['A/IMG_1.JPG'], () => ({ camera: { make: null, model: null } }));
    const plan = makePlan(cameraless, SLIP, ruleOf({ folderLine: '{camera}', fileLine: '[{camera.make}_]{n}' }), EMPTY_DRIVE);
    expect(plan.placements.map(({ folder, name }) => `${folder}/${name}`)).toEqual(['unknown/1.jpg']);
    expect(plan.unsaid).toEqual([{ itemId: 1, field: 'camera' }]);
  });
});
