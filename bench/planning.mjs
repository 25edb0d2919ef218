// The plan of 10,000 items against a hand-written loop with template strings and a map.
import { join } from 'node:path';
import { ROOT } from '../tools/parts/ready.mjs';
import { race } from './measure.mjs';

export async function planning() {
  const core = (folder) => import(join(ROOT, `core/dist/${folder}/index.js`));
  const [{ makePlan, itemContexts, EMPTY_DRIVE }, { judgeRule, parseRule, readPath, DEFAULT_RULE }, { objectsOf, runsOf }] = [
    await core('plan'),
    await core('rule'),
    await core('card'),
  ];
  const { rule } = parseRule(DEFAULT_RULE);
  const start = Date.parse('2026-04-18T06:00:00Z');
  const paths = Array.from(
    { length: 10_000 },
    (_, i) => `DCIM/${100 + Math.floor(i / 1998)}HALDN/HM4_${String((i >> 1) % 9999).padStart(4, '0')}.${i % 2 ? 'DNG' : 'JPG'}`,
  );
  const objects = objectsOf(paths.map((path) => ({ path })));
  const placed = ({ object, role, part, parts, structure, root }) => ({
    ...{ leader: object, objectRole: role, part, parts, structure, structureRoot: root },
  });
  const items = paths.map((path, i) => ({
    ...{ id: i + 1, path, bytes: 1000, kind: i % 2 ? 'raw' : 'photo', ...placed(objects.get(path)) },
    captured: new Date(start + (i >> 1) * 20_000).toISOString().slice(0, 19),
    camera: { make: 'Halden', model: 'M4' },
    ...{ taken: true, setAside: null, alreadyFiled: null, problem: null },
  }));
  const slip = {
    contributor: { code: 'IB', name: 'Ines Barrow' },
    assignment: { slug: 'reed-planting', title: 'Reed planting day' },
    cardLabel: 'C-014',
    received: '2026-04-21T17:42:00',
    filed: '2026-04-21T17:58:00',
    intake: '2026-0412',
  };

  /** What somebody would write in a quarter of an hour: the same names, no checks of legality, clashes by a set. */
  const byHand = () => {
    const groups = new Map();
    for (const item of items) groups.has(item.leader) ? groups.get(item.leader).push(item) : groups.set(item.leader, [item]);
    const ordered = [...groups.values()].sort((a, b) =>
      a[0].captured < b[0].captured ? -1 : a[0].captured > b[0].captured ? 1 : 0,
    );
    const next = new Map();
    const taken = new Set();
    const out = [];
    for (const group of ordered) {
      const day = group[0].captured.slice(0, 10);
      const folder = `${day.slice(0, 4)}/${day.slice(0, 7)}/${day}_${slip.assignment.slug}`;
      const n = next.get(folder) ?? 1;
      next.set(folder, n + 1);
      for (const item of group) {
        const name = `${day.replaceAll('-', '')}_${slip.contributor.code}_${String(n).padStart(4, '0')}.${item.path.split('.').pop().toLowerCase()}`;
        if (taken.has(`${folder}/${name}`)) throw new Error('clash');
        taken.add(`${folder}/${name}`);
        out.push({ from: item.path, folder, name });
      }
    }
    return out;
  };
  const plan = () => makePlan(items, slip, rule, EMPTY_DRIVE);
  const ours = plan().placements;
  const theirs = byHand();
  if (
    ours.some(
      (p, i) =>
        `${p.folder}/${p.name}` !==
          `${theirs.find((t) => t.from === p.from).folder}/${theirs.find((t) => t.from === p.from).name}` && i < 50,
    )
  )
    throw new Error('the two plans differ');
  const times = await race({ plan, byHand }, { rounds: 15, cold: false });
  const runs = await race(
    {
      both: () => (
        objectsOf(items),
        runsOf(
          items,
          (item) => Date.parse(`${item.captured}Z`),
          (item) => item.leader,
        )
      ),
    },
    { rounds: 9, cold: false },
  );
  const cards = {
    'photos and raws': paths.map((path) => ({ path, bytes: 10_000_000 })),
    'a cinema card': Array.from({ length: 2500 }, (_, i) => String(i).padStart(4, '0')).flatMap((n) =>
      [`CLIP/ORR${n}.MP4`, `CLIP/ORR${n}M01.XML`, `SUB/ORR${n}S03.MP4`, `THMBNL/ORR${n}T01.JPG`].map((name) => ({
        path: `PRIVATE/ORRROOT/${name}`,
      })),
    ),
    chapters: Array.from({ length: 10_000 }, (_, i) => ({
      path: `DCIM/100PELLT/PE${String(1 + (i % 20)).padStart(2, '0')}${String(Math.floor(i / 20)).padStart(4, '0')}.MP4`,
      bytes: 4_000_000_000,
    })),
  };
  const told = await race(Object.fromEntries(Object.entries(cards).map(([name, files]) => [name, () => objectsOf(files)])), {
    rounds: 9,
    cold: false,
  });
  const contexts = itemContexts(
    items.map((item, i) => ({ ...item, leader: item.path, id: i })),
    slip,
  );
  const thinking = await race(
    {
      verdicts: () => judgeRule(rule, { items: contexts }),
      back: () => ours.forEach(({ folder, name }) => readPath(rule, `${folder}/${name}`)),
    },
    { rounds: 7, cold: false },
  );
  return [
    {
      what: 'plan of 10,000 items ÷ a hand-written loop',
      ratio: times.plan / times.byHand,
      target: 8,
      seconds: `${(times.plan * 1000).toFixed(0)} / ${(times.byHand * 1000).toFixed(0)} ms, wanted < 250 ms`,
    },
    {
      what: 'five verdicts on 10,000 items, in units of 500 ms',
      ratio: thinking.verdicts / 0.5,
      target: 1,
      seconds: `${(thinking.verdicts * 1000).toFixed(0)} ms; of it 10,000 names read back ${(thinking.back * 1000).toFixed(0)} ms`,
    },
    {
      what: 'runs and objects of 10,000 items, in units of 100 ms',
      ratio: runs.both / 0.1,
      target: 1,
      seconds: `${(runs.both * 1000).toFixed(0)} ms`,
    },
    ...Object.entries(told).map(([name, seconds]) => ({
      what: `objects of 10,000 files (${name}), in units of 100 ms`,
      ratio: seconds / 0.1,
      target: 1,
      seconds: `${(seconds * 1000).toFixed(0)} ms`,
    })),
  ];
}
