import type { MendAsk } from '@tally/contract';
import {
  BY_HAND_FOLDER,
  FINDINGS,
  isAside,
  legalPath,
  refile,
  refileFolders,
  refileScopes,
  type Refiled,
  SECOND_FOLDER,
} from '@tally/core/drive';
import type { PlanItem } from '@tally/core/plan';
import { CHAIN_FILE, HASH_LIST_FOLDER } from '@tally/core/manifest';
import { foldName, folderOf, type HouseRule, mendPath, nameOf, parseRule, pathIn } from '@tally/core/rule';
import { mustHold } from '@tally/core/copies';
import { namesOf } from '../drive/move-file.js';
import { placesStanding } from '../driving/index.js';
import { type House, nextNumbers, Refusal } from '../house/index.js';
import { assignmentsOf, contributorsOf } from '../people/index.js';
import { currentRule } from '../rules/index.js';
import { planMaterial } from '../slip/index.js';
import { groupedBy } from './grouped.js';
import { asidePath, type Draft, type Here, keptUntil, type Named, type SaidChange } from './draft.js';
import { type FindingRow, findingsById, findingsIn } from './store/findings.js';
import {
  assignmentsFiledIn,
  filedIn,
  type FiledRow,
  filedWithCompanions,
  heldIn,
  itemsOfFiled,
  namesInFolders,
} from './store/known.js';

/** More than this is not mended in one go. */
const MOST_ITEMS = 200_000;

/** What somebody wants, worked out: which files get which names. Looks at files: not for transactions. */
export async function draftFor(house: House, ask: MendAsk): Promise<Draft> {
  switch (ask.kind) {
    case 're-file':
      return refiling(house, ask.itemIds, await saidOf(house, ask));
    case 're-file folder': {
      const rows = await filedIn(house.db, ask.folder, MOST_ITEMS + 1);
      if (rows.length > MOST_ITEMS)
        throw new Refusal('conflict', `More than ${MOST_ITEMS} files are filed in it: take its folders one by one.`);
      const itemIds = rows.map(({ itemId }) => itemId);
      return refiling(house, itemIds, await saidOf(house, ask));
    }
    case 'rename folder':
      return renamingFolder(house, ask.folder, ask.to);
    case 'put aside':
      return puttingAside(house, ask.itemIds, ask.why);
    case 'put strays aside':
      return straysAside(house, ask.placeId, ask.paths);
    case 'findings':
      return forFindings(house, await findingsById(house.db, ask.ids));
    case 'findings in': {
      const found = await findingsIn(house.db, ask.placeId, ask.finding, ask.folder, 0, MOST_ITEMS + 1);
      if (found.length > MOST_ITEMS)
        throw new Refusal('conflict', `More than ${MOST_ITEMS} are found in it: choose some of them, and then the next.`);
      return forFindings(house, found);
    }
    case 'to another place':
      return toPlace(house, ask.folder, ask.from, ask.to);
  }
}

async function ruleToday(house: Pick<House, 'db'>): Promise<HouseRule> {
  const parsed = parseRule((await currentRule(house.db)).rule);
  if (!parsed.ok) throw new Refusal('conflict', `The house rule cannot be used: ${parsed.error.message}`);
  return parsed.rule;
}

interface Said {
  readonly contributorId?: number | undefined;
  readonly assignmentId?: number | undefined;
  readonly day?: string | undefined;
}

/** Whoever says it with a folder means the one assignment that is filed in it, or else below it. */
async function saidOf(house: House, { asIn, ...said }: Said & { readonly asIn?: string | undefined }): Promise<Said> {
  if (asIn === undefined || said.assignmentId !== undefined) return said;
  const inIt = await assignmentsFiledIn(house.db, asIn, false);
  const found = inIt.length ? inIt : await assignmentsFiledIn(house.db, asIn, true);
  const where = asIn || 'the root';
  if (!found.length) throw new Refusal('conflict', `Nothing with an assignment is filed in ${where}: say what these are for.`);
  if (found.length > 1)
    throw new Refusal(
      'conflict',
      `Files of several assignments stand in ${where}: take one of its folders, or say what these are for.`,
    );
  return { ...said, assignmentId: found[0]! };
}

/** Items, with their companions, under the names that today's rule gives them with what is said of them now. */
async function refiling(house: House, itemIds: readonly number[], said: Said): Promise<Draft> {
  const { db } = house;
  const rows = await filedWithCompanions(db, itemIds);
  if (!rows.length) throw new Refusal('not found', 'None of these is filed.');
  const rule = await ruleToday(house);
  const contributor =
    said.contributorId === undefined ? undefined : (await contributorsOf(db, [said.contributorId])).get(said.contributorId);
  const assignment =
    said.assignmentId === undefined ? undefined : (await assignmentsOf(db, [said.assignmentId])).get(said.assignmentId);
  if (said.contributorId !== undefined && !contributor) throw new Refusal('not found', 'There is no such contributor.');
  if (said.assignmentId !== undefined && !assignment) throw new Refusal('not found', 'There is no such assignment.');
  const kept = rows.filter(({ folder, listFolder }) => folder !== listFolder);
  const faults = kept.map(({ folder, name }) => ({
    path: pathIn(folder, name),
    why: 'it stands as on the card, with all that belongs to it: rename its folder instead',
  }));
  const byIntake = groupedBy(
    rows.filter((row) => row.folder === row.listFolder),
    ({ intakeId }) => intakeId,
  );
  const refiled: Refiled[] = [];
  const changes: SaidChange[] = [];
  for (const [intakeId, filed] of byIntake) {
    const { items, slip } = await planMaterial(house, db, intakeId);
    const byId = new Map(items.map((item) => [item.id, item]));
    const byPath = new Map(items.map((item) => [item.path, item]));
    const changed = (item: PlanItem): PlanItem => ({
      ...item,
      ...(contributor ? { contributor } : {}),
      ...(assignment ? { assignment } : {}),
      ...(said.day ? { captured: `${said.day}${item.captured.slice(10)}` } : {}),
    });
    for (const row of filed) {
      const item = byId.get(row.itemId)!;
      const lead = byPath.get(item.leader) ?? item;
      const before = { item, lead, slip };
      const from = pathIn(row.folder, row.name);
      refiled.push({ filedItemId: row.filedItemId, item: changed(item), lead: changed(lead), slip, before, from, n: row.n });
      if (contributor ?? assignment ?? said.day)
        changes.push({
          itemId: row.itemId,
          ...(said.contributorId === undefined ? {} : { contributorId: said.contributorId }),
          ...(said.assignmentId === undefined ? {} : { assignmentId: said.assignmentId }),
          ...(said.day ? { capturedLocal: changed(item).captured } : {}),
        });
    }
  }
  const folders = refileFolders(refiled, rule);
  const taken = new Set(await namesInFolders(db, folders));
  for (const { root, standing } of await placesStanding(house))
    if (standing.online && root)
      for (const folder of folders) for (const name of await namesOf(root, folder)) taken.add(foldName(pathIn(folder, name)));
  const next = await nextNumbers(db, refileScopes(refiled, rule), false);
  const { steps, numbers } = refile(refiled, rule, { isTaken: (folded) => taken.has(folded), next });
  const byFiled = new Map(rows.map((row) => [row.filedItemId, row]));
  const names = steps.map(({ filedItemId, to, n }) => named(byFiled.get(filedItemId!)!, to, n));
  const what = [
    contributor && `by ${contributor.name}`,
    assignment && `for ${assignment.title}`,
    said.day && `taken on ${said.day}`,
  ];
  const words = `${count(refiled.length, 'item')} re-filed${what.some(Boolean) ? ` as ${what.filter(Boolean).join(', ')}` : ' under the rule of today'}`;
  return { kind: 're-file', words, names, said: changes, numbers, faults };
}

const named = (row: FiledRow, to: string, n: number | null): Named => ({ ...row, to, toList: folderOf(to), toN: n });
const fileOf = ({ filedItemId: id, folder, name }: FiledRow) => ({ id, path: pathIn(folder, name) });
const count = (n: number, noun: string) => `${n} ${noun}${n === 1 ? '' : 's'}`;

async function renamingFolder(house: House, folder: string, to: string): Promise<Draft> {
  const rows = await filedIn(house.db, folder, MOST_ITEMS + 1);
  if (rows.length > MOST_ITEMS)
    throw new Refusal('conflict', `More than ${MOST_ITEMS} files are filed in it: take its folders one by one.`);
  const faults: { path: string; why: string }[] = [];
  const mended = mendPath(to);
  if (mended !== to) faults.push({ path: folder, why: `not every system can keep ${to}: call it ${mended}` });
  const moved = (path: string) => (path === folder || path.startsWith(`${folder}/`) ? `${to}${path.slice(folder.length)}` : path);
  const names = rows.map((row): Named => {
    const path = moved(row.folder);
    return { ...row, to: pathIn(path, row.name), toList: moved(row.listFolder), toN: row.n };
  });
  const words = `Folder ${folder} renamed to ${to} (${count(rows.length, 'item')})`;
  return { kind: 'rename folder', words, names, whole: [{ from: folder, to }], faults };
}

async function puttingAside(house: House, itemIds: readonly number[], why: string): Promise<Draft> {
  const rows = await filedWithCompanions(house.db, itemIds);
  if (!rows.length) throw new Refusal('not found', 'None of these is filed.');
  const names = rows.map((row) => named(row, asidePath(house, pathIn(row.folder, row.name)), row.n));
  const words = `${count(rows.length, 'item')} put aside: ${why}`;
  return { kind: 'put aside', words, names, keptUntil: keptUntil(house) };
}

function straysAside(house: House, placeId: string, paths: readonly string[]): Draft {
  const here = paths.map((from): Here => ({ placeId, what: 'file', filedItemId: null, from, to: asidePath(house, from) }));
  return { kind: 'put aside', words: `${count(here.length, 'stray')} put aside`, names: [], here, keptUntil: keptUntil(house) };
}

/** What others put there is moved together under the day, with the path it had. */
export function movedTogether(house: House, placeId: string, paths: readonly string[]): Draft {
  const here = paths.map((from): Here => ({
    ...{ placeId, what: 'file', filedItemId: null, from },
    to: asidePath(house, from).replace(/^[^/]+/, BY_HAND_FOLDER),
  }));
  return { kind: 'move together', words: `${count(here.length, 'file')} that arrived by hand moved together`, names: [], here };
}

async function toPlace(house: House, folder: string, from: string, to: string): Promise<Draft> {
  const places = await placesStanding(house);
  const [source, target] = [places.find(({ id }) => id === from), places.find(({ id }) => id === to)];
  if (!source || !target) throw new Refusal('not found', 'There is no such place.');
  if (from === to) throw new Refusal('conflict', 'It stands there already.');
  const rows = await filedIn(house.db, folder, MOST_ITEMS);
  if (!rows.length) throw new Refusal('not found', `Nothing is filed in ${folder}.`);
  const files = rows.map(fileOf);
  const also = [
    `Each file is copied to ${target.name} and proven there; only then it is removed from ${source.name}.`,
    ...(source.standing.online ? [] : [`${source.name} is not here: files leave it when it is back.`]),
    ...(target.standing.online ? [] : [`${target.name} is not here: copies are made when it is back.`]),
  ];
  return {
    kind: 'to another place',
    words: `${folder} (${count(files.length, 'item')}) moves from ${source.name} to ${target.name}`,
    names: [],
    toPlace: { files, from, to },
    also,
  };
}

/** The mends that follow from findings, all in one. */
async function forFindings(house: House, found: readonly FindingRow[]): Promise<Draft> {
  const { db } = house;
  if (!found.length) throw new Refusal('not found', 'None of these is found any more.');
  const places = await placesStanding(house);
  const here: Here[] = [];
  const again: { filedItemId: number; placeId: string }[] = [];
  const faults: { path: string; why: string }[] = [];
  const byRule: number[] = [];
  const legal: FindingRow[] = [];
  const alone: FindingRow[] = [];
  const filedAside: number[] = [];
  const stays: FindingRow[] = [];
  const spoilt: FindingRow[] = [];
  for (const one of found) {
    const { placeId, path, filedItemId, other } = one;
    switch (FINDINGS[one.kind].mend) {
      case 'copy again':
        again.push({ filedItemId: filedItemId!, placeId });
        break;
      case 'put back':
        if (one.kind === 'moved') here.push({ placeId, what: 'file', filedItemId, from: other!, to: path });
        else {
          here.push({ placeId, what: 'file', filedItemId, from: path, to: asidePath(house, path) });
          again.push({ filedItemId: filedItemId!, placeId });
        }
        break;
      case 'put aside':
        if (filedItemId !== null) filedAside.push(filedItemId);
        else
          here.push({
            placeId,
            what: (await isFolderAt(places, one)) ? 'folder' : 'file',
            filedItemId: null,
            from: path,
            to: asidePath(house, path),
          });
        break;
      case 'remove the folder':
        here.push({ placeId, what: 'empty folder', filedItemId: null, from: path, to: '' });
        break;
      case 'name by the rule':
      case 'bring together':
        byRule.push(filedItemId!);
        break;
      case 'name for every system':
        if (isTooDeep(one)) stays.push(one);
        else legal.push(one);
        break;
      case 'make copies':
        alone.push(one);
        break;
      case 'write anew':
        spoilt.push(one);
        break;
      case 'adopt':
        faults.push({ path, why: 'strays are adopted, not mended: say whose they are' });
        break;
      case null:
        faults.push({ path, why: 'a person has to look at it: nothing is done by itself' });
    }
  }
  const parts: Draft[] = [];
  if (byRule.length) parts.push(await refiling(house, await itemsOfFiled(db, byRule), {}));
  if (filedAside.length) parts.push(await puttingAside(house, await itemsOfFiled(db, filedAside), 'near twins'));
  if (spoilt.length) parts.push(await writingAnew(house, spoilt));
  if (legal.length) parts.push(await legally(house, legal));
  for (const { path, placeId } of alone) parts.push(await copiesFor(house, path, placeId));
  const keeps = filedAside.length > 0 || [...here, ...parts.flatMap((part) => part.here ?? [])].some(({ to }) => isAside(to));
  const mended = found.filter((one) => !stays.includes(one));
  const kinds = groupedBy(mended, ({ kind }) => kind);
  const words = !mended.length
    ? 'Nothing that could be mended by itself'
    : `Mended: ${[...kinds].map(([kind, all]) => `${all.reduce((sum, { files }) => sum + files, 0)} ${FINDINGS[kind].title}`).join(', ')}`;
  return {
    ...{ kind: 'mend', words, findings: mended.map(({ id }) => id), keptUntil: keeps ? keptUntil(house) : null },
    names: parts.flatMap(({ names }) => names),
    here: [...here, ...parts.flatMap((part) => part.here ?? [])],
    again: [...again, ...parts.flatMap((part) => part.again ?? [])],
    anew: parts.flatMap((part) => part.anew ?? []),
    said: parts.flatMap((part) => part.said ?? []),
    numbers: parts.flatMap((part) => part.numbers ?? []),
    faults: [...faults, ...parts.flatMap((part) => part.faults ?? [])],
    also: [
      ...stays.map(({ path }) => `${path} stays: its folders are too deep. Rename one of them, or move it.`),
      ...parts.flatMap((part) => part.also ?? []),
    ],
    wish: parts.flatMap((part) => part.wish ?? []),
  };
}

/**
 * What we wrote and is spoilt is put aside, and what explains its folder is written anew. A history goes as a whole: its chain
 * leads through every part of it. What stands a second time needs no look at the spoilt one.
 */
async function writingAnew(house: House, found: readonly FindingRow[]): Promise<Draft> {
  const places = new Map((await placesStanding(house)).map((place) => [place.id, place]));
  const faults: { path: string; why: string }[] = [];
  const here = new Map<string, Here>();
  const anew = new Map<string, { placeId: string; folder: string; sidecarsOf: number[] }>();
  for (const { placeId, path, folder, filedItemId } of found) {
    const place = places.get(placeId);
    if (!place?.standing.online) {
      faults.push({ path, why: `${place?.name ?? placeId} is not here` });
      continue;
    }
    const key = `${placeId}\0${folder}`;
    const one = anew.get(key) ?? { placeId, folder, sidecarsOf: [] };
    anew.set(key, one);
    if (filedItemId !== null) one.sidecarsOf.push(filedItemId);
    const own = nameOf(folderOf(path));
    const isThere = (await namesOf(place.root, folderOf(path))).includes(nameOf(path));
    if (own === SECOND_FOLDER) continue;
    const isHistory = own === HASH_LIST_FOLDER;
    // A chain alone that is gone is made again of what it led through.
    if (!isThere && (!isHistory || nameOf(path) === CHAIN_FILE)) continue;
    const from = isHistory ? folderOf(path) : path;
    const what = isHistory ? ('folder' as const) : ('file' as const);
    here.set(`${placeId}\0${from}`, { placeId, what, filedItemId: null, from, to: asidePath(house, from) });
  }
  return { kind: 'mend', words: '', names: [], here: [...here.values()], anew: [...anew.values()], faults };
}

async function isFolderAt(places: readonly { id: string; root: string }[], { placeId, path }: FindingRow): Promise<boolean> {
  const root = places.find(({ id }) => id === placeId)?.root;
  return root !== undefined && (await namesOf(root, path)).length > 0;
}

/** Is each of its names right, and only all of them together too long? No other name of its own would help. */
const isTooDeep = ({ kind, path }: FindingRow): boolean => kind === 'too long' && mendPath(path) === path;

/** Names that every system can keep: of filed files everywhere, of strays and folders where they stand. */
async function legally(house: House, found: readonly FindingRow[]): Promise<Draft> {
  const places = await placesStanding(house);
  const filed = new Map((await filedRows(house, found)).map((row) => [row.filedItemId, row]));
  const folders = [...new Set(found.map(({ path }) => folderOf(path)))];
  const taken = new Set(await namesInFolders(house.db, folders));
  for (const { root, standing } of places)
    if (standing.online)
      for (const folder of folders) for (const name of await namesOf(root, folder)) taken.add(foldName(pathIn(folder, name)));
  const names: Named[] = [];
  const here: Here[] = [];
  const parts: Draft[] = [];
  for (const one of found) {
    const to = legalPath(one.path, (folded) => taken.has(folded));
    taken.add(foldName(to));
    const row = one.filedItemId === null ? undefined : filed.get(one.filedItemId);
    if (row) names.push(named(row, to, row.n));
    else if ((await filedIn(house.db, one.path, 1)).length) parts.push(await renamingFolder(house, one.path, to));
    else
      here.push({
        placeId: one.placeId,
        what: (await isFolderAt(places, one)) ? 'folder' : 'file',
        filedItemId: null,
        from: one.path,
        to,
      });
  }
  return {
    kind: 'mend',
    words: '',
    names: [...names, ...parts.flatMap((part) => part.names)],
    here,
    faults: parts.flatMap((part) => part.faults ?? []),
  };
}

async function filedRows(house: House, found: readonly FindingRow[]): Promise<FiledRow[]> {
  const ids = found.flatMap(({ filedItemId }) => filedItemId ?? []);
  return ids.length ? filedWithCompanions(house.db, await itemsOfFiled(house.db, ids)) : [];
}

/** Places that are to hold what stands on one device only get copies. */
async function copiesFor(house: House, folder: string, placeId: string): Promise<Draft> {
  const others = (await placesStanding(house)).filter(({ id, known }) => id !== placeId && known);
  const rows = await heldIn(house.db, folder);
  const wishes = others.flatMap(({ id, name, holds }) =>
    rows.filter((row) => mustHold(holds, row)).map(({ filedItemId }) => ({ filedItemId, placeId: id, name })),
  );
  if (!wishes.length)
    return { kind: 'mend', words: '', names: [], faults: [{ path: folder, why: 'no other place of the house is to hold it' }] };
  const names = [...new Set(wishes.map(({ name }) => name))];
  const wish = wishes.map(({ filedItemId, placeId: id }) => ({ filedItemId, placeId: id }));
  const also = [`What stands alone in ${folder || 'the root'} is copied to ${names.join(' and ')}.`];
  return { kind: 'mend', words: '', names: [], also, wish };
}
