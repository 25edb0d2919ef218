import { beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { KINDS } from '../card/index.js';
import { creditOf } from '../credit/index.js';
import { hashDistance } from '../looks/index.js';
import { foldText } from '../words/index.js';
import {
  Alikes,
  alikeTo,
  answering,
  bytesOf,
  figuresOf,
  inOrder,
  madeOf,
  monthsOf,
  newerThan,
  newestFiled,
  pageOf,
  type Piece,
  printQuestion,
  readQuestion,
  Shelf,
  type ShelfItem,
  type ShelfRecords,
  STATES,
} from './index.js';

const TODAY = '2026-04-21';

/** A random number below another, always the same ones. */
function chance(seed: number): (below: number) => number {
  let state = seed;
  return (below) => {
    state = (Math.imul(state ^ (state >>> 15), 0x2c1b3c6d) + 0x9e3779b9) | 0;
    return ((state ^ (state >>> 13)) >>> 0) % below;
  };
}

const SUBJECTS = ['grey heron', 'Curlew', 'tidal creek', 'eelgrass', 'Évelyne’s boat', 'sluice gate', '白鷺', 'samphire'];
const CAMERAS = ['Plover 3', 'Plover 5', 'Sandling Mark II', ''];
const PLACES = ['North Creek', 'Sluice House', 'Saltings'];

/** A made-up house of so many items, whole, for the shelf and for the plain scan. */
function madeUp(items: number) {
  const dice = chance(17);
  const some = <T>(list: readonly T[]) => list[dice(list.length)]!;
  const contributors = Array.from({ length: 40 }, (_, at): ShelfRecords['contributor'] => {
    const code = String.fromCharCode(65 + (at % 26), 65 + Math.floor(at / 2), 65 + (at % 7));
    return {
      id: at + 1,
      code,
      codes: at % 5 ? [code] : [code, `OLD${at}`],
      name: `${some(['Priya', 'Ines', 'José', 'Łukasz'])} ${some(['Lind', 'Barrow', 'Ó Briain', 'Heron'])}`,
      terms: at % 3 ? null : 1,
      minor: at % 4 === 1,
    };
  });
  const assignments = Array.from({ length: 60 }, (_, at): ShelfRecords['assignment'] => ({
    ...{ id: at + 1, slug: `day-${at + 1}`, title: `${some(SUBJECTS)} day ${at + 1}`, code: `A${at}`, where: some(PLACES) },
    ...{ words: at % 4 ? [] : [1 + dice(8)], location: at % 6 ? null : 1 + dice(3), terms: at % 7 ? null : 2 },
    embargoUntil: at % 9 ? null : '2026-12-31',
  }));
  const words = SUBJECTS.map((name, at): ShelfRecords['word'] => ({
    ...{ id: at + 1, names: at === 0 ? [name, 'Graureiher', 'Ardea cinerea'] : [name] },
    broader: at === 0 ? [2] : at === 1 ? [3] : [],
  }));
  const locations = PLACES.map((name, at): ShelfRecords['location'] => ({ id: at + 1, name, where: 'Ostrel Bay' }));
  const pictured = ['Evan Roe', 'Mia Sol'].map((name, at): ShelfRecords['pictured'] => ({
    ...{ id: at + 1, name, until: at ? '2025-01-01' : null, purpose: '' },
    consent: at ? 'yes' : 'no',
  }));
  const terms: ShelfRecords['terms'][] = [
    { id: 1, name: 'Free for the Trust', stance: 'free for the house', until: null },
    { id: 2, name: 'Ask the warden', stance: 'ask first', until: null },
    { id: 3, name: 'Nest sites', stance: 'not to be shown', until: null },
  ];
  const intakes = Array.from({ length: Math.ceil(items / 50) }, (_, at): ShelfRecords['intake'] => ({
    ...{ id: at + 1, number: `2026-${String(at + 1).padStart(4, '0')}`, label: `C-${at % 30}` },
    ...{ contributor: dice(12) ? 1 + dice(40) : null, assignment: dice(6) ? 1 + dice(60) : null },
    ...{ location: dice(5) ? null : 1 + dice(3), terms: dice(8) ? null : 3, words: dice(5) ? [] : [1 + dice(8)] },
    creditLine: dice(10) ? null : some(['', 'The Trust']),
  }));
  let before = 0;
  const list = Array.from({ length: items }, (_, at): ShelfItem => {
    const id = at + 1;
    const intake = 1 + Math.floor(at / 50);
    const companion = at % 5 === 1;
    // A companion is as old as what leads it.
    const takenMs = companion ? before : Date.UTC(2010, 0, 1) + Math.floor(at / 20) * 86_400_000 + dice(10) * 3_600_000;
    before = takenMs;
    const taken = new Date(takenMs);
    return {
      ...{ id, intake, object: companion ? id - 1 : id, takenMs, kind: companion ? 'raw' : some(KINDS) },
      ...{ contributor: dice(40) ? null : 1 + dice(40), assignment: dice(40) ? null : 1 + dice(60), camera: some(CAMERAS) },
      folder: `${taken.getUTCFullYear()}/${taken.toISOString().slice(0, 7)}/${some(['Reed_planting', 'heron-count', 'unsorted'])}`,
      name: `${taken.toISOString().slice(0, 10)}_${some(['IB', 'PL'])}_${String(at % 10_000).padStart(4, '0')}.jpg`,
      onCard: `DCIM/100TIDE/TIDE_${String(dice(10_000)).padStart(4, '0')}.JPG`,
      description: dice(12) ? '' : `${some(SUBJECTS)} at ${some(PLACES)}`,
      ...{
        words: dice(15) ? [] : [1 + dice(8)],
        notWords: dice(25) ? [] : [1 + dice(8)],
        pictured: dice(30) ? [] : [1 + dice(2)],
      },
      ...{
        location: dice(30) ? null : 1 + dice(3),
        terms: dice(50) ? null : 1 + dice(3),
        creditLine: dice(50) ? null : some(['', 'Wren']),
      },
      ...{ verdict: dice(9) ? null : some(['select', 'reshoot', 'hold'] as const), sound: dice(11) === 0, copies: dice(4) },
      ...{ bytes: 1_000 + dice(9_000_000), filedAtMs: Math.floor(id / 7), filedId: id, look: null },
      filedOn: new Date(takenMs + dice(20) * 86_400_000).toISOString().slice(0, 10),
    };
  });
  const bundles: ShelfRecords['bundle'][] = [
    { id: 1, name: 'Annual report', parent: null, items: [3, 14, 159, 26, 5] },
    { id: 2, name: 'Cover', parent: 1, items: [35, 89, items] },
  ];
  return { items: list, contributors, assignments, words, locations, pictured, terms, intakes, bundles };
}
type House = ReturnType<typeof madeUp>;

function shelfOf(house: House): Shelf {
  const shelf = new Shelf();
  shelf.house(null);
  for (const one of house.intakes) shelf.record('intake', one.id, one);
  for (const one of house.contributors) shelf.record('contributor', one.id, one);
  for (const one of house.assignments) shelf.record('assignment', one.id, one);
  for (const one of house.words) shelf.record('word', one.id, one);
  for (const one of house.locations) shelf.record('location', one.id, one);
  for (const one of house.pictured) shelf.record('pictured', one.id, one);
  for (const one of house.terms) shelf.record('terms', one.id, one);
  for (const one of house.bundles) shelf.record('bundle', one.id, one);
  for (const one of house.items) shelf.put(one);
  return shelf;
}

/** The plainest way to answer: every item, every piece, every text, with regular expressions over what people read. */
function plainScan(house: House) {
  const byId = <T extends { id: number }>(list: readonly T[]) => new Map(list.map((one) => [one.id, one]));
  const [intakes, contributors, assignments, words, locations, pictured, terms] = [
    ...[byId(house.intakes), byId(house.contributors), byId(house.assignments), byId(house.words)],
    ...[byId(house.locations), byId(house.pictured), byId(house.terms)],
  ] as const;
  const wider = (id: number): number[] => [id, ...words.get(id)!.broader.flatMap(wider)];
  const rows = house.items.map((item) => {
    const slip = intakes.get(item.intake)!;
    const by = contributors.get(item.contributor ?? slip.contributor ?? 0);
    const covered = assignments.get(item.assignment ?? slip.assignment ?? 0);
    const said = [...slip.words, ...(covered?.words ?? [])].filter((id) => !item.notWords.includes(id));
    const has = [...new Set([...item.words, ...said])];
    // By the house's own rule of credit, which knows nothing of the shelf.
    const says = (of: { location?: number | null; terms?: number | null; creditLine?: string | null } | undefined) => ({
      ...{ creditLine: of?.creditLine ?? null, copyrightNotice: null, wordIds: [] },
      ...{ termsId: of?.terms ?? null, locationId: of?.location ?? null },
    });
    const levels = { item: says(item), slip: says(slip), assignment: says(covered), contributor: says(by) };
    const facts = { contributor: null, house: '', assignment: null, year: null };
    const credit = creditOf(levels, facts);
    const location = locations.get(credit.locationId ?? 0);
    const term = terms.get(credit.termsId ?? 0);
    const line = credit.from.creditLine === null ? null : credit.creditLine;
    const people = item.pictured.map((id) => pictured.get(id)!);
    const texts = [
      ...[item.name, item.onCard, item.description, item.folder, item.camera, slip.number, slip.label],
      ...(by ? [by.name, ...by.codes] : []),
      ...(covered ? [covered.title, covered.slug, covered.code, covered.where] : []),
      ...(location ? [location.name, location.where] : []),
      ...people.map(({ name }) => name),
      ...has.flatMap(wider).flatMap((id) => words.get(id)!.names),
    ].map(
      (text) =>
        ` ${foldText(text)
          .replace(/[^\p{L}\p{N}]+/gu, ' ')
          .trim()} `,
    );
    const taken = new Date(item.takenMs).toISOString().slice(0, 10);
    const mark =
      term?.stance === 'not to be shown' ||
      (covered?.embargoUntil ?? '') >= TODAY ||
      people.some(({ consent }) => consent === 'no')
        ? 'no'
        : !term || term.stance === 'ask first' || people.some(({ until }) => until !== null && until < TODAY)
          ? 'ask'
          : 'none';
    return {
      item,
      slip,
      by,
      covered,
      location,
      term,
      people,
      has,
      text: texts.join('\n'),
      folder: `${item.folder}/`.toLowerCase(),
      taken,
      late: (Date.parse(item.filedOn) - Date.parse(taken)) / 86_400_000 > 7,
      mark,
      line,
    };
  });
  type Row = (typeof rows)[number];
  const inText = (typed: string, whole: boolean) => {
    const words = foldText(typed).match(/[\p{L}\p{N}]+/gu);
    const bare = words?.join(' ') ?? null;
    const needle = ` ${bare}${whole ? ' ' : ''}`;
    // Blanks are everywhere: what does not have the words at all is passed over sooner without them.
    return ({ text }: Row) => bare !== null && text.includes(bare) && text.includes(needle);
  };
  const states: Record<(typeof STATES)[number], (row: Row) => boolean> = {
    select: ({ item }) => item.verdict === 'select',
    reshoot: ({ item }) => item.verdict === 'reshoot',
    hold: ({ item }) => item.verdict === 'hold',
    described: ({ item }) => item.description !== '',
    'with sound': ({ item }) => item.sound,
    'not proven twice': ({ item }) => item.copies < 2,
    'without credit': ({ line, by }) => (line === null ? !by : line === ''),
    'without words': ({ has }) => !has.length,
    'somebody in it': ({ people }) => people.length > 0,
    'not to be shown': ({ mark }) => mark === 'no',
    'ask first': ({ mark }) => mark === 'ask',
    'filed late': ({ late }) => late,
  };
  const testOf = (piece: Piece): ((row: Row) => boolean) => {
    switch (piece.is) {
      case 'word':
        return inText(piece.text, false);
      case 'exact':
        return inText(piece.text, true);
      case 'taken':
        return ({ taken }) => taken >= piece.from && taken <= piece.to;
      case 'filed':
        return ({ item }) => item.filedOn >= piece.from && item.filedOn <= piece.to;
      case 'by':
        return ({ by }) => by?.codes.includes(piece.code) ?? false;
      case 'for':
        return ({ covered }) => covered?.slug === piece.slug;
      case 'kind':
        return ({ item }) => item.kind === piece.kind;
      case 'camera':
        return ({ item }) => item.camera === piece.name;
      case 'folder': {
        const within = `${piece.path.toLowerCase()}/`;
        return ({ folder }) => folder.startsWith(within);
      }
      case 'at':
        return ({ location }) => location?.name === piece.name;
      case 'shows':
        return ({ people }) => people.some(({ name }) => name === piece.name);
      case 'terms':
        return ({ term }) => term?.name === piece.name;
      case 'intake':
        return ({ slip }) => slip.number === piece.number;
      case 'bundle': {
        const within = house.bundles.filter(({ id, parent }) => id === piece.id || parent === piece.id);
        return ({ item }) => within.some(({ items }) => items.includes(item.id));
      }
      case 'state':
        return states[piece.state];
    }
  };
  // What was asked before is not asked again of every row: a camera is one of four, a state one of twelve.
  const known = new Map<string, Uint8Array>();
  const marksOf = (piece: Piece): Uint8Array => {
    const key = JSON.stringify({ ...piece, not: false });
    const before = known.get(key);
    if (before) return before;
    const test = testOf(piece);
    const marks = new Uint8Array(rows.length);
    for (let at = 0; at < rows.length; at++) if (test(rows[at]!)) marks[at] = 1;
    known.set(key, marks);
    return marks;
  };
  return (question: readonly Piece[]): number[] => {
    const all = new Uint8Array(rows.length).fill(1);
    for (const piece of question) {
      const marks = marksOf(piece);
      const wanted = piece.not ? 0 : 1;
      for (let at = 0; at < all.length; at++) if (marks[at] !== wanted) all[at] = 0;
    }
    const ids: number[] = [];
    for (let at = 0; at < all.length; at++) if (all[at] === 1) ids.push(rows[at]!.item.id);
    return ids;
  };
}

function randomQuestion(dice: (below: number) => number, house: House): Piece[] {
  const some = <T>(list: readonly T[]) => list[dice(list.length)]!;
  const item = () => some(house.items);
  const word = () => {
    const texts = [
      ...SUBJECTS,
      ...PLACES,
      item().name,
      item().onCard,
      item().description,
      item().folder,
      'Graureiher',
      'lukasz',
      'JOSE',
    ];
    const words = some(texts).match(/[\p{L}\p{N}]+/gu) ?? ['heron'];
    return some(words);
  };
  const day = () => new Date(Date.UTC(2010, 0, 1) + dice(1_000) * 86_400_000).toISOString().slice(0, 10);
  const span = () => {
    const [a, b] = [day(), day()].sort() as [string, string];
    return { from: a, to: b };
  };
  const makers: (() => Piece)[] = [
    () => ({ is: 'word', text: word().slice(0, 1 + dice(6)) }),
    () => ({ is: 'word', text: word() }),
    () => ({ is: 'word', text: some(['reed-planting', '100TIDE', 'count/', 'grey-her']) }),
    () => ({ is: 'exact', text: some([...SUBJECTS, 'heron at North', 'Priya Lind', word()]) }),
    () => ({ is: 'taken', ...span() }),
    () => ({ is: 'filed', ...span() }),
    () => ({ is: 'by', code: some(some(house.contributors).codes) }),
    () => ({ is: 'for', slug: some(house.assignments).slug }),
    () => ({ is: 'kind', kind: some(KINDS) }),
    () => ({ is: 'camera', name: some(CAMERAS.slice(0, 3)) }),
    () => ({
      is: 'folder',
      path: item()
        .folder.split('/')
        .slice(0, 1 + dice(3))
        .join('/'),
    }),
    () => ({ is: 'at', name: some(PLACES) }),
    () => ({ is: 'shows', name: some(house.pictured).name }),
    () => ({ is: 'terms', name: some(house.terms).name }),
    () => ({ is: 'intake', number: some(house.intakes).number }),
    () => ({ is: 'bundle', id: 1 + dice(3) }),
    () => ({ is: 'state', state: some(STATES) }),
  ];
  return Array.from({ length: 1 + dice(3) }, () => {
    const piece = some(makers)();
    return dice(4) ? piece : { ...piece, not: true };
  });
}

describe('the shelf', () => {
  let house: House;
  let shelf: Shelf;
  let scan: ReturnType<typeof plainScan>;
  beforeAll(() => {
    house = madeUp(20_000);
    shelf = shelfOf(house);
    scan = plainScan(house);
  });
  const idsOf = (slots: Int32Array, of = shelf) => [...slots].map((slot) => of.id.at[slot]!);

  it('answers two thousand random questions as a plain scan of twenty thousand items does', () => {
    const dice = chance(Number(process.env['TALLY_SEED'] ?? 5));
    let answered = 0;
    for (let turn = 0; turn < 2_000; turn++) {
      const question = randomQuestion(dice, house);
      const expected = scan(question);
      if (expected.length) answered++;
      const slots = answering(shelf, readQuestion(printQuestion(question)), TODAY);
      const found = slots.map((slot) => shelf.id.at[slot]!).sort();
      // The plain scan goes by id: two thousand long lists need not be written out to be compared.
      const same = found.length === expected.length && found.every((id, at) => id === expected[at]);
      if (!same) expect([printQuestion(question), [...found]]).toEqual([printQuestion(question), expected]);
    }
    expect(answered).toBeGreaterThan(700);
  }, 900_000);

  it('asked by somebody who sees no persons, answers as if minors were called by their codes and nobody pictured had a name', () => {
    const some = madeUp(4_000);
    const smaller = shelfOf(some);
    const nameless = plainScan({
      ...some,
      contributors: some.contributors.map((one) => (one.minor ? { ...one, name: one.code } : one)),
      pictured: some.pictured.map((one) => ({ ...one, name: '' })),
    });
    const dice = chance(Number(process.env['TALLY_SEED'] ?? 6));
    const names: Piece[][] = ['Priya', 'Priya Lind', 'José', 'Evan', 'Mia Sol', 'Heron'].map((text) => [{ is: 'exact', text }]);
    names.push([{ is: 'shows', name: 'Evan Roe' }], [{ is: 'word', text: 'LIND' }]);
    // By each code of a minor, the one it has and those it had.
    const codes = some.contributors.filter(({ minor }) => minor).flatMap((one) => one.codes);
    names.push(...codes.map((text): Piece[] => [{ is: 'word', text }]));
    const asked = [...names, ...Array.from({ length: 300 }, () => randomQuestion(dice, some))];
    let others = 0;
    for (const question of asked) {
      const found = answering(smaller, question, TODAY, true)
        .map((slot) => smaller.id.at[slot]!)
        .sort();
      const expected = nameless(question);
      const same = found.length === expected.length && found.every((id, at) => id === expected[at]);
      if (!same) expect([printQuestion(question), [...found]]).toEqual([printQuestion(question), expected]);
      if (found.length !== answering(smaller, question, TODAY).length) others++;
    }
    expect(others).toBeGreaterThan(3);
  }, 300_000);

  it('goes from the newest to the first day, companions behind what leads them', () => {
    const ids = idsOf(shelf.ordered());
    expect(ids).toHaveLength(20_000);
    const byId = new Map(house.items.map((item) => [item.id, item]));
    for (let at = 1; at < ids.length; at++) {
      const [a, b] = [byId.get(ids[at - 1]!)!, byId.get(ids[at]!)!];
      expect(a.takenMs >= b.takenMs || a.object === b.object).toBe(true);
      if (b.object !== b.id) expect(a.id).toBe(b.object);
    }
  });

  it('counts what an answer is made of as one counts by hand', () => {
    const question = readQuestion('kind:raw');
    const slots = answering(shelf, question, TODAY);
    const raws = house.items.filter(({ kind }) => kind === 'raw');
    const made = madeOf(shelf, slots);
    expect(made.kinds).toEqual([{ words: 'raw', piece: { is: 'kind', kind: 'raw' }, items: raws.length }]);
    for (const { piece, items } of [...made.contributors, ...made.cameras, ...made.years, ...made.assignments, ...made.terms])
      expect(scan([...question, piece]).length).toBe(items);
    expect(bytesOf(shelf, slots)).toBe(raws.reduce((sum, { bytes }) => sum + bytes, 0));
    const months = monthsOf(shelf, slots);
    expect(months.reduce((sum, { items }) => sum + items, 0)).toBe(raws.length);
    for (const { month, at } of months) expect(new Date(shelf.takenMs.at[slots[at]!]!).toISOString().slice(0, 7)).toBe(month);
    const moment = { atMs: Math.floor(15_000 / 7), id: 15_000 };
    expect(newerThan(shelf, slots, moment)).toBe(raws.filter(({ filedId }) => filedId > 15_000).length);
    expect(newestFiled(shelf)).toEqual({ atMs: Math.floor(20_000 / 7), id: 20_000 });
  });

  it('gives figures whose bars open what they count', () => {
    const slots = answering(shelf, readQuestion('taken:2011'), TODAY);
    for (const by of ['contributor', 'kind', 'camera', 'assignment', 'month', 'season'] as const) {
      const figures = figuresOf(shelf, slots, by, 9);
      expect(figures.reduce((sum, { items }) => sum + items, 0)).toBe(slots.length);
      for (const { piece, items, selects, late } of figures) {
        if (!piece) continue;
        const asked = [...readQuestion('taken:2011'), piece];
        expect(scan(asked)).toHaveLength(items);
        expect(scan([...asked, { is: 'state', state: 'select' }])).toHaveLength(selects);
        expect(scan([...asked, { is: 'state', state: 'filed late' }])).toHaveLength(late);
      }
    }
    expect(figuresOf(shelf, slots, 'season', 9).map(({ words }) => words)).toEqual(['2010–2011', '2011–2012']);
  });

  it('is put in other orders, and parted so that no exposure is', () => {
    const slots = answering(shelf, readQuestion('taken:2010'), TODAY);
    const bytes = [...inOrder(shelf, slots, 'bytes', true)].map((slot) => shelf.bytes.at[slot]!);
    expect(bytes).toEqual([...bytes].sort((a, b) => b - a));
    const names = [...inOrder(shelf, slots, 'name', false)].map((slot) => shelf.nameAt(slot));
    expect(names).toEqual([...names].sort());
    let at = 0;
    const seen: number[] = [];
    while (at < slots.length) {
      const page = pageOf(shelf, slots, at, 7);
      seen.push(...page);
      at += page.length;
    }
    expect(seen).toEqual([...slots]);
  });

  it('follows what changes, as if it had been made anew', () => {
    const dice = chance(99);
    const small = madeUp(600);
    const kept = shelfOf(small);
    for (let turn = 0; turn < 60; turn++) {
      const at = dice(small.items.length);
      const item = small.items[at]!;
      const change: Partial<ShelfItem>[] = [
        { description: `${SUBJECTS[dice(8)]} again` },
        { verdict: 'hold', copies: dice(4) },
        { takenMs: item.takenMs + dice(400) * 86_400_000 },
        { contributor: 1 + dice(40), words: [1 + dice(8)] },
        { name: `renamed_${dice(1_000)}.jpg`, folder: 'elsewhere' },
      ];
      const next = { ...item, ...change[dice(change.length)]! };
      if (dice(8) === 0) {
        kept.remove(item.id);
        small.items.splice(at, 1);
      } else {
        kept.put(next);
        small.items[at] = next;
      }
      if (dice(3) === 0) {
        const slip = { ...small.intakes[dice(small.intakes.length)]!, contributor: 1 + dice(40), words: [1 + dice(8)] };
        small.intakes[slip.id - 1] = slip;
        kept.record('intake', slip.id, slip);
        const one = { ...small.assignments[dice(60)]!, location: 1 + dice(3), title: 'Renamed day' };
        small.assignments[one.id - 1] = one;
        kept.record('assignment', one.id, one);
      }
      const anew = shelfOf(small);
      for (const typed of [
        '',
        'renamed',
        'heron',
        'is:hold',
        'at:"North Creek"',
        '-again',
        'is:"without words"',
        'word:elsewhere',
      ])
        expect([typed, idsOf(answering(kept, readQuestion(typed), TODAY), kept)]).toEqual([
          typed,
          idsOf(answering(anew, readQuestion(typed), TODAY), anew),
        ]);
    }
    expect(kept.size).toBe(small.items.length);
  });
});

describe('what looks like it', () => {
  const hex = (dice: (below: number) => number) => Array.from({ length: 16 }, () => dice(16).toString(16)).join('');
  /** A hash with some bits turned. */
  const turned = (look: string, bits: number, dice: (below: number) => number) => {
    let value = BigInt(`0x${look}`);
    for (let turn = 0; turn < bits; turn++) value ^= 1n << BigInt(dice(64));
    return value.toString(16).padStart(16, '0');
  };

  it('is found as a comparison with every hash finds it', () => {
    const dice = chance(3);
    const looks: string[] = [];
    for (let at = 0; at < 20_000; at++) looks.push(at % 3 ? turned(looks[dice(at)]!, dice(14), dice) : hex(dice));
    const alikes = new Alikes();
    for (const [slot, look] of looks.entries()) alikes.add(slot, look);
    fc.assert(
      fc.property(fc.nat(19_999), fc.nat(15), fc.nat(6), (at, most, bits) => {
        const look = turned(looks[at]!, bits, dice);
        const expected = looks.flatMap((other, slot) => (hashDistance(look, other) <= most ? [slot] : []));
        const found = alikes.like(look, most);
        expect(found.map(({ slot }) => slot).sort((a, b) => a - b)).toEqual(expected);
        for (const one of found) expect(hashDistance(look, looks[one.slot]!)).toBe(one.bits);
      }),
      { numRuns: 60 },
    );
  });

  it('is the same picture, the frames beside it, and what resembles it', () => {
    const house = madeUp(300);
    const shelf = shelfOf(house);
    const look = 'f0f0aa5533cc0ff0';
    const dice = chance(8);
    shelf.put({ ...house.items[10]!, look });
    shelf.put({ ...house.items[200]!, look });
    shelf.put({ ...house.items[250]!, look: (BigInt(`0x${look}`) ^ 0b11111n).toString(16).padStart(16, '0') });
    shelf.put({ ...house.items[260]!, look: turned('0000000000000000', 3, dice) });
    const alike = alikeTo(shelf, house.items[10]!.id, 6);
    expect(alike.filter(({ how }) => how === 'the same').map(({ id }) => id)).toEqual([house.items[200]!.id]);
    expect(alike.filter(({ how }) => how === 'looks like it')).toEqual([
      { id: house.items[250]!.id, how: 'looks like it', bits: 5 },
    ]);
    const beside = alike.filter(({ how }) => how === 'beside');
    expect(beside.length).toBeGreaterThanOrEqual(3);
    for (const { id } of beside) expect(house.items[id - 1]!.intake).toBe(house.items[10]!.intake);
    expect(alikeTo(shelf, 999_999, 6)).toEqual([]);
  });
});
