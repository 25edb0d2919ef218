import fc from 'fast-check';
import { kindOf, objectsOf } from '../card/index.js';
import { ruleOf, settingsOf, type RuleSource } from '../rule/index.js';
import {
  baseBelow,
  EMPTY_DRIVE,
  filedFolders,
  keptTogether,
  makePlan,
  planTargets,
  type Plan,
  type PlanItem,
  type PlanSlip,
} from './index.js';

const SLIP: PlanSlip = {
  contributor: { code: 'ST', name: 'Sefa Tuiasosopo' },
  assignment: { slug: 'tide-gate', title: 'Tide gate', from: '2026-04-20', to: '2026-04-20' },
  ...{ cardLabel: 'C-021', received: '2026-04-21T17:42:00', filed: '2026-04-21T17:58:00', intake: '2026-0412' },
};
const LINES = {
  folderLine: '{captured:yyyy}/{captured:yyyy-MM-dd}_{assignment.slug}',
  fileLine: '{captured:yyyyMMdd}_{contributor.code}_{n:0000}',
};
const ruleWith = (settings: RuleSource['settings'] = {}) => ruleOf({ ...LINES, settings });

/** A cinema card with a still beside its tree; every file a minute later than the one before. */
const CARD = [
  'DCIM/100ORRCN/ORRC0001.JPG',
  'PRIVATE/ORRROOT/CLIP/ORR0001.MP4',
  'PRIVATE/ORRROOT/CLIP/ORR0001M01.XML',
  'PRIVATE/ORRROOT/CLIP/ORR0002.MP4',
  'PRIVATE/ORRROOT/CLIP/ORR0002M01.XML',
  'PRIVATE/ORRROOT/SUB/ORR0001S03.MP4',
  'PRIVATE/ORRROOT/THMBNL/ORR0001T01.JPG',
  'PRIVATE/ORRROOT/INDEX.XML',
];

function items(paths: readonly string[], change: (path: string) => Partial<PlanItem> = () => ({})): PlanItem[] {
  const objects = objectsOf(paths.map((path) => ({ path })));
  return paths.map((path, index) => {
    const { object, role, part, parts, structure, root } = objects.get(path)!;
    return {
      ...{ id: index + 1, path, bytes: 1000, kind: kindOf(path) },
      captured: `2026-04-20T09:${String(index % 60).padStart(2, '0')}:00`,
      camera: { make: 'Orrery', model: 'Reel 8' },
      ...{ leader: object, objectRole: role, part, parts, structure, structureRoot: root },
      ...{ taken: true, setAside: null, alreadyFiled: null, problem: null },
      ...change(path),
    };
  });
}

const pathsOf = (plan: Plan) => new Map(plan.placements.map(({ from, folder, name }) => [from, `${folder}/${name}`]));
const BASE = '2026/2026-04-20_tide-gate/2026-0412_C-021';

describe('kept as on the card', () => {
  it('a structure that must stay whole keeps its folders and names, index included; what lies beside it gets a name', () => {
    const plan = makePlan(items(CARD), SLIP, ruleWith(), EMPTY_DRIVE);
    const paths = pathsOf(plan);
    for (const path of CARD.slice(1)) expect(paths.get(path)).toBe(`${BASE}/${path}`);
    expect(paths.get(CARD[0]!)).toBe('2026/2026-04-20_tide-gate/20260420_ST_0001.jpg');
    expect(plan.placements.filter(({ base }) => base === BASE).map(({ from }) => from)).toEqual([...CARD.slice(1)].sort());
  });

  it('one day for all of it: that of the first exposure, whatever the index says', () => {
    const old = items(CARD, (path) => (path.endsWith('INDEX.XML') ? { captured: '2019-01-01T00:00:00' } : {}));
    expect(pathsOf(makePlan(old, SLIP, ruleWith(), EMPTY_DRIVE)).get('PRIVATE/ORRROOT/INDEX.XML')).toBe(
      `${BASE}/PRIVATE/ORRROOT/INDEX.XML`,
    );
  });

  it('renamed where the house says so: each clip one number, its parts told by what they are', () => {
    const rule = ruleWith({ asOnCard: { structures: { 'clip root': 'rename' } } });
    const paths = pathsOf(makePlan(items(CARD), SLIP, rule, EMPTY_DRIVE));
    expect(paths.get('PRIVATE/ORRROOT/CLIP/ORR0001.MP4')).toMatch(/_0002\.mp4$/);
    expect(paths.get('PRIVATE/ORRROOT/CLIP/ORR0001M01.XML')).toMatch(/_0002\.xml$/);
    expect(paths.get('PRIVATE/ORRROOT/SUB/ORR0001S03.MP4')).toMatch(/_0002-proxy\.mp4$/);
  });

  it('the whole card, or one kind of it', () => {
    const folderLine = '{assignment.slug}/{captured:yyyy-MM-dd}/{camera:slug}/{contributor.code}/{card.label:slug}';
    const whole = makePlan(items(CARD), SLIP, ruleWith({ asOnCard: { card: true, folderLine } }), EMPTY_DRIVE);
    for (const path of CARD) expect(pathsOf(whole).get(path)).toBe(`tide-gate/2026-04-20/reel-8/ST/c-021/${path}`);
    const stills = ruleWith({ asOnCard: { kinds: ['photo'], structures: { 'clip root': 'rename' } } });
    expect(pathsOf(makePlan(items(CARD), SLIP, stills, EMPTY_DRIVE)).get(CARD[0]!)).toBe(`${BASE}/${CARD[0]!}`);
  });

  it('what the card line needs and nobody has said is asked for', () => {
    const folderLine = '{assignment.slug}/{card.label}';
    const rule = ruleOf({ folderLine: 'a', fileLine: '{n}', settings: { asOnCard: { card: true, folderLine } } });
    expect(makePlan(items(CARD), { ...SLIP, assignment: null }, rule, EMPTY_DRIVE).missing).toEqual(['assignment']);
    expect(makePlan(items(CARD), { ...SLIP, contributor: null }, rule, EMPTY_DRIVE).missing).toEqual([]);
  });

  it('a grown card goes on where its first part stands, even under another label', () => {
    const grown = items(CARD, (path) => (path.includes('0001') ? { alreadyFiled: `${BASE}/${path}` } : {}));
    const paths = pathsOf(makePlan(grown, { ...SLIP, cardLabel: 'C-099', intake: '2026-0500' }, ruleWith(), EMPTY_DRIVE));
    expect(paths.get('PRIVATE/ORRROOT/CLIP/ORR0002.MP4')).toBe(`${BASE}/PRIVATE/ORRROOT/CLIP/ORR0002.MP4`);
  });

  it('a name of the card that some system refuses is mended and told; a name that is taken gives way and is told', () => {
    const odd = ['XROOT/CLIP/A?1.MP4', 'XROOT/CLIP/B1.MP4', 'XROOT/INDEX.XML'];
    const folder = '2026/2026-04-20_tide-gate/2026-0412_C-021/XROOT/CLIP';
    const drive = { ...EMPTY_DRIVE, names: new Map([[folder.toLowerCase(), new Set(['b1.mp4'])]]) };
    const plan = makePlan(items(odd), SLIP, ruleWith(), drive);
    expect(pathsOf(plan).get(odd[0]!)).toBe(`${folder}/A-1.MP4`);
    expect(plan.clashes).toEqual([
      { itemId: 1, wanted: odd[0], given: 'XROOT/CLIP/A-1.MP4', with: 'every system' },
      { itemId: 2, wanted: 'B1.MP4', given: 'B1-2.MP4', with: 'the drive' },
    ]);
  });

  it('the folders that are looked at before are those that are filed into', () => {
    const fitting = new Set(planTargets(items(CARD), SLIP, ruleWith()).folders);
    expect(new Set(makePlan(items(CARD), SLIP, ruleWith(), EMPTY_DRIVE).folders.map(({ path }) => path))).toEqual(fitting);
  });

  it('chapters share a number and sort in their order; so do the parts of a phone', () => {
    const paths = ['A/PE010021.MP4', 'A/PE020021.MP4', 'A/PE010022.MP4', 'B/IMG_0001.JPG', 'B/IMG_0001.MOV', 'B/IMG_E0001.JPG'];
    const named = pathsOf(makePlan(items(paths), SLIP, ruleWith(), EMPTY_DRIVE));
    expect(paths.map((path) => named.get(path)!.slice(named.get(path)!.lastIndexOf('ST_') + 3))).toEqual([
      ...['0001-1.mp4', '0001-2.mp4', '0002.mp4', '0003.jpg', '0003.mov', '0003-edit.jpg'],
    ]);
  });
});

describe('what stands together, told by the paths alone', () => {
  it('of any plan: trees are those that are kept, whatever part of them is filed', () =>
    fc.assert(
      fc.property(fc.subarray(CARD, { minLength: 1 }), fc.boolean(), (paths, card) => {
        const plan = makePlan(items(paths), SLIP, ruleWith({ asOnCard: { card } }), EMPTY_DRIVE);
        const placed = plan.placements.map(({ from, folder, name }) => ({ from, to: `${folder}/${name}` }));
        const { trees, named } = keptTogether(placed);
        // The plan says it of each, from what the card is; the paths alone say the same.
        const kept = plan.placements.filter(({ base }) => base !== undefined);
        expect(trees.flatMap((tree) => tree.placed.map(({ from }) => [tree.base, from])).sort()).toEqual(
          kept.map(({ base, from }) => [base, from]).sort(),
        );
        expect(trees.flatMap((tree) => tree.placed).length + named.length).toBe(placed.length);
      }),
    ));

  it('folders are compared one by one, as file systems compare names: letters that fold to longer ones move nothing', () => {
    expect(baseBelow('CLIP/İ1.MP4', 'day/card/clip/i̇1.mp4')).toBe('day/card');
    expect(baseBelow('CLIP/e\u0301.MP4', 'day/CLIP/\u00e9.MP4')).toBe('day');
    expect(baseBelow('CLIP/A.MP4', 'day/XCLIP/A.MP4')).toBeNull();
    expect(baseBelow('CLIP/A.MP4', 'CLIP/A.MP4')).toBe('');
    expect(baseBelow('CLIP/A.MP4', 'A.MP4')).toBeNull();
  });

  it('folders are shown once for what is kept, each for what has names of the house', () => {
    const placed = [
      { from: 'CLIP/A.MP4', to: 'day/card/CLIP/A.MP4' },
      { from: 'SUB/A.MP4', to: 'day/card/SUB/A.MP4' },
      { from: 'DCIM/1.JPG', to: 'day/0001.jpg' },
      { from: 'DCIM/2.JPG', to: '0002.jpg' },
    ];
    expect(filedFolders(placed, new Set(['day/card/CLIP', 'day/card/SUB', 'day']))).toEqual([
      { path: 'day/card', items: 2, isNew: true, asOnCard: true },
      { path: 'day', items: 1, isNew: true, asOnCard: false },
      { path: '', items: 1, isNew: false, asOnCard: false },
    ]);
    expect(filedFolders(placed.slice(0, 2), new Set(['day/card/SUB']))[0]!.isNew).toBe(false);
  });

  it('a file at the root of the card stands where the others are; a name of the house that is the same does not', () => {
    const kept = { from: 'CLIP/A.MP4', to: 'day/card/CLIP/A.MP4' };
    const root = { from: 'INDEX.XML', to: 'day/card/INDEX.XML' };
    const other = { from: 'NOTE.TXT', to: 'day/NOTE.TXT' };
    expect(keptTogether([kept, root, other])).toEqual({
      trees: [{ base: 'day/card', root: '', placed: [kept, root] }],
      named: [other],
    });
  });
});

describe('items of another day', () => {
  const nights = { day: { begins: '04:00', assignment: 'first day' } } as const;
  const at = (captured: string) => items(['A/1.JPG'], () => ({ captured }));
  it('are told with the day they are filed under and why', () => {
    const survey = { ...SLIP, assignment: { slug: 's', title: 'S', from: '2026-04-20', to: '2026-04-22' } };
    const days = (captured: string, slip = SLIP) => makePlan(at(captured), slip, ruleWith(nights), EMPTY_DRIVE).otherDays;
    expect(days('2026-04-21T02:30:00')).toEqual([{ day: '2026-04-20', because: 'the day begins later', itemIds: [1] }]);
    expect(days('2026-04-21T12:30:00', survey)).toEqual([
      { day: '2026-04-20', because: 'the first day of the assignment', itemIds: [1] },
    ]);
    expect(days('2026-04-21T12:30:00')).toEqual([]);
  });

  it('are not told where folders hold no date', () => {
    const rule = ruleOf({ ...LINES, folderLine: '{assignment.slug}', settings: nights });
    expect(settingsOf(nights).day.begins).toBe('04:00');
    expect(makePlan(at('2026-04-21T02:30:00'), SLIP, rule, EMPTY_DRIVE).otherDays).toEqual([]);
  });
});
